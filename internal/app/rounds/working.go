package rounds

import (
	"context"
	"errors"
	"slices"
	"time"

	"lucidletter/internal/domain"
)

// idle is the longest time between two looks; it covers a clock that was set.
const idle = time.Minute

// look has the people of a round checked soon.
func (a *Service) look(id int64) {
	a.mu.Lock()
	a.looks[id] = true
	a.mu.Unlock()
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
	for ctx.Err() == nil {
		wait := idle
		next, err := a.Work(ctx)
		switch {
		case err != nil && ctx.Err() == nil:
			failed(err)
			wait = 5 * time.Second
		case next != nil:
			wait = min(idle, next.Sub(a.now()))
		}
		timer := time.NewTimer(max(0, wait))
		select {
		case <-ctx.Done():
		case <-a.woken:
		case <-timer.C:
		}
		timer.Stop()
	}
}

// Work does what is to be done now: it checks people of rounds that somebody looks at, puts
// letters that are due into the outbox, and does what happens afterwards. It tells when there
// is more to do, nil for not before somebody asks. Between two steps others write.
func (a *Service) Work(ctx context.Context) (*time.Time, error) {
	a.mu.Lock()
	ids := make([]int64, 0, len(a.looks))
	for id := range a.looks {
		ids = append(ids, id)
	}
	clear(a.looks)
	a.mu.Unlock()
	slices.Sort(ids)
	for _, id := range ids {
		if err := a.Check(ctx, id); err != nil && !errors.Is(err, domain.ErrNotFound) {
			a.look(id)
			return nil, err
		}
	}
	for more := true; more; {
		var err error
		if more, err = a.follow(ctx); err != nil {
			return nil, err
		}
	}
	list, err := a.store.RoundsIn(ctx, domain.RoundSending, domain.RoundPaused)
	if err != nil {
		return nil, err
	}
	var soonest *time.Time
	for i := range list {
		if list[i].State == domain.RoundPaused {
			if err := a.holdAgain(ctx, list[i].ID); err != nil {
				return nil, err
			}
			continue
		}
		next, err := a.release(ctx, list[i].ID)
		if err != nil {
			return nil, err
		}
		if next != nil && (soonest == nil || next.Before(*soonest)) {
			soonest = next
		}
	}
	return soonest, nil
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

// reasonOf gives the words of an error that is for people.
func reasonOf(err error) (string, bool) {
	var state *domain.StateError
	var bad *domain.InvalidError
	switch {
	case errors.As(err, &state):
		return state.Why, true
	case errors.As(err, &bad):
		return bad.Error(), true
	}
	return "", false
}
