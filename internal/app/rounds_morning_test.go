package app_test

import (
	"testing"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A letter of a working morning goes in one, also when the round was paused over it or nothing
// ran: at night it waits for the next.
func TestRound_missedMorning(t *testing.T) {
	for _, how := range []string{"paused", "nothing ran"} {
		b := testbed.New(t) // Monday, 2 March, 09:30 in London
		noGrounds(t, b)
		people := crowd(t, b, 3)
		for i, zone := range []string{"Europe/London", "Asia/Tokyo", "America/New_York"} {
			p, err := b.Store.Person(ctx, people[i])
			if err != nil {
				t.Fatal(err)
			}
			p.TimeZone = zone
			if err := b.Store.UpdatePerson(ctx, p); err != nil {
				t.Fatal(err)
			}
		}
		s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people...)
		sendRound(t, b, s.ID, 3, domain.RoundWhen{All: true, Morning: true})
		if how == "paused" {
			if err := b.App.Rounds.Pause(ctx, b.Rep, s.ID); err != nil {
				t.Fatal(err)
			}
		}
		// Tuesday, 22:00 in London: Wednesday, 07:00 in Tokyo, Tuesday, 17:00 in New York.
		b.Pass(time.Date(2026, 3, 3, 22, 0, 30, 0, time.UTC).Sub(b.Now()))
		if how == "paused" {
			if err := b.App.Rounds.GoOn(ctx, b.Rep, s.ID); err != nil {
				t.Fatal(err)
			}
		}
		gone := func() int {
			workAll(t, b)
			return roundNow(t, b, s.ID).Groups.Sent
		}
		for _, at := range []struct {
			hours float64
			sent  int
		}{{0, 0}, {1, 0}, {3.5, 1}, {12, 2}, {17.5, 3}} { // 9 in Tokyo is midnight in London, in New York 14:00
			b.Pass(time.Date(2026, 3, 3, 22, 0, 0, 0, time.UTC).Add(time.Duration(at.hours*float64(time.Hour))).Sub(b.Now()) + 31*time.Second)
			if n := gone(); n != at.sent {
				t.Errorf("%s: %d went by %s, want %d\n%s", how, n, b.Now().UTC().Format("02 15:04"), at.sent, standing(t, b, s.ID))
			}
		}
	}
}
