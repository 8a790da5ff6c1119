package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/question"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// gone sends a letter and hands it over.
func gone(t *testing.T, b *testbed.Bed, l desk.LetterSheet, when desk.When) {
	t.Helper()
	if len(l.Stops) > 0 {
		t.Fatalf("stops %v", l.Stops)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, when); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if after, err := b.Store.Letter(ctx, l.ID); err != nil || after.State != domain.Sent {
		t.Fatalf("%s %q %v", after.State, after.Reason, err)
	}
}

func yesOrNo(path string) question.Sheet {
	return question.Sheet{Questions: []question.Question{{Text: "Shall we come?", Answers: []string{"Yes", "No"}, Field: path}}}
}

// asking gives a letter that asks, with the words put in, and the person.
func asking(t *testing.T, b *testbed.Bed, s question.Sheet) (desk.LetterSheet, int64) {
	t.Helper()
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
	d, err := b.App.Desk.Ask(ctx, b.Rep, l.ID, s)
	if err != nil {
		t.Fatal(err)
	}
	w := wordingOf(l)
	w.Body.Content = slices.Concat(w.Body.Content, d.Content)
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil {
		t.Fatal(err)
	}
	return l, ada
}

func TestAsk_oneClick(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "lead.own.visit", Record: field.Lead, Label: "Visit wanted", Type: field.YesNo, Own: true}); err != nil {
		t.Fatal(err)
	}
	l, ada := asking(t, b, yesOrNo("lead.own.visit"))
	token := l.Asked[0].Token
	base := "http://letters.fernhollow.example/a/" + token
	if want := "Dear Ada,\nShall we come?\nYes: " + base + "/1\nNo: " + base + "/2"; text(l) != want {
		t.Fatalf("%q", text(l))
	}
	var state *domain.StateError
	if err := b.App.Desk.Answer(ctx, token, []string{"Yes"}); !errors.As(err, &state) {
		t.Errorf("before it went: %v", err)
	}
	remind := b.Now().Add(72 * time.Hour)
	gone(t, b, l, desk.When{Remind: &remind})
	tasks, err := b.App.Tasks.Tasks(ctx, b.Rep, 0)
	if err != nil || len(tasks) != 1 || !tasks[0].DueAt.Equal(remind) || tasks[0].Text != "No reply yet from Ada Quill to “Hi”" || tasks[0].Person != "Ada Quill" {
		t.Fatalf("%+v %v", tasks, err)
	}
	for _, answer := range []string{"Yes", "Yes", "No"} {
		if err := b.App.Desk.Answer(ctx, token, []string{answer}); err != nil {
			t.Fatal(err)
		}
	}
	history, err := b.History(ctx, ada, 10, 0)
	var said []string
	for _, e := range history {
		if e.Kind == domain.EntryAnswered {
			said = append(said, e.Text)
		}
	}
	// The same once more is no other answer; the last one counts.
	if err != nil || !slices.Equal(said, []string{"Shall we come? No", "Shall we come? Yes"}) {
		t.Errorf("%q %v", said, err)
	}
	if p, err := b.Store.Person(ctx, ada); err != nil || p.Own["lead.own.visit"] != "false" {
		t.Errorf("%v %v", p.Own, err)
	}
	if tasks, err := b.App.Tasks.Tasks(ctx, b.Rep, 0); err != nil || len(tasks) != 0 {
		t.Errorf("the reminder stayed: %+v %v", tasks, err)
	}
	page, err := b.App.Desk.AnswerPage(ctx, token)
	if err != nil || page.Sender != "Imre Falk" || page.Team != "Fernhollow" || !page.Open || !slices.Equal(page.Answers, []string{"No"}) {
		t.Errorf("%+v %v", page, err)
	}
	if _, err := b.App.Desk.AnswerPage(ctx, "another"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a token that is none: %v", err)
	}
}

