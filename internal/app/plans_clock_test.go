package app_test

import (
	"testing"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// walkOn lets the clock go on as it does in life, some milliseconds past every minute, until a
// run is over or a time has come; letters go a little after they were put into the outbox.
func walkOn(t *testing.T, b *testbed.Bed, id int64, until time.Time) {
	t.Helper()
	for range 4000 {
		r, err := b.Store.Run(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		if r.State.Over() || !b.Now().Before(until) {
			return
		}
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		b.Pass(37 * time.Millisecond)
		due, _, err := b.Store.Due(ctx, b.Now(), 100)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range due {
			if err := b.Deliver(ctx, l.ID); err != nil {
				t.Fatal(err)
			}
			b.Pass(113 * time.Millisecond)
		}
		if next, err := b.Store.NextStepAt(ctx); err != nil {
			t.Fatal(err)
		} else if next != nil && next.After(b.Now()) {
			b.Pass(next.Sub(b.Now()) + 23*time.Millisecond)
		}
	}
	t.Fatal("it does not come to an end")
}

// What comes of a plan comes on the days that were announced before it was started, by a clock
// that goes on as in life.
func TestPlan_comesWhenItWasAnnounced(t *testing.T) {
	for name, steps := range map[string]func(template int64) []domain.PlanStep{
		"letters in a row": func(id int64) []domain.PlanStep {
			return []domain.PlanStep{letterStep(id, 0, false), letterStep(id, 1, true), letterStep(id, 3, true), callStep(2, "Call")}
		},
		"on one day": func(id int64) []domain.PlanStep {
			at := func(s domain.PlanStep, when string) domain.PlanStep { s.When.At = when; return s }
			return []domain.PlanStep{letterStep(id, 1, false), at(callStep(0, "Call"), plan.AtOnce), at(letterStep(id, 0, true), "14:30"), letterStep(id, 1, true)}
		},
		"over a weekend and a change of the clocks": func(id int64) []domain.PlanStep {
			return []domain.PlanStep{letterStep(id, 4, false), letterStep(id, 15, true), callStep(1, "Call"), letterStep(id, 5, true)}
		},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			ada := inGermany(t, b, "Ada", "ada@quill.example")
			p := readyPlan(t, b, "P", steps(b.Template(t, "T", "Your room", "Dear {{person.first_name}},"))...)
			id := startPlan(t, b, p.ID, ada)
			_, ruler, err := b.App.Plans.RunRuler(ctx, b.Rep, id)
			if err != nil {
				t.Fatal(err)
			}
			walkOn(t, b, id, b.Now().AddDate(0, 3, 0))
			came, err := b.Store.RunSteps(ctx, id)
			if err != nil || len(came) != len(ruler.Steps) {
				t.Fatalf("%d of %d steps, %v; %s", len(came), len(ruler.Steps), err, run(t, b, id))
			}
			for i, s := range came {
				if said := ruler.Steps[i].At.UTC(); !s.At.Truncate(time.Minute).Equal(said) {
					t.Errorf("step %d was announced for %s and came at %s", s.StepKey, said.Format(time.RFC3339), s.At.Format(time.RFC3339Nano))
				}
			}
		})
	}
}

// A step that its owner wants at once comes at the first press, also right after a letter.
func TestPlan_nowAtTheFirstPress(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p := readyPlan(t, b, "P", letterStep(b.Template(t, "T", "S", "Dear {{person.first_name}},"), 0, false), callStep(5, "Call"))
	id := startPlan(t, b, p.ID, ada)
	r, err := b.Store.Run(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	b.Pass(r.StepAt.Sub(b.Now()) + 31*time.Millisecond)
	if _, err := b.App.Plans.Work(ctx); err != nil { // the letter is in the outbox
		t.Fatal(err)
	}
	if err := b.App.Plans.Do(ctx, b.Rep, id, plans.ActNow, ""); err != nil {
		t.Fatal(err)
	}
	walkOn(t, b, id, b.Now().Add(time.Minute))
	if got, err := b.Store.RunSteps(ctx, id); err != nil || len(got) != 2 {
		t.Errorf("%s, %v", run(t, b, id), err)
	}
}
