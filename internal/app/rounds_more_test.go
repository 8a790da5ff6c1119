package app_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/question"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestRound_pausedAndTemplateNews(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	template := b.Template(t, "Hello", "S", "Dear {{person.first_name}},\n\nOld.")
	var people []int64
	for i := range 60 {
		people = append(people, b.Person(t, fmt.Sprintf("P%d", i), "Quill", fmt.Sprintf("p%d@quill.example", i)))
	}
	s := startRound(t, b, template, people...)
	sendRound(t, b, s.ID, 60, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	if _, err := b.App.Rounds.Work(ctx); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Rounds.Pause(ctx, b.Rep, s.ID); err != nil {
		t.Fatal(err)
	}
	if due, _, err := b.Store.Due(ctx, b.Now().AddDate(1, 0, 0), 99); err != nil || len(due) != 0 {
		t.Errorf("%d letters of a paused round are due, %v", len(due), err)
	}
	sheet, err := b.App.Library.Template(ctx, b.Lead, template)
	if err != nil {
		t.Fatal(err)
	}
	in := library.TemplateInput{Name: sheet.Name, Input: library.Input{Subject: "S", Body: "Dear {{person.first_name}},\n\nNew."}, State: domain.TemplateReady}
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Lead, template, sheet.Version, in); err != nil {
		t.Fatal(err)
	}
	var state *domain.StateError
	if err := b.App.Rounds.GoOn(ctx, b.Rep, s.ID); !errors.As(err, &state) || !strings.Contains(state.Why, "was changed") {
		t.Errorf("went on without a word: %v", err)
	}
	s = roundNow(t, b, s.ID)
	if s.State != domain.RoundPaused || s.TemplateNews == "" || s.Groups.Waiting != 50 || s.Total != 60 {
		t.Errorf("%s %q %s", s.State, s.TemplateNews, s.Groups)
	}
	if err := b.App.Rounds.KeepTemplate(ctx, b.Rep, s.ID, s.Version); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Rounds.GoOn(ctx, b.Rep, s.ID); err != nil {
		t.Fatal(err)
	}
	workAll(t, b)
	if s = roundNow(t, b, s.ID); s.State != domain.RoundDone || s.Groups.Sent != 60 {
		t.Errorf("%s %s\n%s", s.State, s.Groups, standing(t, b, s.ID))
	}
	for i := range 60 {
		list, err := b.Store.PostLetters(ctx, fmt.Sprintf("p%d@quill.example", i), 9)
		if err != nil || len(list) != 1 {
			t.Fatalf("P%d: %d letters, %v", i, len(list), err)
		}
		if raw, err := b.Store.PostLetter(ctx, list[0].ID); err != nil || !strings.Contains(string(raw.Bytes), "Old.") {
			t.Fatalf("P%d: %v\n%s", i, err, raw.Bytes)
		}
	}
}

