package app_test

import (
	"fmt"
	"slices"
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

func letterStep(template int64, days int, same bool) domain.PlanStep {
	return domain.PlanStep{Kind: plan.Letter, When: plan.Timing{Days: days, Working: true}, TemplateID: &template, Same: same}
}

func callStep(days int, words string) domain.PlanStep {
	return domain.PlanStep{Kind: plan.Task, When: plan.Timing{Days: days, Working: true}, Task: domain.TaskCall, Words: words}
}

// readyPlan makes a plan of the representative that can be used.
func readyPlan(t *testing.T, b *testbed.Bed, name string, steps ...domain.PlanStep) plans.Sheet {
	t.Helper()
	p, err := b.App.Plans.AddPlan(ctx, b.Rep, plans.Input{Name: name, Steps: steps})
	if err == nil {
		p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady)
	}
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// startPlan starts people on a plan and gives the run of the first.
func startPlan(t *testing.T, b *testbed.Bed, id int64, people ...int64) int64 {
	t.Helper()
	out, err := b.App.Plans.Start(ctx, b.Rep, id, people, plans.With{})
	if err != nil || len(out.Runs) == 0 {
		t.Fatal(out, err)
	}
	return out.Runs[0]
}

// untilThen moves the clock to a time and has plans and the outbox work till then.
func untilThen(t *testing.T, b *testbed.Bed, to string) {
	t.Helper()
	end, err := time.Parse("2006-01-02 15:04", to)
	if err != nil {
		t.Fatal(err)
	}
	for {
		planWork(t, b)
		if !b.Now().Before(end) {
			return
		}
		next, err := b.Store.NextStepAt(ctx)
		if err != nil {
			t.Fatal(err)
		}
		pass := min(6*time.Hour, end.Sub(b.Now()))
		if next != nil && next.After(b.Now()) {
			pass = min(pass, next.Sub(b.Now()))
		}
		b.Pass(pass)
	}
}

func planWork(t *testing.T, b *testbed.Bed) {
	t.Helper()
	for range 4 {
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		due, _, err := b.Store.Due(ctx, b.Now(), 1000)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range due {
			if err := b.Deliver(ctx, l.ID); err != nil {
				t.Fatal(err)
			}
		}
	}
}

// run gives a run as one line: state, reason, next step and its time, and what came.
func run(t *testing.T, b *testbed.Bed, id int64) string {
	t.Helper()
	r, err := b.Store.Run(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	steps, err := b.Store.RunSteps(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	out := string(r.State)
	if r.Reason != "" {
		out += " (" + r.Reason + ")"
	}
	if r.StepAt != nil {
		out += fmt.Sprintf(", step %d at %s", r.StepKey, r.StepAt.Format("2006-01-02 15:04"))
	}
	for _, s := range steps {
		out += fmt.Sprintf("; %s %d on %s", s.What, s.StepKey, s.At.Format("01-02 15:04"))
	}
	return out
}

func same(t *testing.T, what, got, want string) {
	t.Helper()
	if got != want {
		t.Errorf("%s:\n got %s\nwant %s", what, got, want)
	}
}

// inGermany has somebody live where the clock is one hour ahead of the sender's in winter.
func inGermany(t *testing.T, b *testbed.Bed, first, email string) int64 {
	t.Helper()
	id := b.Person(t, first, "Quill", email)
	p, err := b.Store.Person(ctx, id)
	if err == nil {
		_, err = b.App.Records.ChangePerson(ctx, b.Rep, id, p.Version, map[string]string{"person.country": "Germany", "person.phone": "030 123"})
	}
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// The bed's clock stands on Monday, 2 March 2026, at half past nine, UTC.
func TestPlan_goesThrough(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	first := b.Template(t, "First", "Hello {{person.first_name}}", "Dear {{person.first_name}},\n\nthe first.")
	second := b.Template(t, "Second", "Of its own", "Dear {{person.first_name}},\n\nthe second.")
	p := readyPlan(t, b, "Opening", letterStep(first, 1, false), letterStep(second, 3, true), callStep(1, "Call {{person.first_name}} on {{person.phone}}"), letterStep(second, 2, false))
	id := startPlan(t, b, p.ID, ada)
	same(t, "started", run(t, b, id), "going, step 1 at 2026-03-03 08:00")
	untilThen(t, b, "2026-03-03 07:59")
	same(t, "before its time", run(t, b, id), "going, step 1 at 2026-03-03 08:00")
	untilThen(t, b, "2026-03-12 12:00")
	same(t, "all", run(t, b, id), "finished; letter 1 on 03-03 08:00; letter 2 on 03-06 08:00; task 3 on 03-09 08:00; letter 4 on 03-11 08:00")

	letters := sentTo(t, b, ada)
	if len(letters) != 3 {
		t.Fatalf("%d letters", len(letters))
	}
	one, two, three := letters[0], letters[1], letters[2]
	if one.SubjectLine != "Hello Ada" || two.SubjectLine != "Re: Hello Ada" || three.SubjectLine != "Of its own" {
		t.Errorf("subjects: %q, %q, %q", one.SubjectLine, two.SubjectLine, three.SubjectLine)
	}
	// RFC 5322, section 3.6.4: In-Reply-To is the parent's id, References those of its parents and its own.
	if two.InReplyTo != one.MessageID || two.References != one.MessageID || *two.ThreadID != one.ID || three.InReplyTo != "" || three.ThreadID != nil {
		t.Errorf("conversation: %+v", two)
	}
	tasks, err := b.App.Tasks.Tasks(ctx, b.Rep, ada)
	if err != nil || len(tasks) != 1 || tasks[0].Text != "Call Ada on 030 123" || tasks[0].Kind != domain.TaskCall {
		t.Errorf("tasks: %+v, %v", tasks, err)
	}
	if !strings.Contains(events(t, b, ada), "plan: The plan “Opening” is finished") {
		t.Error(events(t, b, ada))
	}
}

// sentTo gives the letters that went to somebody, the earliest first.
func sentTo(t *testing.T, b *testbed.Bed, person int64) []domain.Letter {
	t.Helper()
	list, err := b.History(ctx, person, 200, 0)
	if err != nil {
		t.Fatal(err)
	}
	var out []domain.Letter
	for _, e := range slices.Backward(list) {
		if e.Kind != domain.EntrySent {
			continue
		}
		l, err := b.Store.Letter(ctx, *e.LetterID)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, l)
	}
	return out
}

// Each of these ends a run, before its second letter.
func TestPlan_stopsByItself(t *testing.T) {
	for why, do := range map[string]func(t *testing.T, b *testbed.Bed, ada int64, l domain.Letter){
		"They replied": func(t *testing.T, b *testbed.Bed, _ int64, l domain.Letter) {
			comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Re: Hello\nIn-Reply-To: <"+l.MessageID+">", "Yes.")
		},
		"They wrote to you": func(t *testing.T, b *testbed.Bed, _ int64, _ domain.Letter) {
			comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Something else", "Yes.")
		},
		"A letter bounced": func(t *testing.T, b *testbed.Bed, ada int64, l domain.Letter) {
			if err := b.Store.AddEntry(ctx, domain.Entry{PersonID: &ada, LetterID: &l.ID, Kind: domain.EntryBounced, At: b.Now()}); err != nil {
				t.Fatal(err)
			}
		},
		"They unsubscribed": func(t *testing.T, b *testbed.Bed, ada int64, l domain.Letter) {
			if err := b.App.Inbox.OptOutBy(ctx, l.Token); err != nil {
				t.Fatal(err)
			}
		},
		"Their record was deleted": func(t *testing.T, b *testbed.Bed, ada int64, _ domain.Letter) {
			if err := b.App.Records.Delete(ctx, b.Rep, "person", ada); err != nil {
				t.Fatal(err)
			}
		},
		"The record was merged into Bea Quill": func(t *testing.T, b *testbed.Bed, ada int64, _ domain.Letter) {
			bea := b.Person(t, "Bea", "Quill", "bea@quill.example")
			if _, err := b.Store.MergePeople(ctx, domain.Merge{KeptID: bea, GoneID: ada, UserID: b.Rep.ID, At: b.Now()}); err != nil {
				t.Fatal(err)
			}
		},
		"The deal was won": func(t *testing.T, b *testbed.Bed, ada int64, _ domain.Letter) {
			id, err := b.Store.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &ada, Stage: "quoted", Currency: "EUR", CreatedAt: b.Now()}, nil)
			if err == nil {
				err = b.App.Records.ChangeRecord(ctx, b.Rep, "deal", id, "deal.stage", "quoted", "won")
			}
			if err != nil {
				t.Fatal(err)
			}
		},
		"Stopped by Imre Falk": func(t *testing.T, b *testbed.Bed, ada int64, _ domain.Letter) {
			rows, _, err := b.App.Plans.Runs(ctx, b.Rep, domain.RunsQuery{PersonID: ada, Limit: 5})
			if err == nil {
				err = b.App.Plans.Do(ctx, b.Rep, rows[0].ID, plans.ActStop, "")
			}
			if err != nil {
				t.Fatal(err)
			}
		},
	} {
		b := testbed.New(t)
		ada := inGermany(t, b, "Ada", "ada@quill.example")
		tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
		p := readyPlan(t, b, "Opening", letterStep(tpl, 0, false), letterStep(tpl, 3, true))
		id := startPlan(t, b, p.ID, ada)
		untilThen(t, b, "2026-03-03 12:00")
		do(t, b, ada, sentTo(t, b, ada)[0])
		untilThen(t, b, "2026-03-20 12:00")
		if got := run(t, b, id); !strings.HasPrefix(got, "stopped ("+why+")") {
			t.Errorf("%s: %s", why, got)
		}
	}
}

// An automatic answer stops nothing; it puts the next step off until the day that it states.
func TestPlan_waitsForWhoIsAway(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	tpl := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello.")
	p := readyPlan(t, b, "Opening", letterStep(tpl, 0, false), letterStep(tpl, 3, true))
	id := startPlan(t, b, p.ID, ada)
	untilThen(t, b, "2026-03-03 12:00")
	l := sentTo(t, b, ada)[0]
	// Anybody can write her address and the subject: it names no letter that only she got.
	before := run(t, b, id)
	for _, subject := range []string{"Out of office", "Re: Hello"} {
		comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nAuto-Submitted: auto-replied\nSubject: "+subject, "I am away until 14 February 2027.")
		planWork(t, b)
		same(t, "forged: "+subject, run(t, b, id), before)
	}
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Out of office\nAuto-Submitted: auto-replied\nIn-Reply-To: <"+l.MessageID+">", "I am away until 14 March 2026.")
	planWork(t, b)
	same(t, "put off", run(t, b, id), "going, step 2 at 2026-03-16 08:00; letter 1 on 03-03 08:00")
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Out of office\nAuto-Submitted: auto-replied\nIn-Reply-To: <"+l.MessageID+">", "I am not here.")
	untilThen(t, b, "2026-03-17 12:00")
	same(t, "came then", run(t, b, id), "finished; letter 1 on 03-03 08:00; letter 2 on 03-16 08:00")
}

// Nothing incomplete goes by itself: it waits as a letter to proofread, and the run goes on
// when that was sent.
func TestPlan_waitsWithWhatIsOpen(t *testing.T) {
	for what, c := range map[string]struct {
		body string
		do   func(t *testing.T, b *testbed.Bed, ada, tpl int64)
		why  string
	}{
		"a gap":   {"Dear {{person.first_name}}, in {{person.city}}.", nil, "City is missing; fill it in"},
		"a blank": {"Dear {{person.first_name}}, {{?reason}}.", nil, "Reason is missing; fill it in"},
		"a withdrawn template": {"Dear {{person.first_name}}.", func(t *testing.T, b *testbed.Bed, _, tpl int64) {
			s, err := b.Store.Template(ctx, tpl)
			s.State = domain.TemplateWithdrawn
			if err == nil {
				err = b.Store.UpdateTemplate(ctx, s)
			}
			if err != nil {
				t.Fatal(err)
			}
		}, "The template “First” was withdrawn; choose another."},
		"another name": {"Dear {{person.first_name}}.", func(t *testing.T, b *testbed.Bed, ada, _ int64) {
			p, err := b.Store.Person(ctx, ada)
			if err == nil {
				_, err = b.App.Records.ChangePerson(ctx, b.Rep, ada, p.Version, map[string]string{"person.last_name": "Stone"})
			}
			if err != nil {
				t.Fatal(err)
			}
		}, "Last name was “Quill” when the plan began and is “Stone” now"},
	} {
		b := testbed.New(t)
		ada := inGermany(t, b, "Ada", "ada@quill.example")
		tpl := b.Template(t, "First", "Hello", c.body)
		p := readyPlan(t, b, "Opening", letterStep(tpl, 1, false), callStep(1, "Call"))
		id := startPlan(t, b, p.ID, ada)
		if c.do != nil {
			c.do(t, b, ada, tpl)
		}
		untilThen(t, b, "2026-03-06 12:00")
		same(t, what, run(t, b, id), "waiting ("+c.why+")")
		if n := len(sentTo(t, b, ada)); n != 0 {
			t.Fatalf("%s: %d letters went", what, n)
		}
		r, err := b.Store.Run(ctx, id)
		if err != nil || r.LetterID == nil {
			t.Fatal(what, r, err)
		}
		s, err := b.App.Desk.Letter(ctx, b.Rep, *r.LetterID)
		if err != nil {
			t.Fatal(err)
		}
		s.Body = document.NewPlain("Dear Ada, as it should be.\n")
		if err := sendAs(b, s); err != nil {
			t.Fatal(what, err)
		}
		untilThen(t, b, "2026-03-10 12:00")
		if got := run(t, b, id); !strings.HasPrefix(got, "finished; letter 1 on 03-06") || !strings.Contains(got, "task 2 on 03-09") {
			t.Errorf("%s: %s", what, got)
		}
	}
}

// sendAs saves the words of a letter and sends it.
func sendAs(b *testbed.Bed, s desk.LetterSheet) error {
	saved, err := b.App.Desk.SaveDraft(ctx, b.Rep, s.ID, desk.Wording{Version: s.Version, Subject: s.Subject, Body: s.Body})
	if err != nil {
		return err
	}
	_, err = b.App.Desk.Send(ctx, b.Rep, s.ID, saved.Version, saved.ToEmail, desk.When{})
	return err
}
