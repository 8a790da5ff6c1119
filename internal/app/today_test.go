package app_test

import (
	"slices"
	"testing"
	"time"

	"lucidletter/core/advice"
	"lucidletter/core/document"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/testbed"
)

// Who has a letter today is told at the desk, in a round and before a plan starts, on the
// clock of whoever writes.
func TestHadLetterToday(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 3)
	hello := b.Template(t, "Hello", "Hello there", "Dear {{person.first_name}}, we met.")
	l := b.Letter(t, people[0], hello)
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	told := func() bool {
		other := b.Letter(t, people[0], b.Template(t, b.Now().String(), "Again", "Dear {{person.first_name}}, once more."))
		return slices.ContainsFunc(other.Advice.Notes, func(a advice.Advice) bool { return a.Code == "today" && a.Part == document.Body })
	}
	s := startRound(t, b, hello, people...)
	p := readyPlan(t, b, "P", letterStep(hello, 1, false)).ID
	look := func(want bool) {
		t.Helper()
		o, err := b.App.Plans.OutlookFor(ctx, b.Rep, p, people, plans.With{})
		n := 0
		if want {
			n = 1
		}
		if now := roundNow(t, b, s.ID); err != nil || told() != want || o.Today != n || now.HadToday != n && now.Groups.Ready == 3 {
			t.Errorf("at %s: %v, %+v, %d: %v", b.Now(), told(), o.Today, now.HadToday, err)
		}
	}
	look(true)
	b.Pass(24 * time.Hour)
	look(false)
}