// Two colleagues send to the same people at once: nobody gets both.
func TestRound_twoColleagues(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	template := b.Template(t, "Hello", "S", "Dear {{person.first_name}}")
	a, c := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Quill", "bo@quill.example")
	s := startRound(t, b, template, a, c)
	other, err := b.App.Rounds.StartRound(ctx, b.Lead, rounds.Start{People: []int64{a, c}, TemplateID: &template})
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Rounds.Check(ctx, other); err != nil {
		t.Fatal(err)
	}
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	if _, err := b.App.Rounds.Send(ctx, b.Lead, other, 1, 2, domain.RoundWhen{All: true}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	workAll(t, b)
	for _, who := range []string{"ada", "bo"} {
		if list, err := b.Store.PostLetters(ctx, who+"@quill.example", 9); err != nil || len(list) != 1 {
			t.Errorf("%s got %d letters, %v", who, len(list), err)
		}
	}
	rows, _, err := b.App.Rounds.People(ctx, b.Lead, domain.MembersQuery{RoundID: other, Limit: 9})
	if err != nil || len(rows) != 2 || rows[0].Told == "" || rows[0].State != domain.MemberSkipped {
		t.Errorf("%+v, %v", rows, err)
	}
	if _, err := b.App.Rounds.Round(ctx, b.Lead, s.ID); err == nil {
		t.Error("a colleague sees the round")
	}
}

func TestRound_wordingOfItsOwn(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	template := b.Template(t, "Hello", "S", "Dear {{person.first_name}},\n\n{{fixed}}Terms apply.{{/fixed}}\n\nOld.")
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	s := startRound(t, b, template, ada)
	set := func(body string) error {
		return b.App.Rounds.SetWording(ctx, b.Rep, s.ID, s.Version, &library.Input{Subject: "Only now", Body: body})
	}
	if err := set("Dear {{person.first_name}},\n\nNo terms."); err == nil || !strings.Contains(err.Error(), "Terms apply") {
		t.Errorf("fixed wording was left out: %v", err)
	}
	if err := set("Dear {{person.nobody}}, {{fixed}}Terms apply.{{/fixed}}"); err == nil {
		t.Error("an unknown field was taken")
	}
	if err := set("Dear {{person.first_name}},\n\n{{fixed}}Terms apply.{{/fixed}}\n\nNew."); err != nil {
		t.Fatal(err)
	}
	if s = roundNow(t, b, s.ID); s.Groups.Ready != 1 {
		t.Fatal(standing(t, b, s.ID))
	}
	shown, err := b.App.Rounds.Show(ctx, b.Rep, s.ID, ada, 0)
	if err != nil || shown.Proof == nil || shown.Proof.Mail.Subject != "Only now" || !strings.Contains(shown.Proof.Mail.Text, "New.") {
		t.Errorf("%+v, %v", shown, err)
	}
	stored, err := b.App.Library.Template(ctx, b.Lead, template)
	if err != nil || stored.Version != 1 || strings.Contains(fmt.Sprint(stored.Body), "New.") {
		t.Errorf("the template was changed: %v", err)
	}
}

func TestRound_listNews(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	bo := b.Person(t, "Bo", "Quill", "bo@quill.example")
	list, err := b.App.Records.PutList(ctx, b.Rep, 0, domain.List{Name: "New ones", Filter: `lead.status is "new"`})
	if err != nil {
		t.Fatal(err)
	}
	id, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{ListID: &list})
	if err != nil {
		t.Fatal(err)
	}
	b.Person(t, "Cy", "Quill", "cy@quill.example")
	p, err := b.Store.Person(ctx, bo)
	if err != nil {
		t.Fatal(err)
	}
	p.LeadStatus = "parked"
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	news := func() string {
		n, err := b.App.Rounds.ListNewsOf(ctx, b.Rep, id)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(n.Added, n.Gone)
	}
	if got := news(); got != fmt.Sprintf("[{3 Cy Quill}] [{%d Bo Quill}]", bo) {
		t.Errorf("news: %s", got)
	}
	if err := b.App.Rounds.TakeListNews(ctx, b.Rep, id, new(true), new(false)); err != nil {
		t.Fatal(err)
	}
	if got := news(); got != "[] []" {
		t.Errorf("told again: %s", got)
	}
	if s := roundNow(t, b, id); s.Total != 3 || s.Name != "New ones" {
		t.Errorf("%d people in %q", s.Total, s.Name)
	}
	offer, err := b.App.Rounds.Templates(ctx, b.Rep, id)
	if err != nil || offer.Running || offer.Why == "" {
		t.Errorf("%+v, %v", offer, err)
	}
	template := b.Template(t, "Hello", "S", "{{person.first_name}} {{person.city}}")
	b.Template(t, "For contacts", "S", "{{contact.since}}")
	p.City, p.Version = "Leeds", p.Version+1
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	if offer, err = b.App.Rounds.Templates(ctx, b.Rep, id); err != nil || len(offer.Templates) != 1 || offer.Templates[0] != (rounds.Fit{ID: template, Name: "Hello", Complete: 1, Gaps: 2}) || offer.Others != 1 {
		t.Errorf("%+v, %v", offer, err)
	}
}

func TestRecipe(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	list, err := b.App.Records.PutList(ctx, b.Lead, 0, domain.List{Name: "Mine", Filter: `owner is me`, Shared: true})
	if err != nil {
		t.Fatal(err)
	}
	good, other := b.Template(t, "Hello", "S", "{{person.first_name}} {{?offer}}"), b.Template(t, "Other", "S", "x")
	in := domain.Recipe{Name: "Spring", ListID: list, Said: domain.RecipeSaid{Templates: []int64{good}, Look: "Is the offer still on?", Fills: domain.Own{"?offer": "5 %"}, After: domain.RoundAfter{Path: "lead.status", Value: "in touch"}}}
	if _, err := b.App.Rounds.PutRecipe(ctx, b.Rep, 0, 0, in); err == nil {
		t.Error("a representative kept a recipe")
	}
	id, err := b.App.Rounds.PutRecipe(ctx, b.Lead, 0, 0, in)
	if err != nil {
		t.Fatal(err)
	}
	lines, err := b.App.Rounds.Recipes(ctx, b.Rep)
	if err != nil || len(lines) != 1 || lines[0].People != 1 || lines[0].Mine || lines[0].Problem != "" {
		t.Errorf("%+v, %v", lines, err)
	}
	run, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{RecipeID: &id})
	if err != nil {
		t.Fatal(err)
	}
	s := roundNow(t, b, run)
	if s.Groups.Ready != 1 || s.Template != "Hello" || s.Said.After.Value != "in touch" || s.Recipe.Said.Look == "" {
		t.Errorf("%s of %q: %+v", s.Groups, s.Template, s.Asks)
	}
	if err := b.App.Rounds.SetTemplate(ctx, b.Rep, run, s.Version, other); err == nil {
		t.Error("a template was chosen that the recipe does not allow")
	}
	l, err := b.Store.List(ctx, list)
	if err != nil {
		t.Fatal(err)
	}
	l.Shared = false
	if _, err := b.App.Records.PutList(ctx, b.Lead, list, l); err != nil {
		t.Fatal(err)
	}
	if lines, err = b.App.Rounds.Recipes(ctx, b.Rep); err != nil || !strings.Contains(lines[0].Problem, "not shared any more") {
		t.Errorf("a recipe whose list is not shared any more says %+v, %v", lines, err)
	}
	if err := b.App.Rounds.DeleteRecipe(ctx, b.Lead, id, false); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{RecipeID: &id}); err == nil {
		t.Error("a deleted recipe was run")
	}
}

