package app_test

import (
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
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

// A run tells what came and ends when nothing more comes, whatever its owner does with a letter.
func TestPlan_runsThatEnd(t *testing.T) {
	type bed struct {
		*testbed.Bed
		person, run int64
		plan        plans.Sheet
	}
	begin := func(t *testing.T, body string, steps ...domain.PlanStep) bed {
		t.Helper()
		b := testbed.New(t)
		ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
		p := readyPlan(t, b, "P", append([]domain.PlanStep{letterStep(b.Template(t, "T", "Your room", body), 0, false)}, steps...)...)
		return bed{b, ada, startPlan(t, b, p.ID, ada), p}
	}
	draft := func(t *testing.T, b bed) desk.LetterSheet {
		t.Helper()
		r, err := b.Store.Run(ctx, b.run)
		if err != nil || r.LetterID == nil {
			t.Fatal(run(t, b.Bed, b.run), err)
		}
		l, err := b.App.Desk.Letter(ctx, b.Rep, *r.LetterID)
		if err != nil {
			t.Fatal(err)
		}
		return l
	}
	const gap = "Dear {{person.first_name}}, in {{person.city}}."
	t.Run("the last letter is sent while the run is paused", func(t *testing.T) {
		b := begin(t, gap)
		untilThen(t, b.Bed, "2026-03-03 12:00")
		l := draft(t, b)
		if err := b.App.Plans.Do(ctx, b.Rep, b.run, plans.ActPause, ""); err != nil {
			t.Fatal(err)
		}
		l, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "person.city", "York", false)
		if err != nil {
			t.Fatal(err)
		}
		if err := sendAs(b.Bed, l); err != nil {
			t.Fatal(err)
		}
		b.Pass(time.Minute)
		planWork(t, b.Bed)
		same(t, "run", run(t, b.Bed, b.run)[:8], "finished")
	})
	t.Run("the step of a draft is removed before the draft is sent", func(t *testing.T) {
		b := begin(t, gap, callStep(5, "Call"))
		untilThen(t, b.Bed, "2026-03-03 12:00")
		l := draft(t, b)
		now, err := b.App.Plans.Plan(ctx, b.Rep, b.plan.ID)
		if err != nil {
			t.Fatal(err)
		}
		if err := b.App.Plans.Do(ctx, b.Rep, b.run, plans.ActPause, ""); err != nil {
			t.Fatal(err)
		}
		in := plans.Input{Name: "P", Steps: now.Said.Steps[1:]}
		e, err := b.App.Plans.PreviewChange(ctx, b.Rep, b.plan.ID, in)
		if err == nil {
			_, err = b.App.Plans.ChangePlan(ctx, b.Rep, b.plan.ID, now.Version, in, e.Seen)
		}
		if err != nil {
			t.Fatal(err)
		}
		if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "person.city", "York", false); err != nil {
			t.Fatal(err)
		}
		if err := sendAs(b.Bed, l); err != nil {
			t.Fatal(err)
		}
		planWork(t, b.Bed)
		steps, err := b.Store.RunSteps(ctx, b.run)
		if err != nil || len(steps) > 1 || len(steps) == 1 && steps[0].What != "letter" {
			t.Errorf("%+v, %v", steps, err)
		}
	})
	t.Run("a letter is taken back and discarded", func(t *testing.T) {
		b := begin(t, "Dear {{person.first_name}}.", callStep(1, "Call"))
		b.Pass(24 * time.Hour)
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		r, err := b.Store.Run(ctx, b.run)
		if err != nil || r.LastID == nil {
			t.Fatal(run(t, b.Bed, b.run), err)
		}
		if _, err := b.App.Desk.TakeBack(ctx, b.Rep, *r.LastID); err != nil {
			t.Fatal(err)
		}
		if err := b.App.Desk.Discard(ctx, b.Rep, *r.LastID); err != nil {
			t.Fatal(err)
		}
		b.Pass(72 * time.Hour)
		planWork(t, b.Bed)
		if err := b.App.Plans.Do(ctx, b.Rep, b.run, plans.ActGoOn, ""); err != nil {
			t.Fatal(err)
		}
		b.Pass(72 * time.Hour)
		planWork(t, b.Bed)
		same(t, "run", run(t, b.Bed, b.run)[:8], "finished")
	})
	t.Run("the value that was missing is filled on the record", func(t *testing.T) {
		b := begin(t, gap)
		untilThen(t, b.Bed, "2026-03-03 12:00")
		draft(t, b)
		put(t, b.Bed, b.person, "person.city", "York")
		planWork(t, b.Bed)
		same(t, "run", run(t, b.Bed, b.run)[:8], "finished")
		if got := textsOf(t, b.Bed, b.person); !strings.Contains(got, "York") {
			t.Errorf("%s", got)
		}
	})
	t.Run("started again and again at once", func(t *testing.T) {
		b := begin(t, "Dear {{person.first_name}}.")
		untilThen(t, b.Bed, "2026-03-03 12:00")
		for range 5 {
			out, err := b.App.Plans.Start(ctx, b.Rep, b.plan.ID, []int64{b.person}, plans.With{})
			if err != nil || len(out.Runs) > 0 || len(out.Left) != 1 || !strings.HasPrefix(out.Left[0].Why, "Went through this plan before") {
				t.Fatalf("%+v, %v", out, err)
			}
		}
		if got := sentTo(t, b.Bed, b.person); len(got) != 1 {
			t.Errorf("%d letters", len(got))
		}
		if out, err := b.App.Plans.Start(ctx, b.Rep, b.plan.ID, []int64{b.person}, plans.With{Anyway: true}); err != nil || len(out.Runs) != 1 {
			t.Errorf("anyway: %+v, %v", out, err)
		}
	})
	t.Run("several open deals", func(t *testing.T) {
		b := testbed.New(t)
		ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
		withDeal(t, b, ada, "Oven")
		cellar := withDeal(t, b, ada, "Cellar")
		p := readyPlan(t, b, "P", letterStep(b.Template(t, "T", "S", "Dear {{person.first_name}}, your {{deal.name}}."), 0, false))
		out, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{})
		if err != nil || len(out.Runs) > 0 || !strings.HasPrefix(out.Left[0].Why, "Has 2 open deals") {
			t.Errorf("%+v, %v", out, err)
		}
		look, err := b.App.Plans.OutlookFor(ctx, b.Rep, p.ID, []int64{ada}, plans.With{})
		if err != nil || look.People != 0 || len(look.Left) != 1 {
			t.Errorf("before: %+v, %v", look, err)
		}
		if out, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{DealID: &cellar}); err != nil || len(out.Runs) != 1 {
			t.Errorf("with one: %+v, %v", out, err)
		}
	})
}

