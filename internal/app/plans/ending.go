package plans

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/eligibility"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// endIfOver stops a run that nothing can come of any more; it tells whether it did.
func (a *Service) endIfOver(ctx context.Context, p *domain.Plan, r *domain.Run) (bool, error) {
	why := ""
	person, err := a.store.Person(ctx, r.PersonID)
	if err != nil {
		return false, err
	}
	deal, theirs := domain.Deal{}, true
	if r.DealID != nil {
		if deal, err = a.store.Deal(ctx, *r.DealID); err != nil {
			return false, err
		}
		if theirs, err = a.isTheirs(ctx, r.PersonID, *r.DealID); err != nil {
			return false, err
		}
	}
	blockers, err := a.records.Blockers(ctx, &person, person.Email)
	if err != nil {
		return false, err
	}
	lasting := slices.IndexFunc(blockers, func(b eligibility.Reason) bool { return b.Code.Lasting() })
	switch {
	case lasting >= 0:
		why = endedBy(&blockers[lasting])
	case r.DealID != nil && deal.DeletedAt != nil:
		why = "The deal was deleted"
	case r.DealID != nil && !deal.Open():
		why = "The deal was " + deal.Stage
	case !theirs:
		why = "The deal is another person’s now"
	case p.DeletedAt != nil:
		why = "The plan was deleted"
	}
	if why == "" {
		return false, nil
	}
	return true, a.end(ctx, p, r, domain.RunStopped, why)
}

// endedBy says why a run ends for a reason that lasts, in the words of what happened.
func endedBy(r *eligibility.Reason) string {
	switch r.Code {
	case eligibility.OptedOut:
		return plan.OnEvent("opted out").Why
	case eligibility.Bounced:
		return plan.OnEvent("bounced").Why
	}
	return r.Label()
}

// isTheirs reports whether somebody is a contact of a deal.
func (a *Service) isTheirs(ctx context.Context, personID, dealID int64) (bool, error) {
	deals, err := a.store.DealsOf(ctx, personID)
	return slices.ContainsFunc(deals, func(d domain.Deal) bool { return d.ID == dealID }), err
}

// end ends a run. Letters of it that wait are taken out of the outbox, and a draft that
// nobody has touched is discarded.
func (a *Service) end(ctx context.Context, p *domain.Plan, r *domain.Run, to domain.RunState, why string) error {
	now := a.now()
	if to == domain.RunStopped {
		if err := a.store.CancelRunLetters(ctx, r.ID, fmt.Sprintf("The plan “%s” was stopped: %s", p.Name, why), now); err != nil {
			return err
		}
		if r.LetterID != nil {
			l, err := a.store.LetterHead(ctx, *r.LetterID)
			if err != nil {
				return err
			}
			if l.State == domain.Draft && l.Version == 1 && l.DeletedAt == nil {
				if err := a.store.DeleteDraft(ctx, l.ID, &now); err != nil && !errors.Is(err, domain.ErrNotFound) {
					return err
				}
			}
		}
	}
	text := fmt.Sprintf("The plan “%s” is finished", p.Name)
	if to == domain.RunStopped {
		text = fmt.Sprintf("The plan “%s” stopped: %s", p.Name, why)
	}
	if err := a.entry(ctx, r, nil, text); err != nil {
		return err
	}
	r.State, r.Reason, r.StepKey, r.StepAt, r.LetterID, r.EndedAt = to, why, 0, nil, nil, &now
	return a.store.UpdateRun(ctx, *r)
}

// entry files a line about a run in the history of its person.
func (a *Service) entry(ctx context.Context, r *domain.Run, by *int64, text string) error {
	p, err := a.store.Person(ctx, r.PersonID)
	if err != nil {
		return err
	}
	return a.store.AddEntry(ctx, domain.Entry{PersonID: &r.PersonID, CompanyID: p.CompanyID, DealID: r.DealID, UserID: by, Kind: domain.EntryPlan, Text: text, At: a.now()})
}

// StopAll stops the plans that somebody is on, or one of them, and names those that were stopped
// and those that the user may not stop.
func (a *Service) StopAll(ctx context.Context, u domain.User, person int64, planID *int64, why string) (stopped, others []string, err error) {
	ids, err := a.store.RunsIn(ctx, person)
	if err != nil {
		return nil, nil, err
	}
	for _, id := range ids {
		r, err := a.store.Run(ctx, id)
		if err != nil {
			return nil, nil, err
		}
		if planID != nil && r.PlanID != *planID {
			continue
		}
		p, err := a.store.Plan(ctx, r.PlanID)
		if err != nil {
			return nil, nil, err
		}
		if domain.May(u, access.EditRun, access.Thing{OwnerID: r.OwnerID}) != nil {
			others = append(others, "“"+p.Name+"”")
			continue
		}
		if err := a.end(ctx, &p, &r, domain.RunStopped, why); err != nil {
			return nil, nil, err
		}
		stopped = append(stopped, "“"+p.Name+"”")
	}
	return stopped, others, nil
}
