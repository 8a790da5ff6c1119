package rounds

import (
	"context"
	"fmt"

	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// follow does what is to happen after letters went out, and tells whether there may be more.
// What cannot be done for one person is told with them, and holds up no other.
func (a *Service) follow(ctx context.Context) (bool, error) {
	more := false
	var list []domain.Member
	all := func(ctx context.Context) (err error) {
		list, err = a.store.ToFollow(ctx, goStep)
		more = len(list) == goStep
		if err != nil {
			return err
		}
		for i := range list {
			if err := a.followOne(ctx, list[i]); err != nil {
				return err
			}
		}
		return nil
	}
	err := worker.Guard(func() error { return a.store.Within(ctx, all) })
	if err == nil || !worker.Panicked(err) && !domain.Lasting(err) {
		return more, err
	}
	for _, m := range list {
		one := func(ctx context.Context) error { return a.followOne(ctx, m) }
		err := worker.Guard(func() error { return a.store.Within(ctx, one) })
		if err == nil {
			continue
		}
		a.failed(fmt.Errorf("follow up on person %d of round %d: %w", m.PersonID, m.RoundID, err))
		m.AfterDone, m.Told = true, "Sent, but what was to happen afterwards could not be done; it was noted for the administrator"
		if err := a.store.UpdateMember(ctx, m); err != nil {
			return more, err
		}
	}
	return more, nil
}

func (a *Service) followOne(ctx context.Context, m domain.Member) error {
	r, err := a.store.Round(ctx, m.RoundID)
	if err != nil {
		return err
	}
	u, err := a.store.User(ctx, r.OwnerID)
	if err != nil {
		return err
	}
	l, err := a.store.Letter(ctx, *m.LetterID)
	if err != nil {
		return err
	}
	after := r.Said.After
	if after.Path != "" {
		changed, err := a.records.ChangeMany(ctx, u, []int64{l.PersonID}, after.Path, after.Value)
		switch why, bad := domain.ForPeople(err); {
		case bad:
			m.Told = "Sent, but the field could not be set: " + why
		case err != nil:
			return err
		case len(changed.Left) > 0:
			m.Told = "Sent, but the field was not set: " + changed.Left[0].Why
		}
	}
	if after.Task != "" {
		at := a.now()
		if l.SentAt != nil {
			at = *l.SentAt
		}
		if _, err := a.store.AddTask(ctx, domain.Task{
			UserID: u.ID, PersonID: &l.PersonID, DealID: l.DealID, LetterID: &l.ID, Text: after.Task, DueAt: at.AddDate(0, 0, after.Days), CreatedAt: a.now(),
		}); err != nil {
			return err
		}
	}
	if after.Plan != 0 {
		switch why, err := a.plans.StartAfter(ctx, u, after.Plan, &l); {
		case err != nil:
			return err
		case why != "":
			m.Told = "Sent, but the plan was not started: " + why
		}
	}
	m.AfterDone = true
	return a.store.UpdateMember(ctx, m)
}
