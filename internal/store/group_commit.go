package store

import (
	"context"
	"sync"

	"lucidletter/internal/app/worker"
)

// groupCommit stores small changes of several callers in one transaction: who comes while
// one is being stored waits, and is stored with the others that wait. One that fails
// undoes none of the others'.
type groupCommit struct {
	mu      sync.Mutex
	storing bool
	waiting []*change
}

type change struct {
	do   func(context.Context) error
	err  error
	done chan struct{}
}

// most is how many changes are stored at once.
const most = 64

// GroupCommit does a change and tells whether it was stored. Several that come at once are
// stored in one transaction, each all or nothing. It is never called within a transaction:
// the changes of others would end with it.
func (s *Store) GroupCommit(ctx context.Context, do func(context.Context) error) error {
	return s.group.commit(ctx, s.Within, do)
}

// within runs a function in one transaction.
type within func(context.Context, func(context.Context) error) error

func (t *groupCommit) commit(ctx context.Context, within within, do func(context.Context) error) error {
	c := &change{do: do, done: make(chan struct{})}
	t.mu.Lock()
	t.waiting = append(t.waiting, c)
	if t.storing {
		t.mu.Unlock()
		<-c.done
		return c.err
	}
	t.storing = true
	t.mu.Unlock()
	// The first one stores for all; its caller going away does not keep the others from it.
	keep := context.WithoutCancel(ctx)
	for {
		t.mu.Lock()
		list := t.waiting[:min(most, len(t.waiting))]
		t.waiting = t.waiting[len(list):]
		if len(list) == 0 {
			t.storing, t.waiting = false, nil
			t.mu.Unlock()
			return c.err
		}
		t.mu.Unlock()
		storeAll(keep, within, list)
	}
}

// run does a change; a panic in it is its own error, so that nobody waits for ever who
// waits with it.
func (c *change) run(ctx context.Context) error {
	return worker.Guard(func() error { return c.do(ctx) })
}

func storeAll(ctx context.Context, within within, list []*change) {
	defer func() {
		for _, c := range list {
			close(c.done)
		}
	}()
	if len(list) == 1 {
		list[0].err = within(ctx, list[0].run)
		return
	}
	err := within(ctx, func(ctx context.Context) error {
		for _, c := range list {
			if err := c.run(ctx); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil {
		return
	}
	for _, c := range list { // each by itself, so that only what is wrong fails
		c.err = within(ctx, c.run)
	}
}
