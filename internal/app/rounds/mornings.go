package rounds

import (
	"context"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// workingDay is for how long after nine in the morning a letter of a working morning still
// goes: one that could not go that day, since the round was paused or the program did not run,
// waits for the next.
const workingDay = 8 * time.Hour

// mornings has the scheduled letters of a round go in the next working morning of their
// recipients, zone by zone.
func (a *Service) mornings(ctx context.Context, roundID int64, from time.Time) error {
	zones, err := a.store.Zones(ctx, roundID)
	if err != nil {
		return err
	}
	for _, z := range zones {
		if err := a.store.ScheduleZone(ctx, roundID, z, morningOf(z, from)); err != nil {
			return err
		}
	}
	return nil
}

// waitForMorning moves what of a round is due where no working day is under way to the next
// working morning there.
func (a *Service) waitForMorning(ctx context.Context, roundID int64) error {
	zones, err := a.store.ZonesDue(ctx, roundID, a.now())
	if err != nil {
		return err
	}
	for _, z := range zones {
		at := morningOf(z, a.now().Add(-workingDay))
		if !at.After(a.now()) {
			continue // it is a working day there, and no later than five
		}
		if err := a.store.DelayZone(ctx, roundID, z, a.now(), at); err != nil {
			return err
		}
	}
	return nil
}

func morningOf(z domain.Zone, from time.Time) time.Time {
	at, _ := plan.WorkingMorning(from, compose.Zone(&domain.Person{TimeZone: z.Zone, Country: z.Country}), z.Country)
	return at.UTC()
}

// begunAhead has a round begin now that was begun while the clock was ahead: what of it has not
// gone does not wait until it is then again. A time that its sender named stays.
func (a *Service) begunAhead(ctx context.Context, r *domain.Round) error {
	if r.BeganAt == nil || r.BeganAt.Sub(a.now()) < worker.ClockSlack {
		return nil
	}
	if r.Said.When.Local == "" {
		u, err := a.store.User(ctx, r.OwnerID)
		if err != nil {
			return err
		}
		if _, err := a.schedule(ctx, &u, r, r.Said.When); err != nil {
			return err
		}
	}
	return a.store.BeganAt(ctx, r.ID, a.now())
}
