package plans

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/worker"
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
	return a.readEvents(ctx, historyMark, func(ctx context.Context, mark int64, limit int) ([]readEvent, int64, error) {
		list, last, err := a.store.RunEvents(ctx, mark, limit)
		out := make([]readEvent, len(list))
		for i := range list {
			out[i] = readEvent{list[i].ID, func(ctx context.Context) error { return a.onEvent(ctx, &list[i]) }}
		}
		return out, last, err
	})
}

// readRecords stops runs by what changed on records.
func (a *Service) readRecords(ctx context.Context) (more bool, err error) {
	return a.readEvents(ctx, recordsMark, func(ctx context.Context, mark int64, limit int) ([]readEvent, int64, error) {
		list, err := a.store.RecordEvents(ctx, mark, limit)
		out := make([]readEvent, len(list))
		for i := range list {
			out[i] = readEvent{list[i].ID, func(ctx context.Context) error { return a.onChange(ctx, &list[i]) }}
			mark = max(mark, list[i].ID)
		}
		return out, mark, err
	})
}

// readEvent is something that happened, and what is to be done about it.
type readEvent struct {
	id  int64
	act func(context.Context) error
}

// readEvents does what is to be done about the events behind a mark, in one transaction. When
// that fails each gets one of its own, so that one that something goes wrong with is told, and
// holds up no other.
func (a *Service) readEvents(ctx context.Context, name string, from func(ctx context.Context, mark int64, limit int) (list []readEvent, last int64, err error)) (more bool, err error) {
	var list []readEvent
	last := int64(0)
	load := func(ctx context.Context) error {
		mark, err := a.store.ReadMark(ctx, name)
		if err != nil {
			return err
		}
		list, last, err = from(ctx, mark, eventsAtOnce)
		more = len(list) == eventsAtOnce
		if last == mark {
			last = 0
		}
		return err
	}
	together := func(ctx context.Context) error {
		if err := load(ctx); err != nil || last == 0 {
			return err
		}
		for _, e := range list {
			if err := e.act(ctx); err != nil {
				return err
			}
		}
		return a.store.SetReadMark(ctx, name, last)
	}
	err = worker.Guard(func() error { return a.store.Within(ctx, together) })
	if err == nil || last == 0 || !worker.Panicked(err) && !domain.Lasting(err) {
		return more, err
	}
	for _, e := range list {
		err := worker.Guard(func() error { return a.store.Within(ctx, e.act) })
		if err != nil && !worker.Panicked(err) && !domain.Lasting(err) {
			return true, err
		}
		if err != nil {
			a.failed(fmt.Errorf("%s: event %d: %w", name, e.id, err))
		}
	}
	return more, a.store.SetReadMark(ctx, name, last)
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
	w, _ := WhereOf(&u, person.TimeZone, person.Country, &r.Said)
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
			k := &maker{Maker: &compose.Maker{User: u}, a: a}
			r.StepAt = new(k.slotOf(s, r, person.TimeZone, person.Country, a.now()).At.UTC())
		}
		if err := a.entry(ctx, r, nil, fmt.Sprintf("The plan “%s” waits until %s, when they are back", p.Name, back.Format("2 January 2006"))); err != nil {
			return err
		}
	}
	return a.store.UpdateRun(ctx, *r)
}

// goneWhy says what became of a record that is deleted, "" of one that was put back.
func (a *Service) goneWhy(ctx context.Context, id int64) (string, error) {
	p, err := a.store.Person(ctx, id)
	if err != nil || p.DeletedAt == nil {
		return "", err
	}
	blockers, err := a.records.Blockers(ctx, &p, p.Email)
	if err != nil {
		return "", err
	}
	return endedBy(&blockers[0]), nil
}

