package plans

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// Act is what the owner of a run does with it.
type Act string

// The acts.
const (
	ActStop   Act = "stop"
	ActPause  Act = "pause"
	ActGoOn   Act = "go on"  // after a pause; or past a letter that did not go
	ActSkip   Act = "skip"   // the next step
	ActNow    Act = "now"    // the next step comes at once
	ActDelay  Act = "delay"  // the next step comes not before a day
	ActRemake Act = "remake" // the letter is written anew, as the records are by now
)

// Do does something with a run. To is the day of ActDelay.
func (a *Service) Do(ctx context.Context, u domain.User, id int64, act Act, to string) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, p, err := a.mine(ctx, u, id)
		if err != nil {
			return err
		}
		if r.State.Over() {
			return &domain.StateError{Why: "This run is over; start the plan again if it is to go on."}
		}
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		switch act {
		case ActStop:
			return a.end(ctx, &p, &r, domain.RunStopped, "Stopped by "+u.Name())
		case ActPause:
			if r.State == domain.RunPaused {
				return nil
			}
			return a.pause(ctx, &r)
		case ActGoOn:
			return a.resume(ctx, k, &p, &r)
		case ActSkip:
			return a.skip(ctx, k, &p, &r)
		case ActNow:
			if r.State != domain.RunGoing {
				return &domain.StateError{Why: "Nothing of this run is waiting for a day. Let it go on first."}
			}
			now := a.now()
			r.StepAt, r.NotBefore, r.Said.Now = &now, nil, r.StepKey
			return a.store.UpdateRun(ctx, r)
		case ActDelay:
			return a.delay(ctx, k, &p, &r, to)
		case ActRemake:
			if r.State != domain.RunWaiting {
				return &domain.StateError{Why: "No letter of this run waits to be proofread."}
			}
			if err := a.dropDraft(ctx, &r); err != nil {
				return err
			}
			now := a.now()
			r.State, r.Reason, r.StepAt, r.Said.Now, r.Said.News, r.Said.Parts = domain.RunGoing, "", &now, r.StepKey, false, nil
			return a.store.UpdateRun(ctx, r)
		}
		return domain.Invalid("act", "%q is not known; choose stop, pause, go on, skip, now or delay", act)
	})
	a.Nudge()
	return err
}

// mine gives a run of the user with its plan; another one is ErrNotFound.
func (a *Service) mine(ctx context.Context, u domain.User, id int64) (domain.Run, domain.Plan, error) {
	r, err := a.store.Run(ctx, id)
	if err != nil {
		return r, domain.Plan{}, err
	}
	if domain.May(u, access.EditRun, access.Thing{OwnerID: r.OwnerID}) != nil {
		return r, domain.Plan{}, domain.ErrNotFound
	}
	p, err := a.store.Plan(ctx, r.PlanID)
	return r, p, err
}

// dropDraft discards the letter that waits to be proofread; it can be restored like any draft.
func (a *Service) dropDraft(ctx context.Context, r *domain.Run) error {
	if r.LetterID == nil {
		return nil
	}
	l, err := a.store.LetterHead(ctx, *r.LetterID)
	if err == nil && l.State == domain.Draft && l.DeletedAt == nil {
		err = a.store.DeleteDraft(ctx, l.ID, new(a.now()))
	}
	r.LetterID = nil
	return err
}

// resume has a run go on that was paused, or waits for a letter that did not go.
func (a *Service) resume(ctx context.Context, k *maker, p *domain.Plan, r *domain.Run) error {
	if r.State == domain.RunGoing {
		return nil
	}
	if r.LetterID != nil {
		l, err := a.store.LetterHead(ctx, *r.LetterID)
		if err != nil {
			return err
		}
		if l.DeletedAt == nil && l.State == domain.Draft {
			r.State, r.StepAt = domain.RunWaiting, nil
			if r.Reason == "" {
				r.Reason = "A letter waits to be proofread"
			}
			return a.store.UpdateRun(ctx, *r)
		}
		r.LetterID = nil
	}
	if err := a.forgetLast(ctx, r); err != nil {
		return err
	}
	return a.goOn(ctx, k, p, r)
}

