package plans

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// The names of what is read, for the marks up to where it was.
const (
	historyMark = "runs: history"
	recordsMark = "runs: records"
)

// eventsAtOnce is how many events are read in one transaction.
const eventsAtOnce = 100

// readHistory stops and delays runs by what happened to their people. It tells whether there
// may be more.
func (a *Service) readHistory(ctx context.Context) (more bool, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		mark, err := a.store.ReadMark(ctx, historyMark)
		if err != nil {
			return err
		}
		list, last, err := a.store.RunEvents(ctx, mark, eventsAtOnce)
		more = len(list) == eventsAtOnce
		if err != nil || last == mark {
			return err
		}
		for i := range list {
			if err := a.onEvent(ctx, &list[i]); err != nil {
				return err
			}
		}
		return a.store.SetReadMark(ctx, historyMark, last)
	})
	return more, err
}

func (a *Service) onEvent(ctx context.Context, e *domain.RunEvent) error {
	what := plan.OnEvent(e.Kind)
	r, err := a.store.Run(ctx, e.RunID)
	if err != nil || r.State.Over() || e.At.Before(r.StartedAt) {
		return err
	}
	if what.Delays {
		return a.delayUntil(ctx, &r, e.BackOn)
	}
	if !what.Stops {
		return nil
	}
	p, err := a.store.Plan(ctx, r.PlanID)
	if err != nil {
		return err
	}
	return a.end(ctx, &p, &r, domain.RunStopped, what.Why)
}

// delayUntil has the next step of a run come on the morning of a day that was stated, or
// later. Without a day nothing changes.
func (a *Service) delayUntil(ctx context.Context, r *domain.Run, day string) error {
	back, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return nil
	}
	person, err := a.store.Person(ctx, r.PersonID)
	if err != nil {
		return err
	}
	u, err := a.store.User(ctx, r.OwnerID)
	if err != nil {
		return err
	}
	w, _ := whereOf(&u, person.TimeZone, person.Country, &r.Said)
	until := plan.At(plan.DayOf(back), plan.MorningHour*60, w.Theirs.Zone).UTC()
	if r.NotBefore != nil && !r.NotBefore.Before(until) {
		return nil
	}
	if r.NotBefore = &until; r.StepAt != nil && r.StepAt.Before(until) {
		p, err := a.store.Plan(ctx, r.PlanID)
		if err != nil {
			return err
		}
		r.StepAt = &until
		if s := p.Said.Step(r.StepKey); s != nil {
			k := &maker{a: a, u: u}
			r.StepAt = new(k.slotOf(s, r, person.TimeZone, person.Country, a.now()).At.UTC())
		}
		if err := a.entry(ctx, r, nil, fmt.Sprintf("The plan “%s” waits until %s, when they are back", p.Name, back.Format("2 January 2006"))); err != nil {
			return err
		}
	}
	return a.store.UpdateRun(ctx, *r)
}

// readRecords stops runs by what changed on records.
func (a *Service) readRecords(ctx context.Context) (more bool, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		mark, err := a.store.ReadMark(ctx, recordsMark)
		if err != nil {
			return err
		}
		list, err := a.store.RecordEvents(ctx, mark, eventsAtOnce)
		more = len(list) == eventsAtOnce
		if err != nil || len(list) == 0 {
			return err
		}
		for i := range list {
			if err := a.onChange(ctx, &list[i]); err != nil {
				return err
			}
		}
		return a.store.SetReadMark(ctx, recordsMark, list[len(list)-1].ID)
	})
	return more, err
}

