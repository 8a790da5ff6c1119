package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/plans/shelf"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// What a plan looks like for a list of people, before it is started: letters per day beside what
// is planned already and what the account sends, who lacks something, who is left out and why.
func TestPlan_outlook(t *testing.T) {
	b := testbed.New(t)
	first := b.Template(t, "First", "Hello", "Dear {{person.first_name}}, hello. {{?why: text optional}}")
	phone := b.Template(t, "Phone", "Hello", "Dear {{person.first_name}}, on {{person.phone}}?")
	p := readyPlan(t, b, "Opening", letterStep(first, 1, false), callStep(1, "Call"), letterStep(phone, 1, true))
	other := readyPlan(t, b, "Other", letterStep(first, 1, false))
	ids := []int64{inGermany(t, b, "Ada", "ada@quill.example"), inGermany(t, b, "Bea", "bea@quill.example"), b.Person(t, "Cleo", "Quill", "cleo@quill.example")}
	busy, out := inGermany(t, b, "Dora", "dora@quill.example"), inGermany(t, b, "Eve", "eve@quill.example")
	nobody := b.Person(t, "Finn", "Quill", "")
	startPlan(t, b, other.ID, busy)
	if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Lead, "eve@quill.example", "asked on the phone"); err != nil {
		t.Fatal(err)
	}
	o, err := b.App.Plans.OutlookFor(ctx, b.Rep, p.ID, append(append([]int64{}, ids...), busy, out, nobody, ids[0]), plans.With{})
	if err != nil {
		t.Fatal(err)
	}
	left := ""
	for _, l := range o.Left {
		left += l.Name + ": " + l.Why + "\n"
	}
	if o.People != 3 || !strings.Contains(left, "Dora Quill: Is going through the plan “Other” (Imre Falk)") || !strings.Contains(left, "Eve Quill: Unsubscribed on 2 March 2026") || !strings.Contains(left, "Finn Quill: No email address") {
		t.Errorf("%d people; left out:\n%s", o.People, left)
	}
	days := ""
	for _, d := range o.Days {
		days += fmt.Sprintf("%s: %d letters, %d others, %d tasks\n", d.Day, d.Letters, d.Others, d.Tasks)
	}
	same(t, "days", days, "2026-03-03: 3 letters, 1 others, 0 tasks\n2026-03-04: 0 letters, 0 others, 3 tasks\n2026-03-05: 3 letters, 0 others, 0 tasks\n")
	if o.OpenN != 1 || o.Open[0].Name != "Cleo Quill" || o.Open[0].Step != 3 || o.Open[0].What != "Phone" {
		t.Errorf("open: %+v", o.Open)
	}
	if len(o.Asks) != 1 || o.Asks[0].Path != "1?why" || o.Until.Format(time.DateOnly) != "2026-03-05" {
		t.Errorf("asks %+v, until %s", o.Asks, o.Until)
	}
	if all, err := b.App.Plans.OutlookFor(ctx, b.Rep, p.ID, []int64{busy}, plans.With{Anyway: true}); err != nil || all.People != 1 {
		t.Errorf("anyway: %+v, %v", all, err)
	}
	many := make([]int64, plans.MaxStart+1)
	for i := range many {
		many[i] = int64(i + 1)
	}
	if _, err := b.App.Plans.OutlookFor(ctx, b.Rep, p.ID, many, plans.With{}); err == nil {
		t.Error("more people than can be started are looked at")
	}
}

