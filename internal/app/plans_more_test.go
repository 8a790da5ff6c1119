package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// The clock is set by a day and by a year, both ways: nothing comes twice, nothing is lost, and
// nothing comes before its day.
func TestPlan_clockIsSet(t *testing.T) {
	for _, by := range []time.Duration{-24 * time.Hour, -365 * 24 * time.Hour, 24 * time.Hour, 365 * 24 * time.Hour} {
		b := testbed.New(t)
		ada := inGermany(t, b, "Ada", "ada@quill.example")
		tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
		p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false), callStep(1, "Call"), letterStep(tpl, 1, false))
		id := startPlan(t, b, p.ID, ada)
		untilThen(t, b, "2026-03-03 12:00")
		b.Pass(by)
		planWork(t, b)
		came := strings.Count(run(t, b, id), "; ")
		if by < 0 && came != 1 {
			t.Errorf("by %s: %s", by, run(t, b, id))
		}
		b.Pass(-by)
		untilThen(t, b, "2026-03-10 12:00")
		if got := run(t, b, id); !strings.HasPrefix(got, "finished") && by < 24*time.Hour*2 || strings.Count(got, "; letter") > 2 || strings.Count(got, "; task") > 1 {
			t.Errorf("by %s: %s", by, got)
		}
	}
}

// Who is on a plan when it changes: what happens to them is said before, and happens.
func TestPlan_changedWithPeopleOnIt(t *testing.T) {
	b := testbed.New(t)
	ada, bea, cleo := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bea", "bea@quill.example"), inGermany(t, b, "Cleo", "cleo@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 0, false), callStep(2, "Call"), letterStep(tpl, 5, true))
	a1 := startPlan(t, b, p.ID, ada)
	untilThen(t, b, "2026-03-05 12:00") // she is past the call
	b1 := startPlan(t, b, p.ID, bea)
	untilThen(t, b, "2026-03-06 12:00") // and she past the first letter
	c1 := startPlan(t, b, p.ID, cleo)
	keys := func(s plans.Sheet, order ...int) []domain.PlanStep {
		var out []domain.PlanStep
		for _, i := range order {
			if i == 0 {
				out = append(out, callStep(1, "A new call"))
			} else {
				out = append(out, *s.Said.Step(i))
			}
		}
		return out
	}
	// A new call before the old one, which goes; the last letter comes after two days.
	steps := keys(p, 1, 0, 3)
	steps[2].When.Days = 2
	in := plans.Input{Name: "Opening", Steps: steps}
	e, err := b.App.Plans.PreviewChange(ctx, b.Rep, p.ID, in)
	if err != nil || e.People != 3 || e.Seen == "" {
		t.Fatalf("%+v, %v", e, err)
	}
	got := ""
	for _, s := range e.Steps {
		got += fmt.Sprintf("%s: %d get it, %d are past it, %d lose it\n", s.Name, s.Gets, s.Misses, s.Loses)
	}
	// Ada did the call that goes: she goes on behind the last step of hers that is left.
	same(t, "what it does", got, "A new call: 3 get it, 0 are past it, 0 lose it\nCall: 0 get it, 0 are past it, 2 lose it\n")
	if e.MovesN != 2 { // Cleo's next letter stays on its day
		t.Errorf("%d dates move: %+v", e.MovesN, e.Moves)
	}
	if _, err := b.App.Plans.ChangePlan(ctx, b.Rep, p.ID, p.Version+1, in, ""); err == nil {
		t.Error("a change that nobody looked at is stored")
	}
	sheet, err := b.App.Plans.Plan(ctx, b.Rep, p.ID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err = b.App.Plans.ChangePlan(ctx, b.Rep, p.ID, sheet.Version, in, e.Seen); err != nil {
		t.Fatal(err)
	}
	untilThen(t, b, "2026-03-20 12:00")
	for _, one := range []struct {
		name string
		run  int64
		want string
	}{
		{"Ada", a1, "finished; letter 1 on 03-03 08:00; task 2 on 03-05 08:00; task 4 on 03-09 08:00; letter 3 on 03-11 08:00"},
		{"Bea", b1, "finished; letter 1 on 03-06 08:00; task 4 on 03-09 08:00; letter 3 on 03-11 08:00"},
		{"Cleo", c1, "finished; letter 1 on 03-09 08:00; task 4 on 03-10 08:00; letter 3 on 03-12 08:00"},
	} {
		same(t, one.name, run(t, b, one.run), one.want)
	}
}

// A plan that is deleted stops who is on it; letters that wait are taken out of the outbox.
func TestPlan_deletedWithPeopleOnIt(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
	step := letterStep(tpl, 0, false)
	step.When.At = plan.AtOnce
	p := readyPlan(t, b, "Opening", step, letterStep(tpl, 3, true))
	id := startPlan(t, b, p.ID, ada)
	if _, err := b.App.Plans.Work(ctx); err != nil { // the letter waits in the outbox
		t.Fatal(err)
	}
	if err := b.App.Plans.DeletePlan(ctx, b.Rep, p.ID); err != nil {
		t.Fatal(err)
	}
	untilThen(t, b, "2026-03-20 12:00")
	if got := run(t, b, id); !strings.HasPrefix(got, "stopped (The plan was deleted by Imre Falk); letter 1") {
		t.Error(got)
	}
	if n := len(sentTo(t, b, ada)); n != 0 {
		t.Errorf("%d letters went", n)
	}
	if err := b.App.Plans.PutBackPlan(ctx, b.Rep, p.ID); err != nil {
		t.Error(err)
	}
}