func (a *Service) onChange(ctx context.Context, e *domain.RecordEvent) error {
	if e.Kind == "changed" && e.PersonID != nil {
		return a.writeAnew(ctx, *e.PersonID)
	}
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

// writeAnew has runs of a person that wait for a value take their step again: the record has
// another one by now. A letter that its owner has touched stays as it is.
func (a *Service) writeAnew(ctx context.Context, personID int64) error {
	runs, err := a.store.RunsIn(ctx, personID)
	if err != nil {
		return err
	}
	for _, id := range runs {
		r, err := a.store.Run(ctx, id)
		if err != nil {
			return err
		}
		if r.State != domain.RunWaiting || r.LetterID == nil {
			continue
		}
		l, err := a.store.Letter(ctx, *r.LetterID)
		if err != nil {
			return err
		}
		if l.State != domain.Draft || l.Version > 1 || l.DeletedAt != nil || len(l.Gaps()) == 0 {
			continue
		}
		if err := a.dropDraft(ctx, &r); err != nil {
			return err
		}
		r.State, r.Reason, r.StepAt = domain.RunGoing, "", new(a.now())
		if err := a.store.UpdateRun(ctx, r); err != nil {
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
	work := func(ctx context.Context) (*time.Time, error) {
		if now := a.now(); now.Sub(forgot) > 24*time.Hour || now.Before(forgot) {
			if err := a.store.ForgetEvents(ctx, now.Add(-keepEvents)); err != nil && ctx.Err() == nil {
				failed(err)
			}
			forgot = now
		}
		return a.Work(ctx)
	}
	(&worker.Loop{Work: work, Now: a.now, Woken: a.woken, Idle: idle, Soon: soon, Again: 5 * time.Second, Failed: failed}).Run(ctx)
}

// Nudge has the worker look soon.
func (a *Service) Nudge() {
	select {
	case a.woken <- struct{}{}:
	default:
	}
}

// Work does what is to be done now: it reads what happened to people on plans, has standing
// orders act, goes on where letters were proofread, and takes the steps that are due, one transaction each. It tells when
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
	moreOrders := false
	err := worker.Guard(func() (err error) {
		if a.acting != nil {
			moreOrders, err = a.acting(ctx)
		}
		return err
	})
	if err != nil {
		failed = append(failed, err)
	}
	ids, err := a.store.Proofread(ctx, atOnce)
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	for _, id := range ids {
		if err := worker.Guard(func() error { return a.proofread(ctx, id) }); err != nil {
			failed = append(failed, fmt.Errorf("run %d: %w", id, err), a.setAside(ctx, id, err))
		}
	}
	ahead, err := a.store.RunsAhead(ctx, a.now().Add(worker.ClockSlack), atOnce)
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	for _, id := range ahead {
		if err := worker.Guard(func() error { return a.begunAhead(ctx, id) }); err != nil {
			failed = append(failed, fmt.Errorf("run %d: %w", id, err), a.setAside(ctx, id, err))
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
		sent := false
		err := worker.Guard(func() (err error) {
			sent, err = a.take(ctx, id)
			return err
		})
		if err != nil {
			failed = append(failed, fmt.Errorf("run %d: %w", id, err), a.setAside(ctx, id, err))
		} else if sent {
			a.wake()
		}
	}
	if len(failed) > 0 {
		return nil, errors.Join(failed...)
	}
	if len(due) == atOnce || len(ahead) == atOnce || moreOrders {
		return new(a.now()), nil
	}
	return a.store.NextStepAt(ctx)
}

// begunAhead reckons the next step of a run from now, which went on while the clock was ahead: it
// does not wait until it is then again. A day that its owner named stays.
func (a *Service) begunAhead(ctx context.Context, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.store.Run(ctx, id)
		if err != nil || r.State != domain.RunGoing {
			return err
		}
		p, err := a.store.Plan(ctx, r.PlanID)
		if err != nil {
			return err
		}
		u, err := a.store.User(ctx, r.OwnerID)
		if err != nil {
			return err
		}
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		r.FromAt = a.now()
		return a.goOn(ctx, k, &p, &r)
	})
}

// brokenWhy is why a run waits that something went wrong with.
const brokenWhy = "Something unexpected happened with this step; it was noted for the administrator. Try it again, or skip it"

// setAside has a run wait for its owner that something went wrong with, unless it is the
// store that fails.
func (a *Service) setAside(ctx context.Context, id int64, why error) error {
	if !worker.Panicked(why) && !domain.Lasting(why) {
		return nil
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.store.Run(ctx, id)
		if err != nil || r.State.Over() {
			return err
		}
		r.State, r.Reason, r.StepAt, r.LetterID = domain.RunWaiting, brokenWhy, nil, nil
		return a.store.UpdateRun(ctx, r)
	})
}