func (a *Service) onChange(ctx context.Context, e *domain.RecordEvent) error {
	why := ""
	var runs []int64
	var err error
	switch {
	case e.Kind == "deleted" && e.PersonID != nil:
		if runs, err = a.store.RunsIn(ctx, *e.PersonID); err == nil && len(runs) > 0 {
			why, err = a.goneWhy(ctx, *e.PersonID)
		}
	case e.DealID == nil:
		return nil
	case e.Kind == "deleted":
		why = "The deal was deleted"
	case e.Kind == "changed" && e.Path == "deal.stage" && !(domain.Deal{Stage: e.Value}).Open():
		why = "The deal was " + e.Value
	}
	if err == nil && why != "" && e.DealID != nil {
		runs, err = a.store.RunsOfDeal(ctx, *e.DealID)
	}
	if err != nil || why == "" {
		return err
	}
	for _, id := range runs {
		r, err := a.store.Run(ctx, id)
		if err != nil {
			return err
		}
		if e.At.Before(r.StartedAt) || e.Kind == "deleted" && e.DealID != nil && r.DealID == nil {
			continue
		}
		p, err := a.store.Plan(ctx, r.PlanID)
		if err != nil {
			return err
		}
		if err := a.end(ctx, &p, &r, domain.RunStopped, why); err != nil {
			return err
		}
	}
	return nil
}

// idle is the longest time between two looks. What happens to people is read as often, so that
// a plan stops soon after an answer; a clock that was set is noticed too.
const idle = 2 * time.Second

// soon is the shortest: a step that is due may be in somebody else's hand.
const soon = 50 * time.Millisecond

// Run takes steps until ctx ends. Failures are told to failed; it goes on after a while.
func (a *Service) Run(ctx context.Context, failed func(error)) {
	if err := a.store.LetGo(ctx); err != nil && ctx.Err() == nil {
		failed(err)
	}
	forgot := time.Time{}
	for ctx.Err() == nil {
		wait := idle
		if now := a.now(); now.Sub(forgot) > 24*time.Hour || now.Before(forgot) {
			if err := a.store.ForgetEvents(ctx, now.Add(-keepEvents)); err != nil && ctx.Err() == nil {
				failed(err)
			}
			forgot = now
		}
		next, err := a.Work(ctx)
		switch {
		case err != nil && ctx.Err() == nil:
			failed(err)
			wait = 5 * time.Second
		case next != nil:
			wait = max(soon, min(idle, next.Sub(a.now())))
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

// nudge has the worker look soon.
func (a *Service) nudge() {
	select {
	case a.woken <- struct{}{}:
	default:
	}
}

// Work does what is to be done now: it reads what happened to people on plans, has standing
// orders act, goes on where
// letters were proofread, and takes the steps that are due, one transaction each. It tells when
// the next step is due, nil when none is. A step that fails is told, and the others are taken.
func (a *Service) Work(ctx context.Context) (*time.Time, error) {
	if err := a.store.DateEvents(ctx, a.now()); err != nil {
		return nil, err
	}
	for _, read := range []func(context.Context) (bool, error){a.readHistory, a.readRecords} {
		for more := true; more && ctx.Err() == nil; {
			var err error
			if more, err = read(ctx); err != nil {
				return nil, err
			}
		}
	}
	var failed []error
	moreOrders, err := a.actOrders(ctx)
	if err != nil {
		failed = append(failed, err)
	}
	ids, err := a.store.Proofread(ctx, atOnce)
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	for _, id := range ids {
		if err := a.proofread(ctx, id); err != nil {
			failed = append(failed, fmt.Errorf("run %d: %w", id, err))
		}
	}
	due, err := a.store.ClaimRuns(ctx, a.now(), leaseFor, atOnce)
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	for _, id := range due {
		if ctx.Err() != nil {
			return nil, errors.Join(failed...)
		}
		switch sent, err := a.take(ctx, id); {
		case err != nil:
			failed = append(failed, fmt.Errorf("run %d: %w", id, err))
		case sent:
			a.wake()
		}
	}
	if len(failed) > 0 {
		return nil, errors.Join(failed...)
	}
	if len(due) == atOnce || moreOrders {
		return new(a.now()), nil
	}
	return a.store.NextStepAt(ctx)
}
