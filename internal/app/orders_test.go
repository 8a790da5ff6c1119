package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// order makes a standing order of the representative and switches it on.
func order(t *testing.T, b *testbed.Bed, name string, said domain.OrderSaid) orders.Sheet {
	t.Helper()
	o, err := b.App.Orders.Add(ctx, b.Rep, orders.Input{Name: name, Said: said})
	if err == nil {
		o, err = b.App.Orders.Switch(ctx, b.Rep, o.ID, o.Version, true)
	}
	if err != nil {
		t.Fatal(err)
	}
	return o
}

// log gives what an order did, the first first.
func log(t *testing.T, b *testbed.Bed, id int64) string {
	t.Helper()
	list, err := b.App.Orders.Log(ctx, b.Rep, id)
	if err != nil {
		t.Fatal(err)
	}
	out := ""
	for i := len(list) - 1; i >= 0; i-- {
		out += fmt.Sprintf("%s %s: %s\n", list[i].Person, list[i].Result, list[i].Text)
	}
	return out
}

func setField(path, value string) domain.OrderAct {
	return domain.OrderAct{Do: plan.SetField, Path: path, Value: value}
}

func changes(path, value string) plan.Trigger {
	return plan.Trigger{On: plan.OnChanged, Record: "person", Path: path, Value: value}
}

// put changes a field of a person.
func put(t *testing.T, b *testbed.Bed, person int64, path, value string) {
	t.Helper()
	p, err := b.Store.Person(ctx, person)
	if err == nil {
		_, err = b.App.Records.ChangePerson(ctx, b.Rep, person, p.Version, map[string]string{path: value})
	}
	if err != nil {
		t.Fatal(err)
	}
}

func TestOrder_acts(t *testing.T) {
	b := testbed.New(t)
	ada, bea := inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bea", "bea@quill.example")
	tpl := b.Template(t, "Welcome", "Welcome, {{person.first_name}}", "Dear {{person.first_name}}, welcome.")
	city := b.Template(t, "City", "In {{person.city}}", "Dear {{person.first_name}}, in {{person.city}}.")
	series := readyPlan(t, b, "Opening", callStep(1, "Call {{person.first_name}}"))
	put(t, b, bea, "lead.status", "qualified") // before it is on
	o := order(t, b, "Qualified", domain.OrderSaid{When: changes("lead.status", "qualified"), Filter: `person.first_name starts "A"`, Do: []domain.OrderAct{
		{Do: plan.SendLetter, TemplateID: &tpl}, {Do: plan.StartPlan, PlanID: &series.ID},
		{Do: plan.MakeTask, Task: domain.TaskCall, Words: "Call {{person.first_name}} in {{person.city|the city}}", Days: 2}, setField("lead.source", "fair"),
	}})
	waits := order(t, b, "In the city", domain.OrderSaid{When: changes("lead.source", ""), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &city}}})
	planWork(t, b)
	same(t, "what was before", log(t, b, o.ID), "")
	put(t, b, ada, "lead.status", "qualified")
	put(t, b, bea, "lead.status", "new")
	put(t, b, bea, "lead.status", "qualified") // her name begins with another letter
	planWork(t, b)
	same(t, "the log", log(t, b, o.ID), "Ada Quill done: Sent “Welcome, Ada” to them; Started on “Opening”; Made a task: Call Ada in the city; Set Lead source to “fair”\n")
	same(t, "the next one", log(t, b, waits.ID), "Ada Quill waiting: “In ‹City›” waits to be proofread: City is missing; fill it in\n")
	if l := sentTo(t, b, ada); len(l) != 1 || l[0].SubjectLine != "Welcome, Ada" || *l[0].OrderID != o.ID {
		t.Errorf("%+v", l)
	}
	drafts, err := b.App.Orders.Drafts(ctx, b.Rep)
	if err != nil || len(drafts) != 1 || drafts[0].LetterID == nil {
		t.Errorf("drafts: %+v, %v", drafts, err)
	}
	planWork(t, b)
	if n := strings.Count(log(t, b, o.ID), "\n"); n != 1 {
		t.Errorf("it acted %d times on one event", n)
	}
}

