package store

import (
	"context"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// batch holds what several letters need that are put together in one go.
type batch struct {
	letters      map[int64]domain.Letter
	people       map[int64]domain.Person
	suppressions map[string]domain.Suppression
	users        map[int64]domain.User
	teams        map[int64]domain.Team
	froms        map[int64][]domain.FromAddress
}

// ofBatch is the key of the batch of a store.
type ofBatch struct{ *Store }

func (s *Store) batch(ctx context.Context) *batch {
	b, _ := ctx.Value(ofBatch{s}).(*batch)
	return b
}

// ReadBatch reads letters, the people they go to and what keeps them from going, and gives
// a context with which these and their senders are read once. The context is for one
// goroutine, and for as long as the letters are put together.
func (s *Store) ReadBatch(ctx context.Context, letterIDs []int64) (context.Context, error) {
	letters, err := s.LettersOf(ctx, letterIDs)
	if err != nil {
		return nil, err
	}
	var to []int64
	var keys []string
	for i := range letters {
		to = append(to, letters[i].PersonID)
		keys = append(keys, field.EmailKey(letters[i].ToEmail))
	}
	ctx, b, err := s.readBatch(ctx, to, keys)
	for i := range letters {
		b.letters[letters[i].ID] = letters[i]
	}
	return ctx, err
}

// ReadPeople does the same for people to whom letters are to be put together.
func (s *Store) ReadPeople(ctx context.Context, ids []int64) (context.Context, error) {
	ctx, b, err := s.readBatch(ctx, ids, nil)
	if err != nil {
		return nil, err
	}
	var keys []string
	for _, p := range b.people {
		if p.Email != "" {
			keys = append(keys, field.EmailKey(p.Email))
		}
	}
	b.suppressions, err = s.Suppressions(ctx, keys...)
	return ctx, err
}

func (s *Store) readBatch(ctx context.Context, to []int64, keys []string) (context.Context, *batch, error) {
	b := &batch{letters: map[int64]domain.Letter{}, people: map[int64]domain.Person{}, users: map[int64]domain.User{}, teams: map[int64]domain.Team{}, froms: map[int64][]domain.FromAddress{}}
	people, err := s.PeopleOf(ctx, to)
	if err != nil {
		return ctx, b, err
	}
	for i := range people {
		b.people[people[i].ID] = people[i]
	}
	b.suppressions, err = s.Suppressions(ctx, keys...)
	return context.WithValue(ctx, ofBatch{s}, b), b, err
}

// suppressed gives what keeps letters from addresses when the batch knows of all of them.
func (b *batch) suppressed(keys []string) (map[string]domain.Suppression, bool) {
	if b == nil {
		return nil, false
	}
	for _, key := range keys {
		if _, ok := b.suppressions[key]; !ok {
			return nil, false
		}
	}
	return b.suppressions, true
}

// readOnce reads what had does not hold yet; a nil one holds nothing.
func readOnce[V any](had map[int64]V, id int64, read func() (V, error)) (V, error) {
	if v, ok := had[id]; ok {
		return v, nil
	}
	v, err := read()
	if err == nil && had != nil {
		had[id] = v
	}
	return v, err
}
