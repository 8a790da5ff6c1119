package plans

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// reasons are what keeps people from being started on a plan.
type reasons struct {
	suppressed map[string]domain.Suppression
	running    map[int64][]domain.RunRow
	people     map[int64]domain.Person
	over       map[int64]time.Time // when somebody's last run of the plan ended
	deals      map[int64]int       // how many open deals people have, for a plan that speaks of one
}

// reasonsFor gathers what keeps people from being started on one plan.
func (a *Service) reasonsFor(ctx context.Context, k *maker, p *domain.Plan, ids []int64, with *With) (*reasons, error) {
	x, err := a.reasons(ctx, ids)
	if err != nil {
		return x, err
	}
	if x.over, err = a.store.LastRuns(ctx, p.ID, ids); err != nil || with.DealID != nil {
		return x, err
	}
	for i := range p.Said.Steps {
		s := &p.Said.Steps[i]
		if s.Kind != plan.Letter {
			continue
		}
		list, _, err := k.Variants(ctx, s)
		if err != nil {
			return x, err
		}
		if slices.ContainsFunc(list, func(w compose.Variant) bool { return w.Program.NeedsDeal() }) {
			x.deals, err = a.store.OpenDealsOf(ctx, ids)
			return x, err
		}
	}
	return x, nil
}

func (a *Service) reasons(ctx context.Context, ids []int64) (*reasons, error) {
	out := &reasons{people: map[int64]domain.Person{}}
	people, err := a.store.PeopleOf(ctx, ids)
	if err != nil {
		return out, err
	}
	var keys []string
	for _, p := range people {
		out.people[p.ID] = p
		if p.Email != "" {
			keys = append(keys, field.EmailKey(p.Email))
		}
	}
	if out.suppressed, err = a.store.Suppressions(ctx, keys...); err != nil {
		return out, err
	}
	out.running, err = a.store.OnPlans(ctx, ids)
	return out, err
}

// of says why somebody cannot be started at all.
func (x *reasons) of(p *domain.Person) []string {
	f := p.Standing(p.Email, x.suppressed[field.EmailKey(p.Email)], "")
	out := []string{}
	for _, r := range eligibility.AppendReasons(nil, &f) {
		out = append(out, r.Label())
	}
	return out
}

// onPlan names the plan that somebody is going through, or "". The one that is asked for comes
// first: nobody goes through it twice at a time.
func (x *reasons) onPlan(personID, planID int64) string {
	list := x.running[personID]
	if i := slices.IndexFunc(list, func(r domain.RunRow) bool { return r.PlanID == planID }); i >= 0 {
		return list[i].Plan
	}
	if len(list) == 0 {
		return ""
	}
	return list[0].Plan
}

// leftOut says why somebody is not started on a plan, or "".
func (x *reasons) leftOut(p *domain.Plan, person *domain.Person, anyway bool) string {
	if why := x.of(person); len(why) > 0 {
		return why[0]
	}
	for i := range x.running[person.ID] {
		r := &x.running[person.ID][i]
		if r.PlanID == p.ID {
			return "Is on this plan already"
		}
		if !anyway && !p.Said.Beside {
			return fmt.Sprintf("Is going through the plan “%s” (%s)", r.Plan, r.Owner)
		}
	}
	if n := x.deals[person.ID]; n > 1 {
		return dealsWhy(n)
	}
	if at, was := x.over[person.ID]; was && !anyway {
		return "Went through this plan before; it ended on " + at.Format("2 January 2006")
	}
	return ""
}

// dealsWhy is why somebody with several open deals is not started on a plan that speaks of one.
func dealsWhy(n int) string {
	return fmt.Sprintf("Has %d open deals, and this plan speaks of one; start it from the deal that is meant", n)
}

// Left is somebody who was not started, and why.
type Left struct {
	PersonID int64  `json:"personId"`
	Name     string `json:"name"`
	Why      string `json:"why"`
}

// Started is what came of starting people.
type Started struct {
	Runs []int64 `json:"runs"`
	Left []Left  `json:"left"`
}

// usable loads a plan that the user may start people on.
func (a *Service) usable(ctx context.Context, u domain.User, id int64) (domain.Plan, error) {
	p, err := a.planFor(ctx, u, access.SeePlan, id)
	if err != nil {
		return p, err
	}
	switch {
	case p.State == domain.TemplateDraft:
		err = &domain.StateError{Why: fmt.Sprintf("The plan “%s” is still a draft; make it ready first.", p.Name)}
	case p.State == domain.TemplateWithdrawn:
		err = &domain.StateError{Why: fmt.Sprintf("The plan “%s” was withdrawn; choose another.", p.Name)}
	default:
		err = domain.May(u, access.UsePlan, p.Thing())
	}
	if err != nil {
		return p, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return p, err
	}
	wrong, err := k.wrong(ctx, &p.Said)
	if err == nil && len(wrong) > 0 {
		err = &domain.StateError{Why: fmt.Sprintf("Nobody can be started on “%s”: %s", p.Name, wrong[0].Why)}
	}
	return p, err
}

