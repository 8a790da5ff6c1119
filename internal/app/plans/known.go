package plans

import (
	"context"
	"fmt"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// partsOf gives what the letters of some steps of a plan are made of.
func (k *maker) partsOf(ctx context.Context, p *domain.Plan, steps ...domain.PlanStep) (compose.Parts, error) {
	out := compose.Parts{}
	for i := range steps {
		s := &steps[i]
		if s.Kind != plan.Letter {
			continue
		}
		list, _, err := k.Variants(ctx, s)
		if err != nil {
			return nil, err
		}
		name := fmt.Sprintf("The letter of step %d", 1+slices.Index(p.Said.Keys(), s.Key))
		if err := out.AddKeyed(fmt.Sprint("step:", s.Key), name, []any{s.TemplateID, s.Wording}, p.UpdatedBy); err != nil {
			return nil, err
		}
		if err := k.MadeOf(ctx, &out, list); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// known is what the user of k knows of the letters of a plan.
func (k *maker) known(p *domain.Plan) *compose.Known {
	return &compose.Known{Store: k.a.store, User: k.User.ID, Thing: fmt.Sprint("plan:", p.ID)}
}

// begins notes what a user knows of a plan as they start somebody on it: all of it, where
// nobody is on it by them whose letters they know otherwise.
func (a *Service) begins(ctx context.Context, u domain.User, p *domain.Plan) error {
	_, going, err := a.store.Runs(ctx, domain.RunsQuery{PlanID: p.ID, OwnerID: u.ID, States: notOver, Limit: 1})
	if err != nil || going > 0 {
		return err
	}
	return a.knows(ctx, u, p)
}

// knows notes that a user knows the letters of a plan as they are now.
func (a *Service) knows(ctx context.Context, u domain.User, p *domain.Plan) error {
	k, err := a.maker(ctx, u)
	if err != nil {
		return err
	}
	list, err := k.partsOf(ctx, p, p.Said.Steps...)
	if err != nil {
		return err
	}
	return k.known(p).Note(ctx, list)
}

// newsOf says what of the letters of a plan a user does not know who has people on it, or "".
// Seen says how they are.
func (k *maker) newsOf(ctx context.Context, p *domain.Plan) (news, seen string, err error) {
	_, going, err := k.a.store.Runs(ctx, domain.RunsQuery{PlanID: p.ID, OwnerID: k.User.ID, States: notOver, Limit: 1})
	if err != nil || going == 0 {
		return "", "", err
	}
	list, err := k.partsOf(ctx, p, p.Said.Steps...)
	if err != nil {
		return "", "", err
	}
	news, err = k.known(p).Look(ctx, list)
	return news, list.Sum(), err
}

// Looked notes that a user knows the letters of a plan as they are, if that is how they were when
// they looked (Sheet.Seen). What waited for that
// goes on; a letter that they wrote in meanwhile stays as it is.
func (a *Service) Looked(ctx context.Context, u domain.User, id int64, seen string) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.planFor(ctx, u, access.SeePlan, id)
		if err != nil {
			return err
		}
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		list, err := k.partsOf(ctx, &p, p.Said.Steps...)
		if err != nil {
			return err
		}
		if err := k.known(&p).Looked(ctx, list, seen); err != nil {
			return err
		}
		rows, _, err := a.store.Runs(ctx, domain.RunsQuery{PlanID: id, OwnerID: u.ID, States: []domain.RunState{domain.RunWaiting}, Limit: MaxStart})
		if err != nil {
			return err
		}
		for i := range rows {
			if err := a.goesOn(ctx, &rows[i].Run); err != nil {
				return err
			}
		}
		return nil
	})
	a.Nudge()
	return err
}

// goesOn has a run go on that waited because its wording was changed.
func (a *Service) goesOn(ctx context.Context, r *domain.Run) error {
	if !r.Said.News || r.LetterID == nil {
		return nil
	}
	l, err := a.store.LetterHead(ctx, *r.LetterID)
	if err != nil || l.State != domain.Draft || l.DeletedAt != nil || l.Version > 1 {
		return err
	}
	if err := a.dropDraft(ctx, r); err != nil {
		return err
	}
	now := a.now()
	r.State, r.Reason, r.StepAt, r.Said.News, r.Said.Parts = domain.RunGoing, "", &now, false, nil
	return a.store.UpdateRun(ctx, *r)
}
