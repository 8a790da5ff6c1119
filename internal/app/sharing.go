package app

import "context"

// sharing gives an App that reads what letters of one batch share once. It is used for
// as long as the batch is put together.
func (a *App) sharing() *App {
	out := *a
	out.Store = &once{
		Store: a.Store, users: map[int64]User{}, teams: map[int64]Team{}, froms: map[int64][]FromAddress{}, people: map[int64]Person{},
	}
	return &out
}

// once is a Store that reads some records once.
type once struct {
	Store
	users  map[int64]User
	teams  map[int64]Team
	froms  map[int64][]FromAddress
	people map[int64]Person
}

func (o *once) User(ctx context.Context, id int64) (User, error) {
	return readOnce(ctx, o.users, id, o.Store.User)
}

func (o *once) Team(ctx context.Context, id int64) (Team, error) {
	return readOnce(ctx, o.teams, id, o.Store.Team)
}

func (o *once) FromAddresses(ctx context.Context, userID int64) ([]FromAddress, error) {
	return readOnce(ctx, o.froms, userID, o.Store.FromAddresses)
}

func (o *once) Person(ctx context.Context, id int64) (Person, error) {
	return readOnce(ctx, o.people, id, o.Store.Person)
}

func readOnce[V any](ctx context.Context, had map[int64]V, id int64, read func(context.Context, int64) (V, error)) (V, error) {
	if v, ok := had[id]; ok {
		return v, nil
	}
	v, err := read(ctx, id)
	if err == nil {
		had[id] = v
	}
	return v, err
}