// Where nobody's clock is known, it is the sender's; else UTC. One person is on one plan at a
// time, unless it is said otherwise.
func TestPlan_starting(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello. {{?why: text optional}}")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false))
	q := readyPlan(t, b, "Another", letterStep(tpl, 1, false))
	r, err := b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{}, nil)
	if err != nil || r.ZoneKnown || r.Zone != "UTC" || r.Steps[0].Local != "2026-03-03T09:00" {
		t.Errorf("%+v, %v", r, err)
	}
	if err := b.App.Desk.SetProfile(ctx, b.Rep, desk.Profile{TimeZone: "America/New_York", Country: "US"}); err != nil {
		t.Fatal(err)
	}
	if b.Rep, err = b.Store.User(ctx, b.Rep.ID); err != nil {
		t.Fatal(err)
	}
	r, err = b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{Said: domain.RunSaid{At: "14:30", Fills: domain.Own{"1?why": "So"}}}, nil)
	if err != nil || r.ZoneKnown || r.Zone != "America/New_York" || r.Steps[0].Local != "2026-03-03T14:30" || !strings.Contains(r.Steps[0].Text, "hello. So") {
		t.Errorf("%+v, %v", r, err)
	}
	id := startPlan(t, b, p.ID, ada)
	same(t, "started", run(t, b, id), "going, step 1 at 2026-03-03 14:00")
	for _, again := range []struct {
		plan   int64
		anyway bool
		left   string
	}{{p.ID, true, "Is on this plan already"}, {q.ID, false, "Is going through the plan “Opening” (Imre Falk)"}, {q.ID, true, ""}} {
		out, err := b.App.Plans.Start(ctx, b.Rep, again.plan, []int64{ada}, plans.With{Anyway: again.anyway})
		if err != nil || again.left != "" && (len(out.Left) != 1 || out.Left[0].Why != again.left) || again.left == "" && len(out.Runs) != 1 {
			t.Errorf("%+v: %+v, %v", again, out, err)
		}
	}
	for what, with := range map[string]plans.With{"a zone": {Said: domain.RunSaid{Zone: "Atlantis"}}, "the machine's zone": {Said: domain.RunSaid{Zone: "Local"}}, "an hour": {Said: domain.RunSaid{At: "9am"}}} {
		if _, err := b.App.Plans.Start(ctx, b.Rep, q.ID, []int64{ada}, with); err == nil {
			t.Errorf("%s that is none is taken", what)
		}
	}
}

// What the owner of a run does with it.
func TestPlan_doneByHand(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false), callStep(1, "Call"), letterStep(tpl, 1, true))
	id := startPlan(t, b, p.ID, ada)
	do := func(act plans.Act, to, want string) {
		t.Helper()
		if err := b.App.Plans.Do(ctx, b.Rep, id, act, to); err != nil {
			t.Fatal(act, err)
		}
		same(t, string(act), run(t, b, id), want)
	}
	do(plans.ActDelay, "2026-03-07", "going, step 1 at 2026-03-09 08:00") // a Saturday
	do(plans.ActPause, "", "paused")
	untilThen(t, b, "2026-03-10 12:00")
	do(plans.ActGoOn, "", "going, step 1 at 2026-03-11 08:00")
	do(plans.ActNow, "", "going, step 1 at 2026-03-10 12:00")
	planWork(t, b)
	do(plans.ActSkip, "", "going, step 3 at 2026-03-11 08:00; letter 1 on 03-10 12:00; skipped 2 on 03-10 12:00")
	if err := b.App.Plans.Do(ctx, b.Lead, id, plans.ActStop, ""); err == nil {
		t.Error("a colleague stops it")
	}
	do(plans.ActStop, "", "stopped (Stopped by Imre Falk); letter 1 on 03-10 12:00; skipped 2 on 03-10 12:00")
	if err := b.App.Plans.Do(ctx, b.Rep, id, plans.ActGoOn, ""); err == nil {
		t.Error("it goes on after its end")
	}
}

// A letter that waits to be proofread is given to somebody else at the desk: the run does not
// count it. Other wordings of a template go to those who read their language.
func TestPlan_letterOfSomebodyElse(t *testing.T) {
	b := testbed.New(t)
	ada, bea := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bea", "bea@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, in {{person.city}}.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false), callStep(1, "Call"))
	id := startPlan(t, b, p.ID, ada)
	untilThen(t, b, "2026-03-03 12:00")
	r, err := b.Store.Run(ctx, id)
	if err != nil || r.LetterID == nil {
		t.Fatal(r, err)
	}
	s, err := b.App.Desk.Letter(ctx, b.Rep, *r.LetterID)
	if err != nil {
		t.Fatal(err)
	}
	if s, err = b.App.Desk.SetAddressee(ctx, b.Rep, s.ID, desk.Wording{Version: s.Version, Subject: s.Subject, Body: s.Body}, desk.Addressee{PersonID: bea}); err != nil {
		t.Fatal(err)
	}
	s.Body = document.NewPlain("Dear Bea, as it should be.\n")
	if err := sendAs(b, s); err != nil {
		t.Fatal(err)
	}
	untilThen(t, b, "2026-03-10 12:00")
	same(t, "the run", run(t, b, id), "waiting (The letter of this step went to somebody else; write it anew, or skip the step)")
	if n := len(sentTo(t, b, ada)); n != 0 {
		t.Errorf("%d letters went to her", n)
	}
	if err := b.App.Plans.Do(ctx, b.Rep, id, plans.ActStop, ""); err != nil {
		t.Fatal(err)
	}
	if n := len(sentTo(t, b, bea)); n != 1 {
		t.Errorf("%d letters went to the other", n)
	}
}
