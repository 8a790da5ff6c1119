package plans

import (
	"context"
	"fmt"
	"hash/fnv"
	"slices"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// Effects are what a change of a plan does to those who are on it.
type Effects struct {
	People int          `json:"people" doc:"Who is on it"`
	Steps  []StepEffect `json:"steps" doc:"Of new and removed steps"`
	Moves  []DateMove   `json:"moves" doc:"Whose next date moves; of many the first are named"`
	MovesN int          `json:"movesN"`
	Ends   int          `json:"ends" doc:"For how many nothing comes any more"`
	Drafts int          `json:"drafts" doc:"How many letters that wait to be proofread are of a step that is gone; they stay as drafts"`
	Seen   string       `json:"seen" doc:"Says that this is what was looked at when the change is saved"`
}

// StepEffect is what becomes of one step.
type StepEffect struct {
	Key    int    `json:"key"`
	Name   string `json:"name"`
	Gets   int    `json:"gets" doc:"Who gets it, and would not have"`
	Misses int    `json:"misses" doc:"Who is past it"`
	Loses  int    `json:"loses" doc:"Who would have got it"`
}

// DateMove is somebody whose next step comes at another time than before.
type DateMove struct {
	PersonID int64      `json:"personId"`
	Name     string     `json:"name"`
	From     *time.Time `json:"from,omitempty"`
	To       *time.Time `json:"to,omitempty" doc:"Missing: nothing comes any more"`
}

// affected is one run and what a change does to it.
type affected struct {
	row    domain.RunRow
	effect plan.Effect
	at     *time.Time
}

// PreviewChange says what a change would do to those who are on a plan.
func (a *Service) PreviewChange(ctx context.Context, u domain.User, id int64, in Input) (Effects, error) {
	p, err := a.planFor(ctx, u, access.EditPlan, id)
	if err != nil {
		return Effects{}, err
	}
	old := p.Said
	if err := a.into(&p, in); err != nil {
		return Effects{}, err
	}
	out, _, err := a.effects(ctx, &p, old)
	return out, err
}

// ChangePlan stores a plan. Seen is of the effects that were looked at: when others are on it
// by now it is ErrStale, and nothing is stored; "" is for a plan that nobody is on.
func (a *Service) ChangePlan(ctx context.Context, u domain.User, id int64, version int, in Input, seen string) (Sheet, error) {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.planFor(ctx, u, access.EditPlan, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return domain.ErrStale
		}
		old := p.Said
		if err := a.into(&p, in); err != nil {
			return err
		}
		effects, list, err := a.effects(ctx, &p, old)
		switch {
		case err != nil:
			return err
		case effects.Seen != "" && seen != effects.Seen:
			return &domain.StateError{Why: "Other people are on this plan by now, or at another step, than when you looked. Look again at what the change does to them."}
		}
		if in.State != "" && in.State != p.State {
			if err := a.setState(ctx, u, &p, in.State); err != nil {
				return err
			}
		}
		p.UpdatedAt, p.UpdatedBy = a.now(), u.ID
		if err := a.store.UpdatePlan(ctx, p); err != nil {
			return err
		}
		return a.carry(ctx, &p, list)
	})
	if err != nil {
		return Sheet{}, err
	}
	a.Nudge()
	return a.Plan(ctx, u, id)
}

// setState moves a plan between its states. One that is not complete is not made ready; who is
// on a plan that is withdrawn goes on.
func (a *Service) setState(ctx context.Context, u domain.User, p *domain.Plan, to domain.TemplateState) error {
	if !slices.Contains(p.State.Next(), to) {
		return domain.Invalid("state", "cannot become %q; make the plan ready first", to)
	}
	if to == domain.TemplateReady {
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		wrong, err := k.wrong(ctx, &p.Said)
		if err != nil {
			return err
		}
		if len(wrong) > 0 {
			var bad domain.InvalidError
			for _, w := range wrong {
				bad.Fields = append(bad.Fields, domain.FieldError{Where: fmt.Sprintf("step %d", 1+slices.Index(p.Said.Keys(), w.Key)), Why: w.Why})
			}
			return &bad
		}
	}
	p.State = to
	return nil
}

