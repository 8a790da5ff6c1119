package app_test

import (
	"testing"

	"lucidletter/core/plan"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/testbed"
)

// Acts of plans and standing orders: each is done whole or not at all.
func init() {
	made := func(t *testing.T, b *testbed.Bed) (plans.Sheet, int64) {
		t.Helper()
		step := letterStep(b.Template(t, "T", "S", "Dear {{person.first_name}}"), 0, false)
		step.When.At = plan.AtOnce
		return readyPlan(t, b, "Opening", step, callStep(1, "Call"), letterStep(*step.TemplateID, 1, true)), inGermany(t, b, "Ada", "ada@quill.example")
	}
	onIt := func(t *testing.T, b *testbed.Bed) (plans.Sheet, int64) {
		t.Helper()
		p, ada := made(t, b)
		return p, startPlan(t, b, p.ID, ada)
	}
	oneActs["Start a plan"] = func(t *testing.T, b *testbed.Bed) func() error {
		p, ada := made(t, b)
		return func() error {
			_, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{})
			return err
		}
	}
	oneActs["ChangePlan"] = func(t *testing.T, b *testbed.Bed) func() error {
		p, _ := onIt(t, b)
		in := plans.Input{Name: "Other", Steps: p.Said.Steps[1:]}
		e, err := b.App.Plans.PreviewChange(ctx, b.Rep, p.ID, in)
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Plans.ChangePlan(ctx, b.Rep, p.ID, p.Version, in, e.Seen)
			return err
		}
	}
	oneActs["DeletePlan"] = func(t *testing.T, b *testbed.Bed) func() error {
		p, _ := onIt(t, b)
		return func() error { return b.App.Plans.DeletePlan(ctx, b.Rep, p.ID) }
	}
	oneActs["Skip a step"] = func(t *testing.T, b *testbed.Bed) func() error {
		_, run := onIt(t, b)
		return func() error { return b.App.Plans.Do(ctx, b.Rep, run, plans.ActSkip, "") }
	}
}
