package desk

import (
	"context"
	"fmt"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// DefaultHold is the seconds in which sending can be taken back; MaxHold the most
// that a user can set.
const (
	DefaultHold = 10
	MaxHold     = 120
)

// maxAhead is how far ahead a letter can be set to go.
const MaxAhead = 366 * 24 * time.Hour

// When says when a letter goes: now, after the sender's hold; at a local time in a
// zone of the tz database; or in the recipient's next working morning.
type When struct {
	Local   string // such as 2026-11-26T09:00; "" now
	Zone    string // "" the recipient's
	Morning bool
	Remind  *time.Time // of an answer that did not come; nil not at all
	Any     bool       // remind also when one came
	Proof   string     // the sum of the proof that was looked at; "" none was
}

// Times is what the desk offers. Zone is the recipient's, from the record or the
// country, or UTC when neither tells it.
type Times struct {
	Hold     int       `json:"hold"`
	Zone     string    `json:"zone"`
	ZoneFrom string    `json:"zoneFrom" enum:"record,country,unknown"`
	Morning  time.Time `json:"morning"`
	Over     string    `json:"over,omitempty" doc:"The last holiday that the morning waits for"`
}

func (a *Service) times(u *domain.User, p *domain.Person) Times {
	zone, from := compose.ZoneOf(p)
	at, over := plan.WorkingMorning(a.now(), zone, p.Country)
	return Times{Hold: u.HoldSeconds, Zone: zone.String(), ZoneFrom: from, Morning: at.UTC(), Over: over}
}

// Due settles when a letter goes.
func (a *Service) Due(u *domain.User, p *domain.Person, w When) (time.Time, error) {
	now := a.now()
	zone, _ := compose.ZoneOf(p)
	switch {
	case w.Morning:
		at, _ := plan.WorkingMorning(now, zone, p.Country)
		return at.UTC(), nil
	case w.Local == "":
		return now.Add(time.Duration(u.HoldSeconds) * time.Second), nil
	}
	if w.Zone != "" {
		var err error
		if zone, err = time.LoadLocation(w.Zone); err != nil {
			return now, domain.Invalid("zone", "%q is no time zone; choose one such as Europe/London", w.Zone)
		}
	}
	at, err := time.ParseInLocation("2006-01-02T15:04", w.Local, zone)
	switch {
	case err != nil:
		return now, domain.Invalid("local", "%q is no time; write it like 2026-11-26T09:00", w.Local)
	case at.Before(now):
		return now, domain.Invalid("local", "%s in %s is over; choose a later time", at.Format("2 January 15:04"), zone)
	case at.Sub(now) > MaxAhead:
		return now, domain.Invalid("local", "is more than a year ahead; choose an earlier time")
	}
	return at.UTC(), nil
}

// SetHold sets how long the user's letters can be taken back, in seconds.
func (a *Service) SetHold(ctx context.Context, u domain.User, seconds int) error {
	if seconds < 0 || seconds > MaxHold {
		return &domain.InvalidError{Fields: []domain.FieldError{{Where: "seconds", Why: fmt.Sprintf("is not from 0 to %d; choose another", MaxHold)}}}
	}
	return a.store.SetHold(ctx, u.ID, seconds)
}

// goes is when a letter goes: a draft as its writer chose, one that waits when it is
// due.
func (a *Service) goes(u *domain.User, s *LetterSheet, w When) (time.Time, error) {
	if s.State == domain.Draft {
		return a.Due(u, &s.Person, w)
	}
	if s.DueAt != nil && s.DueAt.After(a.now()) {
		return *s.DueAt, nil
	}
	return a.now(), nil
}
