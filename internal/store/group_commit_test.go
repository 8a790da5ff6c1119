package store

import (
	"context"
	"strings"
	"sync"
	"testing"
	"time"
)

// oneStore does everything that is asked within it, one after another.
type oneStore struct{ mu sync.Mutex }

func (s *oneStore) Within(ctx context.Context, f func(context.Context) error) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return f(ctx)
}

// A change that panics fails alone: those that are stored with it are, and those after
// it are not left waiting.
func TestGroupCommit_panics(t *testing.T) {
	var all groupCommit
	store, began, wait := &oneStore{}, make(chan struct{}), make(chan struct{})
	errs := make(chan error, 4)
	go func() {
		errs <- all.commit(context.Background(), store.Within, func(ctx context.Context) error { close(began); <-wait; panic("broken") })
	}()
	<-began
	done := 0
	for i := range 3 {
		go func() {
			errs <- all.commit(context.Background(), store.Within, func(ctx context.Context) error {
				if i == 1 {
					panic("broken too")
				}
				done++
				return nil
			})
		}()
	}
	for waiting := 0; waiting < 3; { // until they wait for the first
		all.mu.Lock()
		waiting = len(all.waiting)
		all.mu.Unlock()
	}
	close(wait)
	failed := 0
	for range 4 {
		select {
		case err := <-errs:
			if err != nil && strings.Contains(err.Error(), "broken") {
				failed++
			}
		case <-time.After(time.Minute): // it hangs
			t.Fatal("somebody is left waiting")
		}
	}
	if failed != 2 || done < 2 {
		t.Errorf("%d failed, %d done", failed, done)
	}
	if err := all.commit(context.Background(), store.Within, func(ctx context.Context) error { return nil }); err != nil {
		t.Error(err)
	}
}
