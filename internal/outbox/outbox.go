// Package outbox sends the letters that wait. One dispatcher looks for letters whose
// time has come when it is woken, and otherwise when the next one is due. Each account
// has a queue of its own; a slow server holds up no other.
package outbox

import (
	"context"
	"log/slog"
	"runtime"
	"sync"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// idle is the longest time between two looks; it covers a clock that was set.
const idle = time.Minute

// again is after how long a store that failed is tried again: it may have been full.
const again = 15 * time.Second

// batch is how many letters are looked up at once, and wait in a queue at most.
const batch = 64

// Worker sends letters for an App until its context ends.
type Worker struct {
	app  *app.App
	log  *slog.Logger
	wake chan struct{}

	// computing bounds who works on letters in hand: one processor is left to those who
	// speak to servers, which are many short steps that would each wait for one.
	computing chan struct{}
	queues    sync.WaitGroup
	ended     chan outbound.Ended
	mu        sync.Mutex
	byID      map[int64]*accountQueue
	claimed   map[int64]bool // letters that stand in a queue; true when they are due again
	stalled   bool           // the store fails
}

// New makes a worker and has the App wake it.
func New(a *app.App, log *slog.Logger) *Worker {
	w := &Worker{
		app: a, log: log, wake: make(chan struct{}, 1), ended: make(chan outbound.Ended, batch), byID: map[int64]*accountQueue{}, claimed: map[int64]bool{},
		computing: make(chan struct{}, max(1, runtime.GOMAXPROCS(0)-1)),
	}
	a.Wake = w.Wake
	return w
}

// Wake has the worker look for letters now.
func (w *Worker) Wake() {
	select {
	case w.wake <- struct{}{}:
	default:
	}
}

// Run settles what a crash left behind and then sends until ctx ends. It
// returns when the letters in hand are settled.
func (w *Worker) Run(ctx context.Context) {
	if err := w.app.Outbound.Recover(ctx); err != nil {
		w.log.Error("recover the outbox", "error", err)
	}
	var settling sync.WaitGroup
	settling.Go(func() { w.settle(ctx) })
	// Nothing in hand is left, also when a queue ends while it is given letters.
	defer settling.Wait()
	defer close(w.ended)
	defer w.queues.Wait()
	for ctx.Err() == nil {
		wait := idle
		if err := worker.Guard(func() error { wait = w.round(ctx); return nil }); err != nil {
			w.log.Error("look for letters", "error", err)
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
		case <-w.wake:
		case <-timer.C:
		}
		timer.Stop()
	}
}

// round puts everything that is due into its queue and tells how long to wait.
func (w *Worker) round(ctx context.Context) time.Duration {
	now := w.app.Now().UTC()
	w.release(ctx, now)
	w.mu.Lock()
	stalled, held := w.stalled, len(w.claimed)
	w.stalled = false
	w.mu.Unlock()
	if stalled {
		return again // do not spin
	}
	if hold, err := w.app.Outbound.OutboxHold(ctx); err != nil || hold.Why != "" {
		if err != nil {
			w.log.Error("look whether letters are on hold", "error", err)
		}
		return idle
	}
	list, next, err := w.app.Outbound.Due(ctx, now, batch+held)
	if err != nil {
		w.log.Error("look for due letters", "error", err)
		return idle
	}
	accounts := map[string]domain.Account{}
	for _, l := range list {
		who := l.From + " " + time.Duration(l.SenderID).String()
		acc, known := accounts[who]
		if !known {
			if acc, err = w.app.Team.AccountFor(ctx, l.SenderID, l.From); err != nil {
				w.log.Error("look for account", "error", err)
				return idle
			}
			accounts[who] = acc
		}
		w.give(ctx, &acc, l.ID)
	}
	if next == nil {
		return idle
	}
	return max(0, min(idle, next.Sub(w.app.Now())))
}

// release takes letters back from whoever had them in hand for too long, unless that
// is a queue of this worker.
func (w *Worker) release(ctx context.Context, now time.Time) {
	ids, err := w.app.Outbound.Expired(ctx, now)
	if err != nil {
		w.log.Error("look for expired letters", "error", err)
	}
	for _, id := range ids {
		w.mu.Lock()
		_, ours := w.claimed[id]
		w.mu.Unlock()
		if ours {
			continue
		}
		if err := w.app.Outbound.Release(ctx, id); err != nil {
			w.log.Error("release letter", "letter", id, "error", err)
		}
	}
}

// failed notes that the store or the journal failed.
func (w *Worker) failed(doing string, err error) {
	w.log.Error(doing, "error", err)
	w.mu.Lock()
	w.stalled = true
	w.mu.Unlock()
}

// settle stores what came of letters, those together that ended meanwhile, until no
// queue is left.
func (w *Worker) settle(ctx context.Context) {
	for one := range w.ended {
		list := w.gatherEnded(one)
		w.computing <- struct{}{}
		err := w.app.Outbound.Settle(ctx, list)
		<-w.computing
		if err != nil && len(list) > 1 {
			err = w.settleEach(ctx, list)
		}
		for err != nil {
			w.failed("settle letters", err)
			if ctx.Err() != nil {
				break // the journal has them
			}
			select { // until then nothing else goes
			case <-ctx.Done():
			case <-time.After(again):
			}
			err = w.settleEach(ctx, list)
		}
		ids := make([]int64, len(list))
		for i := range list {
			ids[i] = list[i].ID()
		}
		w.let(ids...)
	}
}

// settleEach settles letters one by one, so that one that cannot be stored holds up no other: it
// stays in hand until its time there is over. It fails when the store takes none.
func (w *Worker) settleEach(ctx context.Context, list []outbound.Ended) error {
	var last error
	failed := 0
	for i := range list {
		if err := w.app.Outbound.Settle(ctx, list[i:i+1]); worker.Panicked(err) {
			w.log.Error("settle letter", "letter", list[i].ID(), "error", err)
		} else if err != nil {
			last = err
			failed++
		}
	}
	if failed == len(list) {
		return last
	}
	return nil
}

// together is for how long a letter that ended waits for others to be stored with.
const together = 5 * time.Millisecond

// gatherEnded gives a letter that ended with those that end together with it; alone when
// no other is on its way.
func (w *Worker) gatherEnded(one outbound.Ended) []outbound.Ended {
	list := []outbound.Ended{one}
	w.mu.Lock()
	claimed := len(w.claimed)
	w.mu.Unlock()
	enough := time.NewTimer(together)
	defer enough.Stop()
	for len(list) < min(batch, claimed) {
		select {
		case next, open := <-w.ended:
			if !open {
				return list
			}
			list = append(list, next)
		case <-enough.C:
			return list
		}
	}
	return list
}

// let says that letters are in no queue any more; those that came due again while they were
// are looked at at once.
func (w *Worker) let(ids ...int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for _, id := range ids {
		if w.claimed[id] {
			w.Wake()
		}
		delete(w.claimed, id)
	}
}