// The ruler of one person: dates with the holidays that they make room for, the letters of a
// conversation, words that are missing.
func TestPlan_ruler(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	first := b.Template(t, "First", "Hello {{person.first_name}}", "Dear {{person.first_name}}, hello in {{person.city}}.")
	p := readyPlan(t, b, "Opening", letterStep(first, 22, false), letterStep(first, 2, true), callStep(1, "Call {{person.first_name}} in {{person.city}}"))
	r, err := b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{}, nil)
	if err != nil {
		t.Fatal(err)
	}
	got := ""
	for _, s := range r.Steps {
		got += fmt.Sprintf("%s %s over %q, %s: %s\n", s.Local, s.Subject, s.Over, s.Text, s.Why)
	}
	same(t, "the ruler", strings.ReplaceAll(got, "\n\n", " "), `2026-04-01T09:00 Hello Ada over "", Dear Ada, hello in ‹City›.: City is missing; fill it in
2026-04-07T09:00 Re: Hello Ada over "Ostermontag", Dear Ada, hello in ‹City›.: City is missing; fill it in
2026-04-08T09:00  over "", Call Ada in ‹City›: Not on record: City
`)
	if r.Letters != 2 || r.Ready != 0 || r.Zone != "Europe/Berlin" || !r.ZoneKnown || r.Country != "DE" {
		t.Errorf("%+v", r)
	}
	// Steps that are being written are looked at before they are saved.
	in := plans.Input{Steps: p.Said.Steps[2:]}
	if r, err = b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{}, &in); err != nil || len(r.Steps) != 1 || r.Steps[0].Local != "2026-03-03T09:00" {
		t.Errorf("%+v, %v", r.Steps, err)
	}
	draft := b.Letter(t, ada, first)
	if _, err := b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{LetterID: &draft.ID}, nil); err == nil {
		t.Error("a conversation begins with a draft")
	}
}

// Who may see, use and change plans, as with templates; a plan is made ready only when it is
// complete.
func TestPlan_rights(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p, err := b.App.Plans.AddPlan(ctx, b.Rep, plans.Input{Name: " Of  mine ", Steps: []domain.PlanStep{callStep(1, "Call")}})
	if err != nil || p.Name != "Of mine" {
		t.Fatal(p.Name, err)
	}
	other := b.Lead
	other.ID, other.Role = 99, access.Representative
	if _, err := b.App.Plans.Plan(ctx, other, p.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a draft of another: %v", err)
	}
	if _, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{}); err == nil || !strings.Contains(err.Error(), "still a draft") {
		t.Errorf("a draft is started: %v", err)
	}
	if p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady); err != nil {
		t.Fatal(err)
	}
	if s, err := b.App.Plans.Plan(ctx, other, p.ID); err != nil || s.MayEdit || !s.MayUse {
		t.Errorf("a ready one of another: %+v, %v", s, err)
	}
	if _, err := b.App.Plans.ChangePlan(ctx, other, p.ID, p.Version, plans.Input{Name: "Theirs"}, ""); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("another changes it: %v", err)
	}
	if _, err := b.App.Plans.ChangePlan(ctx, b.Lead, p.ID, p.Version, plans.Input{Name: "By the lead", Steps: p.Said.Steps}, ""); err != nil {
		t.Errorf("a lead changes it: %v", err)
	}
	if err := b.App.Plans.SetPlanRights(ctx, b.Rep, p.ID, access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Plans.Plan(ctx, b.Lead, p.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("what is for its owner alone: %v", err)
	}
	c, err := b.App.Plans.CopyPlan(ctx, b.Rep, p.ID)
	if err != nil || c.Name != "By the lead (copy)" || c.State != domain.TemplateDraft || len(c.Steps) != 1 {
		t.Errorf("%+v, %v", c.Plan, err)
	}
	if p, err = b.App.Plans.Plan(ctx, b.Rep, p.ID); err == nil {
		p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateWithdrawn)
	}
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Plans.Start(ctx, b.Rep, p.ID, []int64{ada}, plans.With{}); err == nil || !strings.Contains(err.Error(), "was withdrawn") {
		t.Errorf("a withdrawn one is started: %v", err)
	}
	for what, steps := range map[string][]domain.PlanStep{
		"no steps": nil, "no words": {callStep(1, "  ")}, "no template": {{Kind: plan.Letter}}, "a field that is none": {callStep(1, "Call {{person.nonsense}}")},
	} {
		p, err := b.App.Plans.AddPlan(ctx, b.Rep, plans.Input{Name: "x", Steps: steps})
		if err != nil {
			t.Fatal(what, err)
		}
		if _, err := b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady); err == nil {
			t.Errorf("%s: it is made ready", what)
		}
	}
	for what, step := range map[string]domain.PlanStep{"a kind": {Kind: "fax"}, "a timing": {Kind: plan.Task, Words: "x", When: plan.Timing{Days: -1}}, "a key": {Key: 7, Kind: plan.Task, Words: "x"}} {
		if _, err := b.App.Plans.ChangePlan(ctx, b.Rep, c.ID, c.Version, plans.Input{Name: "x", Steps: []domain.PlanStep{step}}, ""); err == nil {
			t.Errorf("%s that is none is stored", what)
		}
	}
}

