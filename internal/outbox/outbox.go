// Package outbox sends the letters that wait. One worker looks for letters
// whose time has come when it is woken, and otherwise when the next one is due.
package outbox

import (
	"context"
	"log/slog"
	"time"

	"lucidletter/internal/app"
)

// idle is the longest time between two looks; it covers a clock that was set.
const idle = time.Minute

// batch is how many letters are looked up at once.
const batch = 50

// Worker sends letters for an App until its context ends.
type Worker struct {
	app  *app.App
	log  *slog.Logger
	wake chan struct{}
}

// New makes a worker and has the App wake it.
func New(a *app.App, log *slog.Logger) *Worker {
	w := &Worker{app: a, log: log, wake: make(chan struct{}, 1)}
	a.Wake = func() {
		select {
		case w.wake <- struct{}{}:
		default:
		}
	}
	return w
}

// Run settles what a crash left behind and then sends until ctx ends. It
// returns when the letter in hand is settled.
func (w *Worker) Run(ctx context.Context) {
	if err := w.app.Recover(ctx); err != nil {
		w.log.Error("recover the outbox", "error", err)
	}
	for ctx.Err() == nil {
		wait := w.round(ctx)
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
		case <-w.wake:
		case <-timer.C:
		}
		timer.Stop()
	}
}

// round sends everything that is due and tells how long to wait.
func (w *Worker) round(ctx context.Context) time.Duration {
	for ctx.Err() == nil {
		ids, next, err := w.app.Store.Due(ctx, w.app.Now().UTC(), batch)
		if err != nil {
			w.log.Error("look for due letters", "error", err)
			return idle
		}
		for _, id := range ids {
			if ctx.Err() != nil {
				return 0
			}
			if err := w.app.Deliver(ctx, id); err != nil {
				w.log.Error("send letter", "letter", id, "error", err)
				return idle // the store fails: do not spin
			}
		}
		if len(ids) < batch {
			if next == nil {
				return idle
			}
			return max(0, min(idle, next.Sub(w.app.Now())))
		}
	}
	return 0
}
