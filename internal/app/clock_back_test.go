package app_test

import (
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// What was sent while the clock was days ahead does not wait for those days when it is right again;
// a time that somebody named stays.
func TestClock_back(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	right := b.Now()
	b.Pass(9 * 24 * time.Hour)
	people := crowd(t, b, 8)
	template := b.Template(t, "T", "S", "Dear {{person.first_name}}")
	s := startRound(t, b, template, people[:6]...)
	sendRound(t, b, s.ID, 6, domain.RoundWhen{All: true, OverHours: 2})
	var letters []int64
	for i, when := range []desk.When{{}, {Local: "2026-03-20T09:00"}} {
		l := b.Letter(t, people[6+i], template)
		sent, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, when)
		if err != nil {
			t.Fatal(err)
		}
		letters = append(letters, sent.ID)
	}
	b.Pass(right.Sub(b.Now()))
	workAll(t, b)
	if n := roundNow(t, b, s.ID).Groups.Sent; n != 1 {
		t.Errorf("%d letters of the round went at once, want the first of two hours", n)
	}
	b.Pass(2*time.Hour + time.Minute)
	workAll(t, b)
	if n := roundNow(t, b, s.ID).Groups.Sent; n != 6 {
		t.Errorf("%d letters of the round went, want 6\n%s", n, standing(t, b, s.ID))
	}
	due, next, err := b.App.Outbound.Due(ctx, b.Now(), 9)
	if err != nil || len(due) != 1 || due[0].ID != letters[0] || next != nil && !next.Equal(time.Date(2026, 3, 20, 9, 0, 0, 0, time.UTC)) {
		t.Errorf("due %+v, next %v, %v; want letter %d, and the other on 20 March", due, next, err, letters[0])
	}
}

// A run that was begun, or went on, while the clock was ahead goes on from now once it is right again.
func TestClock_backForPlans(t *testing.T) {
	b := testbed.New(t)
	right := b.Now()
	b.Pass(40 * 24 * time.Hour)
	template := b.Template(t, "T", "Your room", "Dear {{person.first_name}},")
	p := readyPlan(t, b, "P", letterStep(template, 1, false), callStep(2, "Call"))
	begun := startPlan(t, b, p.ID, inGermany(t, b, "Ada", "ada@quill.example"))
	b.Pass(right.Sub(b.Now()))
	if _, err := b.App.Plans.Work(ctx); err != nil {
		t.Fatal(err)
	}
	r, err := b.Store.Run(ctx, begun)
	if err != nil {
		t.Fatal(err)
	}
	if r.StepAt == nil || r.StepAt.After(right.AddDate(0, 0, 4)) || r.FromAt.After(right) {
		t.Fatalf("the step is due %v, reckoned from %v; the clock is right at %v", r.StepAt, r.FromAt, right)
	}
	walkOn(t, b, begun, b.Now().AddDate(0, 1, 0))
	if done, err := b.Store.RunSteps(ctx, begun); err != nil || len(done) != 2 || done[1].At.After(right.AddDate(0, 0, 12)) {
		t.Errorf("%+v, %v; want both steps within days", done, err)
	}
}