func TestAsk_listOntoTheDeal(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "deal.own.volume", Record: field.Deal, Label: "Volume", Type: field.Number, Own: true}); err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	deal := withDeal(t, b, ada, "Oven")
	template := b.Formatted(t, "Hello", "<p>Dear {{person.first_name}},</p>")
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, &template, &deal)
	if err != nil {
		t.Fatal(err)
	}
	d, err := b.App.Desk.Ask(ctx, b.Rep, l.ID, question.Sheet{Title: "Two short questions", Questions: []question.Question{{Text: "How many m³?", Field: "deal.own.volume"}, {Text: "By when?"}}})
	if err != nil {
		t.Fatal(err)
	}
	w := wordingOf(l)
	w.Body.Content = slices.Concat(w.Body.Content, d.Content)
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil {
		t.Fatal(err)
	}
	if html := render.RenderHTML(l.Body, ""); !strings.Contains(html, "/a/"+l.Asked[0].Token+`"`) || !strings.Contains(html, ">Two short questions</a>") {
		t.Errorf("%s", html)
	}
	gone(t, b, l, desk.When{})
	var bad *domain.InvalidError
	if err := b.App.Desk.Answer(ctx, l.Asked[0].Token, []string{"", " "}); !errors.As(err, &bad) {
		t.Errorf("nothing said: %v", err)
	}
	if err := b.App.Desk.Answer(ctx, l.Asked[0].Token, []string{"40", "Soon"}); err != nil {
		t.Fatal(err)
	}
	sheet, err := b.App.Records.DealPage(ctx, deal)
	if err != nil || sheet.Own["deal.own.volume"] != "40" || dealHistory(t, b, deal)[0].Text != "How many m³? 40 · By when? Soon" {
		t.Errorf("%v %+v %v", sheet.Own, dealHistory(t, b, deal), err)
	}
	// What no number is stays in the history alone.
	if err := b.App.Desk.Answer(ctx, l.Asked[0].Token, []string{"about forty"}); err != nil {
		t.Fatal(err)
	}
	if sheet, err = b.App.Records.DealPage(ctx, deal); err != nil || sheet.Own["deal.own.volume"] != "40" || dealHistory(t, b, deal)[0].Text != "How many m³? about forty" {
		t.Errorf("%v %+v %v", sheet.Own, dealHistory(t, b, deal), err)
	}
}

func TestAskNoMore(t *testing.T) {
	b := testbed.New(t)
	l, ada := asking(t, b, yesOrNo(""))
	// Another person's letter that holds the words would count for Ada.
	other, err := b.App.Desk.StartLetter(ctx, b.Rep, b.Person(t, "Bo", "Rye", "bo@rye.example"), nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	w := wordingOf(other)
	w.Subject, w.Body = document.NewPlain("Hi"), l.Body
	if other, err = b.App.Desk.SaveDraft(ctx, b.Rep, other.ID, w); err != nil || len(other.Stops) != 1 || other.Stops[0].Code != "question" {
		t.Errorf("%v %v", other.Stops, err)
	}
	made, err := b.App.Desk.AsTemplate(ctx, b.Rep, l.ID, nil)
	if err != nil || strings.Contains(made.Words, "/a/") {
		t.Errorf("%q %v", made.Words, err)
	}
	l, err = b.App.Desk.AskNoMore(ctx, b.Rep, l.ID, wordingOf(l), l.Asked[0].ID)
	if err != nil || text(l) != "Dear Ada," || len(l.Asked) != 0 {
		t.Errorf("%q %v %v", text(l), l.Asked, err)
	}
	var bad *domain.InvalidError
	if _, err := b.App.Desk.Ask(ctx, b.Rep, l.ID, question.Sheet{Questions: []question.Question{{Text: "?", Answers: []string{"a"}}}}); !errors.As(err, &bad) {
		t.Errorf("one answer: %v", err)
	}
	if _, err := b.App.Desk.Ask(ctx, b.Lead, l.ID, yesOrNo("")); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("somebody else's letter: %v", err)
	}
	_ = ada
}

func TestReminder_refused(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
	early := b.Now().Add(-time.Hour)
	var bad *domain.InvalidError
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{Remind: &early}); !errors.As(err, &bad) {
		t.Errorf("%v", err)
	}
	if err := b.App.Tasks.TaskDone(ctx, b.Rep, 99, true); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("%v", err)
	}
}