// What a person or a deal does: an answer, a click, a question that is answered; a deal's stage.
func TestOrder_actsOnWhatHappens(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	note := b.Template(t, "Note", "{{person.first_name}} wrote", "Look at {{person.full_name}}.")
	replied := order(t, b, "Replied", domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{{Do: plan.SendNote, TemplateID: &note, Colleagues: []int64{b.Lead.ID}}, {Do: plan.StopPlan}}})
	clicked := order(t, b, "Clicked", domain.OrderSaid{When: plan.Trigger{On: plan.OnClick}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Call"}}})
	won := order(t, b, "Won", domain.OrderSaid{When: plan.Trigger{On: plan.OnChanged, Record: "deal", Path: "deal.stage", Value: "won"}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Thank {{person.first_name}} for {{deal.name}}"}}})
	made := order(t, b, "Made", domain.OrderSaid{When: plan.Trigger{On: plan.OnCreated, Record: "person"}, Do: []domain.OrderAct{setField("lead.source", "fair")}})
	l := b.Letter(t, ada, b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello."))
	gone(t, b, l, desk.When{})
	sent, err := b.Store.Letter(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Re: Hello\nIn-Reply-To: <"+sent.MessageID+">", "Yes.")
	for _, machine := range []bool{true, false} {
		if err := b.Store.AddEntry(ctx, domain.Entry{PersonID: &ada, LetterID: &l.ID, Kind: domain.EntryClicked, Machine: machine, At: b.Now()}); err != nil {
			t.Fatal(err)
		}
	}
	deal, err := b.Store.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &ada, Stage: "quoted", Currency: "EUR", CreatedAt: b.Now()}, nil)
	if err == nil {
		err = b.App.Records.ChangeRecord(ctx, b.Rep, "deal", deal, "deal.stage", "quoted", "won")
	}
	if err != nil {
		t.Fatal(err)
	}
	b.Person(t, "Cleo", "Stone", "cleo@stone.example")
	planWork(t, b)
	same(t, "an answer", log(t, b, replied.ID), "Ada Quill done: Sent “Ada wrote” to colleagues; Nothing to stop\n")
	same(t, "a click, not a machine's", log(t, b, clicked.ID), "Ada Quill done: Made a task: Call\n")
	same(t, "a deal", log(t, b, won.ID), "Ada Quill done: Made a task: Thank Ada for A room\n")
	same(t, "a new person", log(t, b, made.ID), "Cleo Stone done: Set Lead source to “fair”\n")
}

// Dates: days before one, once a day, made up for after the program was off, not after the clock
// was set back.
func TestOrder_actsOnDates(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	deal, err := b.Store.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &ada, Stage: "quoted", CloseDate: "2026-03-10", Currency: "EUR", CreatedAt: b.Now()}, nil)
	if err != nil {
		t.Fatal(err)
	}
	_ = deal
	before := order(t, b, "A week before", domain.OrderSaid{When: plan.Trigger{On: plan.OnDate, Record: "deal", Path: "deal.close_date", Days: -5}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Ask {{person.first_name}}"}}})
	yearly := order(t, b, "Every year", domain.OrderSaid{When: plan.Trigger{On: plan.OnDate, Record: "person", Path: "lead.created", Days: 0, Yearly: true}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "A year with {{person.first_name}}"}}})
	planWork(t, b)
	same(t, "not yet", log(t, b, before.ID), "")
	untilThen(t, b, "2026-03-05 08:59")
	same(t, "before nine", log(t, b, before.ID), "")
	b.Pass(48 * time.Hour) // the program was off
	planWork(t, b)
	planWork(t, b)
	same(t, "made up for", log(t, b, before.ID), "Ada Quill done: Made a task: Ask Ada\n")
	b.Pass(-72 * time.Hour)
	planWork(t, b)
	b.Pass(96 * time.Hour)
	planWork(t, b)
	same(t, "after the clock was set back", log(t, b, before.ID), "Ada Quill done: Made a task: Ask Ada\n")
	for range 2 {
		b.Pass(365 * 24 * time.Hour)
		planWork(t, b)
	}
	if got := log(t, b, yearly.ID); strings.Count(got, "A year with Ada") != 2 {
		t.Errorf("every year: %q", got)
	}
}

func TestOrder_refusesLoops(t *testing.T) {
	b := testbed.New(t)
	order(t, b, "Park", domain.OrderSaid{When: changes("lead.status", "qualified"), Do: []domain.OrderAct{setField("lead.status", "parked")}})
	back, err := b.App.Orders.Add(ctx, b.Rep, orders.Input{Name: "Unpark", Said: domain.OrderSaid{When: changes("lead.status", "parked"), Do: []domain.OrderAct{setField("lead.status", "qualified")}}})
	if err != nil {
		t.Fatal(err)
	}
	_, err = b.App.Orders.Switch(ctx, b.Rep, back.ID, back.Version, true)
	if err == nil || !strings.Contains(err.Error(), "“Unpark” → “Park” → “Unpark”") {
		t.Errorf("two that undo each other: %v", err)
	}
	trial, err := b.App.Orders.Try(ctx, b.Rep, back.ID, orders.Input{Name: back.Name, Said: back.Said})
	if err != nil || trial.Loop == "" {
		t.Errorf("the trial says nothing of it: %+v, %v", trial, err)
	}
}

// Should a loop come about all the same, by other ways than orders know of, it ends.
func TestOrder_actsThreeTimesADayAtMost(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	o := order(t, b, "Note it", domain.OrderSaid{When: changes("person.city", ""), Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Look"}}})
	for i := range 6 {
		put(t, b, ada, "person.city", fmt.Sprint("City ", i))
		planWork(t, b)
	}
	got := log(t, b, o.ID)
	if strings.Count(got, "done") != plan.MostActs || strings.Count(got, "looks like a loop") != 3 {
		t.Error(got)
	}
	b.Pass(25 * time.Hour)
	put(t, b, ada, "person.city", "York")
	planWork(t, b)
	if strings.Count(log(t, b, o.ID), "done") != plan.MostActs+1 {
		t.Error("it never acts again")
	}
}

func TestOrder_refusesWhatNobodyFills(t *testing.T) {
	b := testbed.New(t)
	blank := b.Template(t, "Blank", "Hello", "Dear {{person.first_name}}, {{?why}}.")
	optional := b.Template(t, "Optional", "Hello", "Dear {{person.first_name}}. {{?why: text optional}}")
	for what, c := range map[string]struct {
		said domain.OrderSaid
		why  string
	}{
		"a required blank": {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &blank}}}, "has the blank “Why”"},
		"an optional one":  {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &optional}}}, ""},
		"nothing to do":    {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}}, "Say what it does"},
		"no trigger":       {domain.OrderSaid{Do: []domain.OrderAct{{Do: plan.StopPlan}}}, "When it acts"},
		"no date":          {domain.OrderSaid{When: plan.Trigger{On: plan.OnDate, Record: "person", Path: "person.city"}, Do: []domain.OrderAct{{Do: plan.StopPlan}}}, "is no date"},
		"a name":           {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{setField("person.first_name", "Bob")}}, "each person’s own"},
		"no such value":    {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{setField("lead.status", "happy")}}, "cannot be set"},
		"a deal's value":   {domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{setField("deal.stage", "won")}}, "is a value of a deal"},
	} {
		o, err := b.App.Orders.Add(ctx, b.Rep, orders.Input{Name: what, Said: c.said})
		if err != nil {
			t.Fatal(what, err)
		}
		_, err = b.App.Orders.Switch(ctx, b.Rep, o.ID, o.Version, true)
		if c.why == "" && err != nil || c.why != "" && (err == nil || !strings.Contains(err.Error(), c.why)) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := b.App.Orders.Add(ctx, b.Rep, orders.Input{Name: "x", Said: domain.OrderSaid{Filter: "person.city likes"}}); err == nil {
		t.Error("a filter that is none is taken")
	}
}