// Every starter plan can be copied, made ready and started; each says when it is to be used.
func TestPlan_shelf(t *testing.T) {
	b := testbed.New(t)
	list, err := b.App.Plans.Shelf()
	if err != nil || len(list) < 6 {
		t.Fatal(len(list), err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if _, err := b.Store.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &ada, Stage: "quoted", Currency: "EUR", CreatedAt: b.Now()}, nil); err != nil {
		t.Fatal(err)
	}
	for _, one := range list {
		p, err := b.App.Plans.CopyFromShelf(ctx, b.Rep, one.Key)
		if err == nil {
			p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady)
		}
		if err != nil || one.WhenToUse == "" || one.Moment == "" || len(one.Lines()) != len(p.Steps) || len(p.Steps) < 3 {
			t.Errorf("%s: %v", one.Name, err)
			continue
		}
		r, err := b.App.Plans.RulerFor(ctx, b.Rep, p.ID, ada, plans.With{}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range r.Steps {
			if s.Why != "" && !strings.HasSuffix(s.Why, "is missing; fill it in") && s.Why != "The subject of the letter before it is not filled" {
				t.Errorf("%s, %s: %s", one.Name, s.Name, s.Why)
			}
		}
	}
	if _, err := b.App.Plans.CopyFromShelf(ctx, b.Rep, "none"); !errors.Is(err, domain.ErrNotFound) {
		t.Error(err)
	}
	if _, err := shelf.Plans(); err != nil {
		t.Error(err)
	}
}

// Words of one plan alone: what the template forbids stays forbidden, and it stays as it is.
func TestPlan_ownWording(t *testing.T) {
	b := testbed.New(t)
	ada := inGermany(t, b, "Ada", "ada@quill.example")
	tpl := b.Template(t, "Fixed", "Hello", "Dear {{person.first_name}},\n\n{{fixed}}These words stay.{{/fixed}}\n")
	p, err := b.App.Plans.AddPlan(ctx, b.Rep, plans.Input{Name: "Opening", Steps: []domain.PlanStep{letterStep(tpl, 0, false)}})
	if err != nil {
		t.Fatal(err)
	}
	key := p.Said.Steps[0].Key
	if err := b.App.Plans.SetStepWording(ctx, b.Rep, p.ID, key, p.Version, &library.Input{Subject: "Hello", Body: "Dear {{person.first_name}}, other words."}); err == nil {
		t.Error("fixed wording is left out")
	}
	good := library.Input{Subject: "Only here", Body: "Dear {{person.first_name}}, here.\n\n{{fixed}}These words stay.{{/fixed}}\n"}
	if err := b.App.Plans.SetStepWording(ctx, b.Rep, p.ID, key, p.Version, &good); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Plans.SetStepWording(ctx, b.Rep, p.ID, key, p.Version, &good); !errors.Is(err, domain.ErrStale) {
		t.Errorf("of a version that is past: %v", err)
	}
	// Moving the step keeps its words; another template drops them.
	p, err = b.App.Plans.Plan(ctx, b.Rep, p.ID)
	if err != nil || p.Steps[0].Subject != "Only here" {
		t.Fatal(p.Steps, err)
	}
	p, err = b.App.Plans.ChangePlan(ctx, b.Rep, p.ID, p.Version, plans.Input{Name: "Opening", Steps: []domain.PlanStep{callStep(0, "Call"), {Key: key, Kind: plan.Letter, TemplateID: &tpl}}}, "")
	if err != nil || p.Steps[1].Subject != "Only here" {
		t.Fatal(p.Steps, err)
	}
	if p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady); err != nil {
		t.Fatal(err)
	}
	startPlan(t, b, p.ID, ada)
	untilThen(t, b, "2026-03-03 12:00")
	l := sentTo(t, b, ada)
	if len(l) != 1 || l[0].SubjectLine != "Only here" || *l[0].TemplateID != tpl {
		t.Errorf("%+v", l)
	}
	other := b.Template(t, "Other", "Another", "Dear {{person.first_name}}.")
	p, err = b.App.Plans.ChangePlan(ctx, b.Rep, p.ID, p.Version, plans.Input{Name: "Opening", Steps: []domain.PlanStep{{Key: key, Kind: plan.Letter, TemplateID: &other}}}, "")
	if err != nil || p.Steps[0].Subject != "Another" {
		t.Errorf("%+v, %v", p.Steps, err)
	}
}
