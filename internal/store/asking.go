package store

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"

	"lucidletter/internal/domain"
)

// asking sees to it that long questions leave room for others: they have connections of their
// own, and nobody has more than two of them at once.
type asking struct {
	db   *sqlx.DB
	mu   sync.Mutex
	open map[int64]chan struct{} // of each user, one entry for each question under way

	waited atomic.Int64 // reads that somebody waits for
}

// Connections, and questions of one user, at once.
const (
	askers  = 4
	perUser = 2
)

func newAsking(db *sqlx.DB) *asking {
	db.SetMaxOpenConns(askers)
	return &asking{db: db, open: map[int64]chan struct{}{}}
}

// enter waits until a user may ask, or the context ends.
func (a *asking) enter(ctx context.Context, user int64) (leave func(), err error) {
	a.mu.Lock()
	room := a.open[user]
	if room == nil {
		room = make(chan struct{}, perUser)
		a.open[user] = room
	}
	a.mu.Unlock()
	select {
	case room <- struct{}{}:
		return func() { <-room }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// Ask reads into a number or a list by a query that was put together for this one time: it is
// not kept prepared, may take long, and ends when nobody waits for it any more. Who asks for an
// answer within some time is told when it takes longer.
func (s *Store) Ask(ctx context.Context, into any, query string, args ...any) error {
	who, limited := domain.AskingOf(ctx)
	within := ctx
	if limited {
		s.asking.waited.Add(1)
		defer s.asking.waited.Add(-1)
		var cancel context.CancelFunc
		within, cancel = context.WithTimeout(ctx, who.Long)
		defer cancel()
	}
	err := s.ask(within, who.User, into, query, args...)
	switch {
	case err != nil && ctx.Err() != nil:
		return ctx.Err()
	case err != nil && within.Err() != nil:
		return domain.TooLong(who.Long)
	}
	return err
}

func (s *Store) ask(ctx context.Context, user int64, into any, query string, args ...any) error {
	var db sqlx.QueryerContext = s.asking.db
	if t := s.within(ctx); t != nil {
		db = t
	} else if user != 0 {
		leave, err := s.asking.enter(ctx, user)
		if err != nil {
			return err
		}
		defer leave()
	}
	if _, number := into.(*int); number {
		return sqlx.GetContext(ctx, db, into, query, args...)
	}
	return sqlx.SelectContext(ctx, db, into, query, args...)
}

// InTransaction tells whether a context carries a transaction.
func (s *Store) InTransaction(ctx context.Context) bool { return s.within(ctx) != nil }

// givesWay is how much longer than it took a step of background work makes way for people.
const givesWay = 4

// Yield rests after a step of background work that took some time: a little, so that others write
// in between, and as long as people wait for answers, but never for more than some times the step.
func (s *Store) Yield(ctx context.Context, took time.Duration) {
	until := time.Now().Add(givesWay * took)
	for rest := took / 8; ; rest = 2 * time.Millisecond {
		timer := time.NewTimer(rest)
		select {
		case <-ctx.Done():
			timer.Stop()
			return
		case <-timer.C:
		}
		if s.asking.waited.Load() == 0 || time.Now().After(until) {
			return
		}
	}
}

// promptly limits what is read outside a transaction, and says so when it took too long.
func (s *Store) promptly(ctx context.Context, read func(context.Context) error) error {
	who, limited := domain.AskingOf(ctx)
	if !limited || s.within(ctx) != nil {
		return read(ctx)
	}
	s.asking.waited.Add(1)
	defer s.asking.waited.Add(-1)
	within, cancel := context.WithTimeout(ctx, who.Short)
	defer cancel()
	err := read(within)
	switch {
	case err != nil && ctx.Err() != nil:
		return ctx.Err()
	case err != nil && within.Err() != nil:
		return busyError{errors.New("it took too long to read")}
	}
	return err
}