func TestOrder_triedAndStopped(t *testing.T) {
	b := testbed.New(t)
	ada, bea := inGermany(t, b, "Ada", "ada@quill.example"), b.Person(t, "Bea", "Stone", "")
	tpl := b.Template(t, "Welcome", "Welcome, {{person.first_name}}", "Dear {{person.first_name}}, in {{person.city|your city}}.")
	put(t, b, ada, "lead.status", "qualified")
	put(t, b, bea, "lead.status", "qualified")
	planWork(t, b)
	b.Pass(10 * 24 * time.Hour)
	in := orders.Input{Name: "Welcome", Said: domain.OrderSaid{When: changes("lead.status", "qualified"), Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &tpl}}}}
	trial, err := b.App.Orders.Try(ctx, b.Rep, 0, in)
	if err != nil || trial.Times != 2 || trial.Rows[1].Name != "Ada Quill" || trial.Rows[1].Would[0] != "Sent “Welcome, Ada” to them" || trial.Rows[0].Would[0] != "Not sent: Bea Stone has no email address" || !trial.Rows[0].Open {
		t.Errorf("%+v, %v", trial, err)
	}
	b.Pass(40 * 24 * time.Hour)
	if trial, err := b.App.Orders.Try(ctx, b.Rep, 0, in); err != nil || trial.Times != 0 {
		t.Errorf("what is older than 30 days: %+v, %v", trial, err)
	}
	if n := len(sentTo(t, b, ada)); n != 0 {
		t.Error("the trial sent something")
	}
	o := order(t, b, "Welcome", in.Said)
	if err := b.App.Orders.Halt(ctx, b.Rep, true); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative stops all: %v", err)
	}
	if err := b.App.Orders.Halt(ctx, b.Lead, true); err != nil {
		t.Fatal(err)
	}
	put(t, b, ada, "lead.status", "new")
	put(t, b, ada, "lead.status", "qualified")
	planWork(t, b)
	if err := b.App.Orders.Halt(ctx, b.Lead, false); err != nil {
		t.Fatal(err)
	}
	planWork(t, b)
	same(t, "what was meanwhile", log(t, b, o.ID), "")
	put(t, b, ada, "lead.status", "new")
	put(t, b, ada, "lead.status", "qualified")
	planWork(t, b)
	same(t, "and then", log(t, b, o.ID), "Ada Quill done: Sent “Welcome, Ada” to them\n")
	// A lead switches it off, and may not switch it on.
	o, err = b.App.Orders.Order(ctx, b.Lead, o.ID)
	if err == nil {
		o, err = b.App.Orders.Switch(ctx, b.Lead, o.ID, o.Version, false)
	}
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Orders.Switch(ctx, b.Lead, o.ID, o.Version, true); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a lead switches on what acts with another's rights: %v", err)
	}
}

