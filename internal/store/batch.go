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
	b := &batch{letters: map[int64]domain.Letter{}, people: map[int64]domain.Person{}, users: map[int64]domain.User{}, teams: map[int64]domain.Team{}, froms: map[int64][]domain.FromAddress{}}
	letters, err := s.LettersOf(ctx, letterIDs)
	if err != nil {
		return nil, err
	}
	var to []int64
	var keys []string
	for i := range letters {
		l := &letters[i]
		b.letters[l.ID] = *l
		to = append(to, l.PersonID)
		keys = append(keys, field.EmailKey(l.ToEmail))
	}
	people, err := s.PeopleOf(ctx, to)
	if err != nil {
		return nil, err
	}
	for i := range people {
		b.people[people[i].ID] = people[i]
	}
	if b.suppressions, err = s.Suppressions(ctx, keys...); err != nil {
		return nil, err
	}
	return context.WithValue(ctx, ofBatch{s}, b), nil
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