// Every letter of a round asks by a page of its own, before its closing; what it asks is
// looked at like its words.
func TestRound_asks(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 2)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}},\n\nWe’d like to come.\n\nKind regards,"), people...)
	if _, err := b.App.Rounds.Do(ctx, b.Rep, s.ID, rounds.ActGood, people, "", ""); err != nil {
		t.Fatal(err)
	}
	ask := &question.Sheet{Questions: []question.Question{{Text: "Does Monday suit?", Answers: []string{"Yes", "No"}}}}
	if err := b.App.Rounds.SetAsk(ctx, b.Rep, s.ID, s.Version, ask); err != nil {
		t.Fatal(err)
	}
	if s = roundNow(t, b, s.ID); s.Groups.Proofread != 0 {
		t.Error("the letters are still good although they ask something now")
	}
	shown, err := b.App.Rounds.Show(ctx, b.Rep, s.ID, people[0], 0)
	if err != nil || shown.Proof == nil || len(shown.Stops) > 0 {
		t.Fatalf("%+v, %v", shown, err)
	}
	text := shown.Proof.Mail.Text
	if at, end := strings.Index(text, "Does Monday suit?"), strings.Index(text, "Kind regards,"); at < 0 || end < at {
		t.Errorf("the question stands in the wrong place:\n%s", text)
	}
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	workAll(t, b)
	tokens := map[string]bool{}
	for _, person := range people {
		m, err := b.Store.Member(ctx, s.ID, person)
		if err != nil || m.LetterID == nil {
			t.Fatal(err)
		}
		asked, err := b.Store.AskedIn(ctx, *m.LetterID)
		if err != nil || len(asked) != 1 {
			t.Fatalf("%d questions, %v", len(asked), err)
		}
		tokens[asked[0].Token] = true
		if err := b.App.Desk.Answer(ctx, asked[0].Token, []string{"Yes"}); err != nil {
			t.Error(err)
		}
	}
	if g := roundNow(t, b, s.ID).Groups; len(tokens) != 2 || g.Outcomes["replied"] != 2 {
		t.Errorf("%d pages, %+v", len(tokens), g.Outcomes)
	}
}

// Whom a round has written to can go on to a plan, in the conversation of the letter; who is on a
// plan already is left out unless it is overruled.
func TestRound_andPlans(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 2)
	series := readyPlan(t, b, "Opening", callStep(1, "Call {{person.first_name}}"))
	startPlan(t, b, series.ID, people[0])
	s := startRound(t, b, b.Template(t, "T", "Hello", "Dear {{person.first_name}}"), people...)
	if s.Groups.Reasons["plan"] != 1 || s.Groups.Ready != 1 {
		t.Fatalf("%+v", s.Groups)
	}
	err := b.App.Rounds.SetEnvelope(ctx, b.Rep, s.ID, s.Version, rounds.Envelope{Name: "Round", After: domain.RoundAfter{Plan: series.ID}})
	if err != nil {
		t.Fatal(err)
	}
	roundNow(t, b, s.ID)
	sendRound(t, b, s.ID, 1, domain.RoundWhen{All: true})
	workAll(t, b)
	rows, _, err := b.App.Plans.Runs(ctx, b.Rep, domain.RunsQuery{PersonID: people[1], Limit: 5})
	if err != nil || len(rows) != 1 || rows[0].LastID == nil || rows[0].State != domain.RunGoing {
		t.Errorf("%+v, %v", rows, err)
	}
	bad := roundNow(t, b, s.ID)
	if err := b.App.Rounds.SetEnvelope(ctx, b.Rep, s.ID, bad.Version, rounds.Envelope{Name: "Round", After: domain.RoundAfter{Plan: 99}}); err == nil {
		t.Error("a plan that is none is taken")
	}
}
