// Package outbox sends the letters that wait. One dispatcher looks for letters whose
// time has come when it is woken, and otherwise when the next one is due. Each account
// has a lane of its own, with as many letters in hand at once as the account takes
// connections, at its pace; a slow server holds up no other.
package outbox

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"lucidletter/internal/app"
)

// idle is the longest time between two looks; it covers a clock that was set.
const idle = time.Minute

// batch is how many letters are looked up at once, and wait in a lane at most.
const batch = 64

// Worker sends letters for an App until its context ends.
type Worker struct {
	app  *app.App
	log  *slog.Logger
	wake chan struct{}

	lanes   sync.WaitGroup
	mu      sync.Mutex
	byID    map[int64]*lane
	inHand  map[int64]bool // letters that stand in a lane
	stalled bool           // the store fails
}

// lane is the way of one account.
type lane struct {
	queue     chan int64
	perMinute int
	size      int
	mu        sync.Mutex
	next      time.Time // when the next letter may go
}

// New makes a worker and has the App wake it.
func New(a *app.App, log *slog.Logger) *Worker {
	w := &Worker{app: a, log: log, wake: make(chan struct{}, 1), byID: map[int64]*lane{}, inHand: map[int64]bool{}}
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
	if err := w.app.Recover(ctx); err != nil {
		w.log.Error("recover the outbox", "error", err)
	}
	// Nothing in hand is left, also when a lane ends while it is given letters.
	defer w.lanes.Wait()
	for ctx.Err() == nil {
		timer := time.NewTimer(w.round(ctx))
		select {
		case <-ctx.Done():
		case <-w.wake:
		case <-timer.C:
		}
		timer.Stop()
	}
}

// round puts everything that is due into its lane and tells how long to wait.
func (w *Worker) round(ctx context.Context) time.Duration {
	now := w.app.Now().UTC()
	w.release(ctx, now)
	w.mu.Lock()
	stalled, held := w.stalled, len(w.inHand)
	w.stalled = false
	w.mu.Unlock()
	if stalled {
		return idle // do not spin
	}
	list, next, err := w.app.Store.Due(ctx, now, batch+held)
	if err != nil {
		w.log.Error("look for due letters", "error", err)
		return idle
	}
	accounts := map[string]app.Account{}
	for _, l := range list {
		who := l.From + " " + time.Duration(l.SenderID).String()
		acc, known := accounts[who]
		if !known {
			if acc, err = w.app.AccountFor(ctx, l.SenderID, l.From); err != nil {
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
// is a lane of this worker.
func (w *Worker) release(ctx context.Context, now time.Time) {
	ids, err := w.app.Store.Expired(ctx, now)
	if err != nil {
		w.log.Error("look for expired letters", "error", err)
	}
	for _, id := range ids {
		w.mu.Lock()
		ours := w.inHand[id]
		w.mu.Unlock()
		if ours {
			continue
		}
		if err := w.app.Release(ctx, id); err != nil {
			w.log.Error("release letter", "letter", id, "error", err)
		}
	}
}

// give puts a letter into the lane of its account, if there is room.
func (w *Worker) give(ctx context.Context, acc *app.Account, id int64) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if w.inHand[id] {
		return
	}
	l := w.byID[acc.ID]
	if l == nil || l.size != acc.Connections {
		if l != nil {
			close(l.queue) // the account takes another number now
		}
		l = &lane{queue: make(chan int64, batch), size: acc.Connections}
		w.byID[acc.ID] = l
		for range max(1, acc.Connections) {
			w.lanes.Go(func() { w.serve(ctx, l) })
		}
	}
	l.mu.Lock()
	l.perMinute = acc.PerMinute
	l.mu.Unlock()
	select {
	case l.queue <- id:
		w.inHand[id] = true
	default: // the next round gives it
	}
}

// serve sends the letters of a lane, one after another.
func (w *Worker) serve(ctx context.Context, l *lane) {
	for {
		select {
		case <-ctx.Done():
			return
		case id, open := <-l.queue:
			if !open {
				return
			}
			if l.wait(ctx) {
				if err := w.app.Deliver(ctx, id); err != nil {
					w.log.Error("send letter", "letter", id, "error", err)
					w.mu.Lock()
					w.stalled = true
					w.mu.Unlock()
				}
			}
			w.mu.Lock()
			delete(w.inHand, id)
			w.mu.Unlock()
			if len(l.queue) == 0 {
				w.Wake()
			}
		}
	}
}

// wait waits for the pace of a lane; it tells false when ctx ended.
func (l *lane) wait(ctx context.Context) bool {
	l.mu.Lock()
	now := time.Now()
	var pause time.Duration
	if l.perMinute > 0 {
		if l.next.Before(now) {
			l.next = now
		}
		pause = l.next.Sub(now)
		l.next = l.next.Add(time.Minute / time.Duration(l.perMinute))
	}
	l.mu.Unlock()
	if pause <= 0 {
		return ctx.Err() == nil
	}
	timer := time.NewTimer(pause)
	defer timer.Stop()
	select {
	case <-ctx.Done():
		return false
	case <-timer.C:
		return true
	}
}