// forgetLast has a run go on without its last letter, when that did not go and its owner has
// decided about it: a conversation begins anew.
func (a *Service) forgetLast(ctx context.Context, r *domain.Run) error {
	if r.LastID == nil {
		return nil
	}
	l, err := a.store.LetterHead(ctx, *r.LastID)
	if err != nil {
		return err
	}
	if l.State == domain.Refused || l.State == domain.Unsure || l.State == domain.Cancelled || l.State == domain.Draft && l.DeletedAt != nil {
		r.LastID = nil
	}
	return nil
}

// skip leaves out the next step.
func (a *Service) skip(ctx context.Context, k *maker, p *domain.Plan, r *domain.Run) error {
	s := p.Said.Step(r.StepKey)
	if s == nil {
		return &domain.StateError{Why: "Nothing comes any more that could be skipped."}
	}
	name, err := k.NameOf(ctx, s)
	if err != nil {
		return err
	}
	if err := a.dropDraft(ctx, r); err != nil {
		return err
	}
	if err := a.forgetLast(ctx, r); err != nil {
		return err
	}
	if err := a.store.AddRunStep(ctx, domain.RunStep{RunID: r.ID, StepKey: s.Key, What: "skipped", Name: name, At: a.now()}); err != nil {
		return err
	}
	paused := r.State == domain.RunPaused
	r.FromAt = a.now()
	if err := a.goOn(ctx, k, p, r); err != nil || !paused || r.State.Over() {
		return err
	}
	r.Version++
	return a.pause(ctx, r)
}

// delay has the next step come not before the morning of a day.
func (a *Service) delay(ctx context.Context, k *maker, p *domain.Plan, r *domain.Run, day string) error {
	to, err := time.Parse(time.DateOnly, day)
	now := a.now()
	switch {
	case err != nil:
		return domain.Invalid("to", "%q is no day; write it like 2026-12-03", day)
	case to.Sub(now) > desk.MaxAhead || now.Sub(to) > 24*time.Hour:
		return domain.Invalid("to", "is over, or more than a year ahead; choose a day in between")
	case r.State != domain.RunGoing:
		return &domain.StateError{Why: "Nothing of this run is waiting for a day. Let it go on first."}
	}
	person, err := a.store.Person(ctx, r.PersonID)
	if err != nil {
		return err
	}
	w, _ := WhereOf(&k.User, person.TimeZone, person.Country, &r.Said)
	until := plan.At(plan.DayOf(to), 0, w.Theirs.Zone).UTC()
	r.NotBefore = &until
	s := p.Said.Step(r.StepKey)
	if s == nil {
		return &domain.StateError{Why: "Nothing comes any more that could be put off."}
	}
	r.StepAt = new(k.slotOf(s, r, person.TimeZone, person.Country, now).At.UTC())
	return a.store.UpdateRun(ctx, *r)
}

// SetFills answers blanks of a run, for the letters that are still to come.
func (a *Service) SetFills(ctx context.Context, u domain.User, id int64, fills domain.Own) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		r, _, err := a.mine(ctx, u, id)
		if err != nil {
			return err
		}
		said := domain.RunSaid{Zone: r.Said.Zone, At: r.Said.At, Fills: fills}
		if err := said.Check(); err != nil {
			return err
		}
		r.Said.Fills = fills
		return a.store.UpdateRun(ctx, r)
	})
}

// RunLine is a run as lists show it.
type RunLine struct {
	domain.RunRow
	Next string // the name of the step that comes next
	Of   int    // how many steps the plan has
	Mine bool
}

// Runs lists runs that a user may see: of a plan that they may see, or of a person.
func (a *Service) Runs(ctx context.Context, u domain.User, q domain.RunsQuery) ([]RunLine, int, error) {
	if q.PlanID != 0 {
		if _, err := a.planFor(ctx, u, access.SeePlan, q.PlanID); err != nil {
			return nil, 0, err
		}
	} else if q.PersonID == 0 {
		q.OwnerID = u.ID
	}
	rows, total, err := a.store.Runs(ctx, q)
	if err != nil {
		return nil, 0, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return nil, 0, err
	}
	known := map[int64]*domain.Plan{}
	out := []RunLine{}
	for i := range rows {
		r := &rows[i]
		if known[r.PlanID] == nil {
			p, err := a.store.Plan(ctx, r.PlanID)
			if err != nil {
				return nil, 0, err
			}
			known[r.PlanID] = &p
		}
		one := RunLine{RunRow: *r, Of: len(known[r.PlanID].Said.Steps), Mine: r.OwnerID == u.ID}
		if p := known[r.PlanID]; !one.Mine && domain.May(u, access.SeePlan, p.Thing()) != nil {
			one.Plan, one.Reason = Unseen, ""
		} else if s := p.Said.Step(r.StepKey); s != nil {
			if one.Next, err = k.NameOf(ctx, s); err != nil {
				return nil, 0, err
			}
		}
		out = append(out, one)
	}
	return out, total, nil
}

