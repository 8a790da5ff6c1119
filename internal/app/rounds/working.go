package rounds

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// idle is the longest time between two looks; it covers a clock that was set.
const idle = time.Minute

// look has the people of a round checked soon.
func (a *Service) look(id int64) {
	a.mu.Lock()
	a.looks[id] = true
	a.mu.Unlock()
	a.Nudge()
}

// Nudge has the worker look soon.
func (a *Service) Nudge() {
	select {
	case a.woken <- struct{}{}:
	default:
	}
}

// stillGood is how long what others do beside a round is not looked at again, while
// somebody looks at it: their letters and rounds, companies and deals.
const stillGood = 5 * time.Minute

// checkAll has everybody of a round checked that was not for a while.
func (a *Service) checkAll(ctx context.Context, r *domain.Round) error {
	now := a.now()
	a.mu.Lock()
	last, known := a.checked[r.ID]
	fresh := known && now.Sub(last) < stillGood && !now.Before(last)
	if !fresh {
		a.checked[r.ID] = now
	}
	a.mu.Unlock()
	if fresh {
		return nil
	}
	return a.store.CheckAgain(ctx, r.ID, "")
}

// Run checks and sends rounds until ctx ends, those first that the program was ended in.
// Failures are told to failed; it goes on after a while.
func (a *Service) Run(ctx context.Context, failed func(error)) {
	(&worker.Loop{Work: a.Work, Now: a.now, Woken: a.woken, Idle: idle, Again: 5 * time.Second, Failed: failed}).Run(ctx)
}

// Work does what is to be done now: it checks people of rounds that somebody looks at, puts
// letters that are due into the outbox, and does what happens afterwards. It tells when there
// is more to do, nil for not before somebody asks. Between two steps others write. A round that
// something goes wrong with is set aside and holds up no other.
func (a *Service) Work(ctx context.Context) (*time.Time, error) {
	var failed []error
	for _, id := range a.toLookAt() {
		err := worker.Guard(func() error { return a.Check(ctx, id) })
		if err != nil && !worker.Panicked(err) && !domain.Lasting(err) {
			a.look(id)
		}
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			failed = append(failed, fmt.Errorf("check round %d: %w", id, err))
		}
	}
	for more := true; more; {
		var err error
		if more, err = a.follow(ctx); err != nil {
			failed = append(failed, err)
			break
		}
	}
	list, err := a.store.RoundsIn(ctx, domain.RoundSending, domain.RoundPaused)
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	var soonest *time.Time
	for i := range list {
		var next *time.Time
		err := worker.Guard(func() (err error) {
			if list[i].State == domain.RoundPaused {
				return a.holdAgain(ctx, list[i].ID)
			}
			next, err = a.release(ctx, list[i].ID)
			return err
		})
		if err != nil {
			failed = append(failed, fmt.Errorf("round %d: %w", list[i].ID, err), a.setAside(ctx, list[i].ID, err))
		} else if next != nil && (soonest == nil || next.Before(*soonest)) {
			soonest = next
		}
	}
	return soonest, errors.Join(failed...)
}

func (a *Service) toLookAt() []int64 {
	a.mu.Lock()
	defer a.mu.Unlock()
	ids := slices.Sorted(maps.Keys(a.looks))
	clear(a.looks)
	return ids
}

// brokenWhy is why a round is paused that something went wrong with.
const brokenWhy = "Something unexpected happened; it was noted for the administrator. Go on to try again"

// setAside pauses a round that something went wrong with, unless it is the store that fails.
func (a *Service) setAside(ctx context.Context, id int64, why error) error {
	if !worker.Panicked(why) && !domain.Lasting(why) {
		return nil
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.store.Round(ctx, id)
		if err != nil || r.State != domain.RoundSending {
			return err
		}
		return a.pause(ctx, &r, brokenWhy)
	})
}

// holdAgain holds letters of a paused round that were being handed over when it was paused,
// and that the server wants to see again later.
func (a *Service) holdAgain(ctx context.Context, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.store.Round(ctx, id)
		if err != nil || r.State != domain.RoundPaused {
			return err
		}
		return a.store.HoldLetters(ctx, id, nil, pausedWhy, a.now())
	})
}