// An import of very many makes an order act on each, a few at a time.
func TestOrder_paced(t *testing.T) {
	b := testbed.New(t)
	tpl := b.Template(t, "Welcome", "Welcome", "Dear {{person.first_name}}, welcome.")
	o := order(t, b, "Welcome", domain.OrderSaid{When: plan.Trigger{On: plan.OnCreated, Record: "person"}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &tpl}}})
	said, err := b.App.Orders.OnNewPeople(ctx)
	if err != nil || len(said) != 1 || !strings.Contains(said[0], "“Welcome” of Imre Falk. When a person is added: send “Welcome” to them") {
		t.Errorf("said before: %q, %v", said, err)
	}
	n := 10_000
	if testing.Short() {
		n = 1000
	}
	people := make([]domain.Person, n)
	for i := range people {
		people[i] = domain.Person{Kind: "lead", FirstName: "P", Email: fmt.Sprintf("p%d@quill.example", i), CreatedAt: b.Now(), UpdatedAt: b.Now()}
	}
	if _, err := b.Store.AddPeople(ctx, people); err != nil {
		t.Fatal(err)
	}
	for range 12 {
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
	}
	waiting, err := b.Store.OrderLetters(ctx)
	if err != nil || waiting < 200 || waiting >= 250 {
		t.Errorf("%d letters wait at once, %v", waiting, err)
	}
	if list, err := b.App.Orders.Log(ctx, b.Rep, o.ID); err != nil || len(list) != 200 {
		t.Errorf("the log: %d, %v", len(list), err)
	}
}

// Templates and plans that are not there break no screen.
func TestOrder_ofWhatIsGone(t *testing.T) {
	b := testbed.New(t)
	none := int64(99)
	o, err := b.App.Orders.Add(ctx, b.Rep, orders.Input{Name: "Gone", Said: domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{
		{Do: plan.SendLetter, TemplateID: &none}, {Do: plan.StartPlan, PlanID: &none}, {Do: plan.StopPlan, PlanID: &none}, {Do: plan.SetField, Path: "person.own.gone"},
	}}})
	if err != nil || len(o.Wrong) != 4 || !strings.Contains(o.Sentence, "a template that is gone") {
		t.Errorf("%+v, %v", o, err)
	}
	p, err := b.App.Plans.AddPlan(ctx, b.Rep, plans.Input{Name: "Gone", Steps: []domain.PlanStep{letterStep(none, 0, false)}})
	if err != nil || len(p.Wrong) != 1 || p.Wrong[0].Why != "The template is gone; choose another." {
		t.Errorf("%+v, %v", p.Wrong, err)
	}
	if _, _, err := b.App.Plans.Runs(ctx, b.Rep, domain.RunsQuery{}); err != nil {
		t.Error(err)
	}
}