// Start begins a plan with people, those who can be; the others it names.
func (a *Service) Start(ctx context.Context, u domain.User, id int64, people []int64, with With) (Started, error) {
	out := Started{Runs: []int64{}, Left: []Left{}}
	if _, err := a.planFor(ctx, u, access.SeePlan, id); err != nil {
		return out, err
	}
	people = domain.Once(people)
	switch {
	case len(people) == 0:
		return out, domain.Invalid("people", "are missing; choose somebody")
	case len(people) > MaxStart:
		return out, domain.Invalid("people", "are more than %d; choose a smaller list", MaxStart)
	case len(people) > 1 && (with.LetterID != nil || with.DealID != nil):
		return out, domain.Invalid("people", "are more than one, and a letter or a deal is one person’s; start them without it")
	}
	if err := with.Said.Check(); err != nil {
		return out, err
	}
	err := a.store.Within(ctx, func(ctx context.Context) (err error) {
		out = Started{Runs: []int64{}, Left: []Left{}}
		p, err := a.usable(ctx, u, id)
		if err == nil {
			err = a.begins(ctx, u, &p)
		}
		if err != nil {
			return err
		}
		out, err = a.start(ctx, u, &p, people, with)
		return err
	})
	a.Nudge()
	return out, err
}

func (a *Service) start(ctx context.Context, u domain.User, p *domain.Plan, people []int64, with With) (Started, error) {
	out := Started{Runs: []int64{}, Left: []Left{}}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	x, err := a.reasonsFor(ctx, k, p, people, &with)
	if err != nil {
		return out, err
	}
	first := p.Said.Steps[0].Key
	for _, id := range people {
		person, ok := x.people[id]
		if !ok {
			continue
		}
		if why := x.leftOut(p, &person, with.Anyway); why != "" {
			out.Left = append(out.Left, Left{id, person.Name(), why})
			continue
		}
		before, err := a.beginning(ctx, u, id, with.LetterID)
		if err != nil {
			return out, err
		}
		set, err := a.library.Setting(ctx, u, id, with.DealID)
		if err != nil {
			return out, err
		}
		now := a.now()
		r := domain.Run{PlanID: p.ID, PersonID: id, DealID: set.DealID, OwnerID: u.ID, State: domain.RunGoing, Said: with.Said, StepKey: first, FromAt: now, Version: 1, StartedAt: now}
		r.Said.Key = compose.KeyValues(set)
		if before != nil {
			r.LastID = &before.ID
			if r.ThreadID = before.ThreadID; r.ThreadID == nil {
				r.ThreadID = &before.ID
			}
		}
		at := k.slotOf(p.Said.Step(first), &r, person.TimeZone, person.Country, now).At.UTC()
		r.StepAt = &at
		if r.ID, err = a.store.AddRun(ctx, r); err != nil {
			return out, err
		}
		if err := a.entry(ctx, &r, &u.ID, fmt.Sprintf("Started on the plan “%s”", p.Name)); err != nil {
			return out, err
		}
		out.Runs = append(out.Runs, r.ID)
	}
	return out, nil
}

// InList gives whom a saved list holds.
func (a *Service) InList(ctx context.Context, u domain.User, id int64) ([]int64, error) {
	l, err := a.store.List(ctx, id)
	if err == nil && (l.DeletedAt != nil || l.OwnerID != u.ID && !l.Shared) {
		err = domain.ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	return a.records.IDsIn(ctx, u, records.Asked{Where: l.Filter}, domain.PeopleQuery{}, MaxStart+1)
}

// MayStart tells whether a user may start people on a plan, and its name.
func (a *Service) MayStart(ctx context.Context, u domain.User, id int64) (string, error) {
	p, err := a.usable(ctx, u, id)
	return p.Name, err
}

// StartAfter starts somebody on a plan in the conversation of a letter that went to them; why
// says why not.
func (a *Service) StartAfter(ctx context.Context, u domain.User, id int64, l *domain.Letter) (why string, err error) {
	p, err := a.usable(ctx, u, id)
	var state *domain.StateError
	switch {
	case errors.As(err, &state):
		return state.Why, nil
	case errors.Is(err, domain.ErrNotFound), errors.Is(err, domain.ErrDenied):
		return "you may not use it any more", nil
	case err != nil:
		return "", err
	}
	if err := a.begins(ctx, u, &p); err != nil {
		return "", err
	}
	out, err := a.start(ctx, u, &p, []int64{l.PersonID}, With{LetterID: &l.ID, DealID: l.DealID})
	if err != nil || len(out.Left) == 0 {
		return "", err
	}
	return out.Left[0].Why, nil
}

// StartOne starts somebody on a plan, as a standing order does; why says why not.
func (a *Service) StartOne(ctx context.Context, u domain.User, id, person int64, deal *int64) (name, why string, err error) {
	p, err := a.usable(ctx, u, id)
	if err != nil {
		return p.Name, "", err
	}
	out, err := a.start(ctx, u, &p, []int64{person}, With{DealID: deal})
	switch {
	case err != nil || len(out.Runs) > 0:
		return p.Name, "", err
	case len(out.Left) > 0:
		return p.Name, out.Left[0].Why, nil
	}
	return p.Name, "the record is gone", nil
}