func TestInternal(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if p, err := b.Store.Person(ctx, ada); err != nil {
		t.Fatal(err)
	} else {
		p.OptedOutAt = &p.CreatedAt // a colleague may be written to about her all the same
		if err := b.Store.UpdatePerson(ctx, p); err != nil {
			t.Fatal(err)
		}
	}
	deal := withDeal(t, b, ada, "Oven")
	won := b.Template(t, "Won", "{{deal.name}} is won", "{{deal.main_contact.full_name}} signed.")
	l, err := b.App.Desk.StartInternal(ctx, b.Rep, deal, []int64{b.Lead.ID, b.Lead.ID}, &won)
	if err != nil || l.ToEmail != b.Lead.Email || len(l.Extras.AlsoTo) != 0 || text(l) != "Ada Quill signed." {
		t.Fatalf("%q %+v %v", l.ToEmail, l.Extras.AlsoTo, err)
	}
	if l, err = b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Email: "ada@quill.example"}}}); err != nil || len(l.Stops) == 0 || l.Stops[0].Code != "stranger" {
		t.Fatalf("%v %v", l.Stops, err)
	}
	if l, err = b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{}); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.SetColleagues(ctx, b.Rep, l.ID, wordingOf(l), []int64{b.Rep.ID, b.Lead.ID}); err != nil || l.ToEmail != b.Rep.Email || len(l.Extras.AlsoTo) != 1 {
		t.Fatalf("%+v %v", l.Extras, err)
	}
	gone(t, b, l, desk.When{})
	history, err := b.History(ctx, ada, 10, 0)
	if err != nil || len(history) != 0 {
		t.Errorf("filed on the person: %+v %v", history, err)
	}
	sheet, err := b.App.Records.DealPage(ctx, deal)
	if err != nil || len(dealHistory(t, b, deal)) != 1 || dealHistory(t, b, deal)[0].Kind != domain.EntrySent || len(sheet.People) != 1 || !sheet.People[0].Main {
		t.Errorf("%+v %v", sheet, err)
	}
	if written, err := b.Store.WrittenTo(ctx, ada); err != nil || written {
		t.Errorf("counts as written to the person: %v", err)
	}
	versions, err := b.Store.TemplateLines(ctx, b.Rep.ID, []int64{won})
	if err != nil || versions[0].Used != 0 {
		t.Errorf("counts for the template: %+v %v", versions, err)
	}
	var bad *domain.InvalidError
	if _, err := b.App.Desk.StartInternal(ctx, b.Rep, deal, nil, nil); !errors.As(err, &bad) {
		t.Errorf("to nobody: %v", err)
	}
	if _, err := b.App.Desk.StartInternal(ctx, b.Rep, deal, []int64{999}, nil); !errors.As(err, &bad) {
		t.Errorf("to a stranger: %v", err)
	}
	lonely, err := b.Store.AddDeal(ctx, domain.Deal{Name: "Lonely", Stage: "quoted", CreatedAt: b.Now()}, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.StartInternal(ctx, b.Rep, lonely, []int64{b.Lead.ID}, nil); !errors.As(err, &bad) {
		t.Errorf("without a main contact: %v", err)
	}
}

func TestDeals(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	withDeal(t, b, ada, "Oven")
	withDeal(t, b, ada, "Cellar")
	rows, _, _, err := b.App.Records.Deals(ctx, records.Asked{}, domain.RecordsQuery{Search: "quill CELL"})
	if err != nil || len(rows) != 1 || rows[0].Name != "Cellar" || rows[0].Amount == "" || rows[0].Contact != "Ada Quill" {
		t.Errorf("%+v %v", rows, err)
	}
}

func dealHistory(t *testing.T, b *testbed.Bed, deal int64) []domain.Entry {
	t.Helper()
	list, err := b.Store.History(ctx, domain.HistoryQuery{DealID: deal, Limit: 50})
	if err != nil {
		t.Fatal(err)
	}
	return list
}