// A letter that goes by itself sets off no other for ever: nobody gets two of orders within a day,
// nor the same template again, unless an order says so.
func TestOrder_noLoopsOfReplies(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	thanks := b.Template(t, "Thanks", "Thank you, {{person.first_name}}", "Dear {{person.first_name}}, thank you for writing.")
	other := b.Template(t, "Other", "Again, {{person.first_name}}", "Dear {{person.first_name}}, this is another letter.")
	on := plan.Trigger{On: plan.OnReply}
	first := order(t, b, "Thanks", domain.OrderSaid{When: on, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &thanks}}})
	second := order(t, b, "Other", domain.OrderSaid{When: on, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &other}}})
	reply := func() {
		t.Helper()
		if err := b.Store.AddEntry(ctx, domain.Entry{PersonID: &ada, Kind: domain.EntryReplied, Text: "Yes", At: b.Now()}); err != nil {
			t.Fatal(err)
		}
		planWork(t, b)
	}
	reply()
	same(t, "first", log(t, b, second.ID), "Ada Quill done: Sent “Again, Ada” to them\n")
	same(t, "another the same day", log(t, b, first.ID), "Ada Quill left: Not sent: a standing order wrote to them within the last day\n")
	for range 5 {
		b.Pass(25 * time.Hour)
		reply()
	}
	if got := sentTo(t, b, ada); len(got) != 2 {
		t.Errorf("%d letters on six replies", len(got))
	}
	b.Pass(100 * 24 * time.Hour)
	reply()
	if got := sentTo(t, b, ada); len(got) != 3 {
		t.Errorf("%d letters, after a hundred days", len(got))
	}
}

// The trial says what the order then does, in the same words, and keeps nothing.
func TestOrder_trialIsTrue(t *testing.T) {
	for name, acts := range map[string]func(b *testbed.Bed, t *testing.T, person int64) []domain.OrderAct{
		"stop a colleague's plan": func(b *testbed.Bed, t *testing.T, person int64) []domain.OrderAct {
			p, err := b.App.Plans.AddPlan(ctx, b.Lead, plans.Input{Name: "W2 plan", Steps: []domain.PlanStep{callStep(9, "Call")}})
			if err == nil {
				p, err = b.App.Plans.SetPlanState(ctx, b.Lead, p.ID, p.Version, domain.TemplateReady)
			}
			if err == nil {
				_, err = b.App.Plans.Start(ctx, b.Lead, p.ID, []int64{person}, plans.With{})
			}
			if err != nil {
				t.Fatal(err)
			}
			return []domain.OrderAct{{Do: plan.StopPlan}}
		},
		"set what is so already": func(b *testbed.Bed, t *testing.T, person int64) []domain.OrderAct {
			put(t, b, person, "person.country", "Denmark")
			return []domain.OrderAct{setField("person.country", "Denmark")}
		},
		"a letter, a task and a plan": func(b *testbed.Bed, t *testing.T, _ int64) []domain.OrderAct {
			tpl, p := b.Template(t, "T", "Hello {{person.first_name}}", "Dear {{person.first_name}},"), readyPlan(t, b, "P", callStep(1, "Call"))
			return []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &tpl}, {Do: plan.MakeTask, Words: "Call {{person.first_name}}"}, {Do: plan.StartPlan, PlanID: &p.ID}}
		},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
			said := domain.OrderSaid{When: changes("person.city", "York"), Do: acts(b, t, ada)}
			put(t, b, ada, "person.city", "York")
			planWork(t, b)
			before := stored(t, b)
			trial, err := b.App.Orders.Try(ctx, b.Rep, 0, orders.Input{Name: "O", Said: said})
			if err != nil || len(trial.Rows) != 1 {
				t.Fatalf("%+v, %v", trial, err)
			}
			if stored(t, b) != before {
				t.Error("the trial left something")
			}
			o := order(t, b, "O", said)
			put(t, b, ada, "person.city", "")
			put(t, b, ada, "person.city", "York")
			planWork(t, b)
			_, did, _ := strings.Cut(strings.TrimSpace(log(t, b, o.ID)), ": ")
			same(t, "what it did", did, strings.Join(trial.Rows[0].Would, "; "))
		})
	}
}