// lineOf gives a run of the user as lists show it.
func (a *Service) lineOf(ctx context.Context, u domain.User, r *domain.Run) (RunLine, error) {
	list, _, err := a.Runs(ctx, u, domain.RunsQuery{PersonID: r.PersonID, Limit: 500})
	for i := range list {
		if list[i].ID == r.ID {
			return list[i], err
		}
	}
	return RunLine{}, orNotFound(err)
}

func orNotFound(err error) error {
	if err == nil {
		return domain.ErrNotFound
	}
	return err
}

// RunRuler lays the steps of a run on their days, for whoever it is of.
func (a *Service) RunRuler(ctx context.Context, u domain.User, id int64) (RunLine, Ruler, error) {
	r, p, err := a.mine(ctx, u, id)
	if err != nil {
		return RunLine{}, Ruler{}, err
	}
	line, err := a.lineOf(ctx, u, &r)
	if err != nil {
		return line, Ruler{}, err
	}
	steps, err := a.store.RunSteps(ctx, id)
	if err != nil {
		return line, Ruler{}, err
	}
	var before *domain.Letter
	if r.LastID != nil {
		l, err := a.store.LetterHead(ctx, *r.LastID)
		if err != nil {
			return line, Ruler{}, err
		}
		before = &l
	}
	if r.State.Over() {
		p.Said.Steps = nil
	}
	out, err := a.ruler(ctx, u, &p, &r, steps, before)
	if err == nil && r.LetterID != nil {
		for i := range out.Steps {
			if out.Steps[i].Key == r.StepKey && !out.Steps[i].Done {
				out.Steps[i].Letter, out.Steps[i].Why = r.LetterID, cmp.Or(r.Reason, fmt.Sprint(out.Steps[i].Why))
			}
		}
	}
	return line, out, err
}

// mostComing is how many runs of a user are looked at for what is to come.
const mostComing = 2000

// Coming gives the steps of a user's runs that are still to come, as things are.
func (a *Service) Coming(ctx context.Context, u domain.User) ([]domain.ComingStep, error) {
	rows, _, err := a.store.Runs(ctx, domain.RunsQuery{OwnerID: u.ID, States: []domain.RunState{domain.RunGoing}, Limit: mostComing})
	if err != nil {
		return nil, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return nil, err
	}
	plans, names := map[int64]*domain.Plan{}, map[[2]int64]string{}
	now := a.now()
	var out []domain.ComingStep
	for i := range rows {
		r := &rows[i]
		if plans[r.PlanID] == nil {
			p, err := a.store.Plan(ctx, r.PlanID)
			if err != nil {
				return nil, err
			}
			plans[r.PlanID] = &p
		}
		p, from := plans[r.PlanID], r.Run
		keys := p.Said.Keys()
		for j := max(0, slices.Index(keys, r.StepKey)); j < len(keys); j++ {
			s := &p.Said.Steps[j]
			name := [2]int64{p.ID, int64(s.Key)}
			if _, ok := names[name]; !ok {
				if names[name], err = k.NameOf(ctx, s); err != nil {
					return nil, err
				}
			}
			at := k.slotOf(s, &from, r.Zone, r.Country, now).At.UTC()
			if s.Key == r.StepKey && r.StepAt != nil {
				at = *r.StepAt
			}
			from.FromAt = at
			out = append(out, domain.ComingStep{RunID: r.ID, Key: s.Key, PersonID: r.PersonID, Person: r.Name(), Plan: p.Name, Name: names[name], Kind: s.Kind, At: at})
		}
	}
	return out, nil
}