// effects works out what the steps of p do to those who are on it, who go by the old ones.
func (a *Service) effects(ctx context.Context, p *domain.Plan, old domain.PlanSaid) (Effects, []affected, error) {
	out := Effects{Steps: []StepEffect{}, Moves: []DateMove{}}
	rows, _, err := a.store.Runs(ctx, domain.RunsQuery{PlanID: p.ID, States: notOver, Limit: 1_000_000})
	if err != nil || len(rows) == 0 {
		return out, nil, err
	}
	done, err := a.store.StepsDone(ctx, p.ID)
	if err != nil {
		return out, nil, err
	}
	out.People = len(rows)
	counts := map[int]*StepEffect{}
	count := func(keys []int, n func(*StepEffect) *int) {
		for _, key := range keys {
			if counts[key] == nil {
				counts[key] = &StepEffect{Key: key}
			}
			*n(counts[key])++
		}
	}
	makers := map[int64]*maker{}
	list := make([]affected, len(rows))
	sum := fnv.New64a()
	for i := range rows {
		one := affected{row: rows[i], effect: plan.Change(old.Keys(), p.Said.Keys(), done[rows[i].ID])}
		r := &one.row
		k := makers[r.OwnerID]
		if k == nil {
			u, err := a.store.User(ctx, r.OwnerID)
			if err != nil {
				return out, nil, err
			}
			if k, err = a.maker(ctx, u); err != nil {
				return out, nil, err
			}
			makers[r.OwnerID] = k
		}
		one.at = k.newDate(p, &old, &one, a.now())
		count(one.effect.Gets, func(e *StepEffect) *int { return &e.Gets })
		count(one.effect.Misses, func(e *StepEffect) *int { return &e.Misses })
		count(one.effect.Loses, func(e *StepEffect) *int { return &e.Loses })
		if one.effect.Ends() {
			out.Ends++
		}
		if r.LetterID != nil && one.effect.Next != r.StepKey {
			out.Drafts++
		}
		if r.State == domain.RunGoing && !same(r.StepAt, one.at) {
			if out.MovesN++; len(out.Moves) < mostNamed {
				out.Moves = append(out.Moves, DateMove{r.PersonID, r.Name(), r.StepAt, one.at})
			}
		}
		fmt.Fprintln(sum, r.ID, r.State, done[r.ID], one.effect, p.Said.Keys())
		list[i] = one
	}
	out.Seen = fmt.Sprintf("%x", sum.Sum64())
	for _, k := range makers {
		out.Steps, err = k.namedEffects(ctx, p, &old, counts)
		break
	}
	return out, list, err
}

func same(x, y *time.Time) bool {
	return x == nil && y == nil || x != nil && y != nil && x.Equal(*y)
}

// newDate is when the next step of a run comes after a change. It stays where it was unless
// another step comes, or the timing of this one was changed.
func (k *maker) newDate(p *domain.Plan, old *domain.PlanSaid, one *affected, now time.Time) *time.Time {
	r := &one.row
	s := p.Said.Step(one.effect.Next)
	if s == nil {
		return nil
	}
	if before := old.Step(s.Key); s.Key == r.StepKey && before != nil && before.When == s.When {
		return r.StepAt
	}
	return new(k.slotOf(s, &r.Run, r.Zone, r.Country, now).At.UTC())
}

func (k *maker) namedEffects(ctx context.Context, p *domain.Plan, old *domain.PlanSaid, counts map[int]*StepEffect) ([]StepEffect, error) {
	out := []StepEffect{}
	for _, key := range slices.Concat(p.Said.Keys(), old.Keys()) {
		e := counts[key]
		if e == nil {
			continue
		}
		delete(counts, key)
		s := p.Said.Step(key)
		if s == nil {
			s = old.Step(key)
		}
		var err error
		if e.Name, err = k.NameOf(ctx, s); err != nil {
			return nil, err
		}
		out = append(out, *e)
	}
	return out, nil
}

// carry has those who are on a plan go on by its new steps.
func (a *Service) carry(ctx context.Context, p *domain.Plan, list []affected) error {
	for i := range list {
		r, e := &list[i].row.Run, &list[i].effect
		switch {
		case e.Next == 0:
			if err := a.end(ctx, p, r, domain.RunFinished, ""); err != nil {
				return err
			}
			continue
		case r.State == domain.RunWaiting && e.Next != r.StepKey: // what it waited for is gone
			r.State, r.Reason, r.LetterID, r.StepAt = domain.RunGoing, "", nil, list[i].at
		case r.State == domain.RunGoing && (e.Next != r.StepKey || !same(r.StepAt, list[i].at)):
			r.StepAt = list[i].at
		case e.Next == r.StepKey:
			continue
		}
		r.StepKey = e.Next
		if err := a.store.UpdateRun(ctx, *r); err != nil {
			return err
		}
	}
	return nil
}

// SetPlanState moves a plan between draft, ready and withdrawn.
func (a *Service) SetPlanState(ctx context.Context, u domain.User, id int64, version int, to domain.TemplateState) (Sheet, error) {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.planFor(ctx, u, access.EditPlan, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return domain.ErrStale
		}
		if err := a.setState(ctx, u, &p, to); err != nil {
			return err
		}
		p.UpdatedAt, p.UpdatedBy = a.now(), u.ID
		return a.store.UpdatePlan(ctx, p)
	})
	if err != nil {
		return Sheet{}, err
	}
	return a.Plan(ctx, u, id)
}