// A run about a deal that is another person's by now stops and says so; its page can be opened.
func TestPlan_dealOfAnother(t *testing.T) {
	b := testbed.New(t)
	ada, bea := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bea", "Stone", "bea@stone.example")
	deal := withDeal(t, b, ada, "Oven")
	p := readyPlan(t, b, "P", callStep(1, "Call about {{deal.name}}"))
	id := startPlan(t, b, p.ID, ada)
	d, err := b.Store.Deal(ctx, deal)
	if err != nil {
		t.Fatal(err)
	}
	d.MainContactID = &bea
	if err := b.Store.UpdateDeal(ctx, d); err != nil {
		t.Fatal(err)
	}
	if _, _, err := b.App.Plans.RunRuler(ctx, b.Rep, id); err != nil {
		t.Errorf("its page: %v", err)
	}
	untilThen(t, b, "2026-03-04 12:00")
	same(t, "run", run(t, b, id), "stopped (The deal is another person’s now)")
}

// A letter of a plan that could not go in its time, since nothing ran, goes at that time of the next
// day that it may go on: not at night and not at the weekend; what somebody sends for goes now.
func TestPlan_lateStep(t *testing.T) {
	const form = "Mon 15:04"
	for name, c := range map[string]struct {
		wakes string // when the program runs again, on the clock in London
		now   bool   // it is sent for
		want  string
	}{
		"an hour late":          {"2026-03-06 10:00", false, "Fri 10:00"},
		"in the afternoon":      {"2026-03-06 16:55", false, "Fri 16:55"},
		"at night":              {"2026-03-06 23:10", false, "Mon 09:00"},
		"on Sunday":             {"2026-03-08 08:00", false, "Mon 09:00"},
		"on Monday before nine": {"2026-03-09 03:00", false, "Mon 09:00"},
		"sent for on Sunday":    {"2026-03-08 08:00", true, "Sun 08:00"},
	} {
		b := testbed.New(t) // Monday, 2 March, 09:30
		p := readyPlan(t, b, "P", letterStep(b.Template(t, "T", "Your room", "Dear {{person.first_name}},"), 4, false))
		id := startPlan(t, b, p.ID, b.Person(t, "Ada", "Quill", "ada@quill.example"))
		wakes, err := time.Parse("2006-01-02 15:04", c.wakes)
		if err != nil {
			t.Fatal(err)
		}
		b.Pass(wakes.Sub(b.Now()))
		if c.now {
			if err := b.App.Plans.Do(ctx, b.Rep, id, plans.ActNow, ""); err != nil {
				t.Fatal(err)
			}
		}
		walkOn(t, b, id, wakes.Add(72*time.Hour))
		var at *time.Time
		rows, err := b.Store.Letters(ctx, domain.LettersQuery{SenderID: b.Rep.ID, States: []domain.LetterState{domain.Sent}, Limit: 5})
		if err != nil || len(rows) != 1 {
			t.Fatalf("%s: %+v, %v", name, rows, err)
		}
		if at = rows[0].SentAt; at == nil || at.Truncate(time.Minute).Format(form) != c.want {
			t.Errorf("%s: it went %v, want %s", name, at, c.want)
		}
	}
}

// A plan that somebody may not see has no name for them, on a person's page nor in an order.
func TestNames_ofWhatOthersMayNotSee(t *testing.T) {
	b := testbed.New(t)
	second := domain.User{Email: "celia@fernhollow.example", FirstName: "Celia", LastName: "Voss", Role: access.Representative, PasswordHash: "-"}
	var err error
	if second.ID, err = b.Store.AddUser(ctx, second); err != nil {
		t.Fatal(err)
	}
	p := readyPlan(t, b, "Winning back Quill", letterStep(b.Template(t, "Secret words", "Your room", "Dear {{person.first_name}},"), 4, false))
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	startPlan(t, b, p.ID, ada)
	if err := b.App.Plans.SetPlanRights(ctx, b.Rep, p.ID, access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}); err != nil {
		t.Fatal(err)
	}
	for _, row := range []struct {
		u          domain.User
		name, next string
	}{{b.Rep, "Winning back Quill", "Secret words"}, {second, "a plan you can’t see", ""}} {
		list, _, err := b.App.Plans.Runs(ctx, row.u, domain.RunsQuery{PersonID: ada, Limit: 9})
		if err != nil || len(list) != 1 || list[0].Plan != row.name || list[0].Next != row.next {
			t.Errorf("%s reads %+v, %v", row.u.FirstName, list, err)
		}
	}
}
