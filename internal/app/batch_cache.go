package app

import (
	"context"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// sharing gives an App that has read letters of a batch, their people and what keeps them
// from going together, and reads what they share once. It is used for as long as the batch
// is put together.
func (a *App) sharing(ctx context.Context, ids []int64) (*App, error) {
	o := &batchCache{
		Store: a.Store, letters: map[int64]domain.Letter{}, people: map[int64]domain.Person{}, users: map[int64]domain.User{}, teams: map[int64]domain.Team{}, froms: map[int64][]domain.FromAddress{},
	}
	letters, err := a.Store.LettersOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	var to []int64
	var keys []string
	for i := range letters {
		l := &letters[i]
		o.letters[l.ID] = *l
		to = append(to, l.PersonID)
		keys = append(keys, field.EmailKey(l.ToEmail))
	}
	people, err := a.Store.PeopleOf(ctx, to)
	if err != nil {
		return nil, err
	}
	for _, p := range people {
		o.people[p.ID] = p
	}
	if o.barred, err = a.Store.Suppressions(ctx, keys...); err != nil {
		return nil, err
	}
	out := *a
	out.Store = o
	return &out, nil
}

// batchCache is a Store that reads some records once.
type batchCache struct {
	Store
	letters map[int64]domain.Letter
	people  map[int64]domain.Person
	barred  map[string]domain.Suppression
	users   map[int64]domain.User
	teams   map[int64]domain.Team
	froms   map[int64][]domain.FromAddress
}

func (o *batchCache) Letter(ctx context.Context, id int64) (domain.Letter, error) {
	return readOnce(ctx, o.letters, id, o.Store.Letter)
}

func (o *batchCache) Person(ctx context.Context, id int64) (domain.Person, error) {
	return readOnce(ctx, o.people, id, o.Store.Person)
}

func (o *batchCache) Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error) {
	for _, key := range keys {
		if _, ok := o.barred[key]; !ok {
			return o.Store.Suppressions(ctx, keys...)
		}
	}
	return o.barred, nil
}

func (o *batchCache) User(ctx context.Context, id int64) (domain.User, error) {
	return readOnce(ctx, o.users, id, o.Store.User)
}

func (o *batchCache) Team(ctx context.Context, id int64) (domain.Team, error) {
	return readOnce(ctx, o.teams, id, o.Store.Team)
}

func (o *batchCache) FromAddresses(ctx context.Context, userID int64) ([]domain.FromAddress, error) {
	return readOnce(ctx, o.froms, userID, o.Store.FromAddresses)
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
