// Package lists answers questions about people, companies and deals: what fits a filter or a
// search, sorted, window by window, and how many that are.
package lists

import (
	"context"
	"errors"
	"fmt"
	"sync/atomic"

	"golang.org/x/sync/singleflight"

	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// Table satisfies the ports of lists. Make it with New.
type Table struct {
	db     database.DB
	Places *query.Places // where people stand in the whole list
	found  *query.FoundLists
	asked  *singleflight.Group // several who ask the same at once are answered once
}

// New gives the lists of a database.
func New(db database.DB) *Table {
	return &Table{db, &query.Places{}, &query.FoundLists{}, &singleflight.Group{}}
}

// together finds something out once for all who ask for the same at the same time. Who gives up
// does not end the question for the others: they ask anew.
func together[T any](ctx context.Context, s *Table, key string, find func() (T, error)) (T, error) {
	for {
		var mine atomic.Bool
		answer := s.asked.DoChan(key, func() (any, error) { mine.Store(true); return find() })
		select {
		case <-ctx.Done():
			var none T
			return none, ctx.Err()
		case a := <-answer:
			if mine.Load() || !errors.Is(a.Err, context.Canceled) {
				out, _ := a.Val.(T)
				return out, a.Err
			}
		}
	}
}

// wrap says what was being done.
func wrap(what string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("%s: %w", what, err)
}
