package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func wordsFor(l desk.LetterSheet, body string) desk.Wording {
	return desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: document.NewPlain(body)}
}

// A letter discarded in one window and another one begun: what the other window saves
// never gets into the second person's letter.
func TestSaveDraft_ofDiscardedLetter(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For {{person.first_name}}", body)
	first := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), hello)
	if err := b.App.Desk.Discard(ctx, b.Rep, first.ID); err != nil {
		t.Fatal(err)
	}
	second := b.Letter(t, b.Person(t, "Bo", "Finch", "bo@finch.example"), hello)
	if second.ID == first.ID {
		t.Fatal("an id was used again")
	}
	// As the window of the first letter would, under any id.
	if other, err := b.App.Desk.SaveDraft(ctx, b.Rep, second.ID, wordsFor(first, "Dear Ada, call 555")); err != nil || other.ID == second.ID || other.Instead != desk.InsteadOfGiven || other.PersonID != first.PersonID {
		t.Errorf("words for Ada were saved to %+v: %v", other.Letter, err)
	}
	kept, err := b.App.Desk.SaveDraft(ctx, b.Rep, first.ID, wordsFor(first, "Dear Ada, call 555"))
	if err != nil || kept.ID == first.ID || kept.Instead != desk.InsteadOfDiscarded || kept.PersonID != first.PersonID || text(kept) != "Dear Ada, call 555" {
		t.Fatalf("%+v, %v", kept.Letter, err)
	}
	if got, _ := b.App.Desk.Letter(ctx, b.Rep, second.ID); text(got) != text(second) {
		t.Errorf("Bo's letter says %q", text(got))
	}
	// A letter of which nothing is left.
	kept, err = b.App.Desk.SaveDraft(ctx, b.Rep, 999, wordsFor(first, "Dear Ada, again"))
	if err != nil || kept.PersonID != first.PersonID || text(kept) != "Dear Ada, again" {
		t.Errorf("%+v, %v", kept.Letter, err)
	}
	if _, err := b.App.Desk.SaveDraft(ctx, b.Lead, first.ID, wordsFor(first, "x")); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("somebody else's letter: %v", err)
	}
	if _, err := b.App.Desk.Letter(ctx, b.Rep, first.ID); !errors.Is(err, domain.ErrDiscarded) {
		t.Errorf("a discarded letter: %v", err)
	}
	if l, err := b.App.Desk.Restore(ctx, b.Rep, first.ID); err != nil || text(l) != text(first) {
		t.Errorf("restored: %v", err)
	}
	if rows, _ := b.App.Desk.Letters(ctx, b.Rep, []domain.LetterState{domain.Draft}, ""); len(rows) != 5 {
		t.Errorf("%d drafts", len(rows))
	}
}

// A letter is given to somebody else in one window while words for the first are typed in
// another: they are told, and kept for the first when they are kept. Of two records that
// became one it is the same letter.
func TestSaveDraft_ofGivenLetter(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "For you", body))
	bo := b.Person(t, "Bo", "Finch", "bo@finch.example")
	given, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: bo})
	if err != nil {
		t.Fatal(err)
	}
	w := wordsFor(l, "Dear Ada, call 555")
	if _, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); !errors.Is(err, domain.ErrStale) {
		t.Errorf("not told: %v", err)
	}
	w.Version = given.Version
	kept, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	if err != nil || kept.ID == l.ID || kept.Instead != desk.InsteadOfGiven || kept.PersonID != l.PersonID || text(kept) != "Dear Ada, call 555" {
		t.Fatalf("%+v, %v", kept.Letter, err)
	}
	if got, _ := b.App.Desk.Letter(ctx, b.Rep, l.ID); got.PersonID != bo || text(got) != text(given) {
		t.Errorf("Bo's letter says %q", text(got))
	}
	w = wordsFor(kept, "Dear Ada, call 556")
	into, _ := b.Store.Person(ctx, bo)
	if _, err := b.App.Records.Merge(ctx, b.Rep, bo, kept.PersonID, into.Version, nil); err != nil {
		t.Fatal(err)
	}
	if got, err := b.App.Desk.SaveDraft(ctx, b.Rep, kept.ID, w); err != nil || got.ID != kept.ID || got.PersonID != bo || text(got) != "Dear Ada, call 556" {
		t.Errorf("%+v, %v", got.Letter, err)
	}
}

// Sent from one window while the other goes on writing: the words are not lost.
func TestSaveDraft_ofSentLetter(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "For you", body))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	same := desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: l.Body}
	var state *domain.StateError
	if _, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, same); !errors.As(err, &state) {
		t.Errorf("the same words were kept once more: %v", err)
	}
	kept, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, wordsFor(l, "Dear Ada, and more"))
	if err != nil || kept.Instead != desk.InsteadOfSent || kept.State != domain.Draft || kept.ID == l.ID {
		t.Fatalf("%+v, %v", kept.Letter, err)
	}
	if went, _ := b.Store.Letter(ctx, l.ID); render.RenderText(went.Body) != text(l) || went.State != domain.Waiting {
		t.Errorf("what went: %+v", went)
	}
}

// Nothing that is pasted keeps a draft from being saved.
func TestSaveDraft_neverForWhatItSays(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Formatted(t, "Hello", "<p>Dear {{person.first_name}}</p>"))
	w := desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: l.Body}
	w.Body.Content = append(slices.Clone(w.Body.Content), document.Node{Type: document.Paragraph, Content: []document.Node{
		{Type: document.Text, Text: "the plan", Marks: []document.Mark{{Type: document.Link, Attrs: &document.MarkAttrs{Href: "file:///C:/plan.pdf"}}}},
		{Type: document.Text, Text: "two\nlines\x00"}, {Type: "video", Text: "moving"},
	}})
	l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	if err != nil || !strings.Contains(text(l), "the plan") || !strings.Contains(text(l), "moving") {
		t.Fatalf("%q, %v", text(l), err)
	}
	if !slices.ContainsFunc(l.Stops, func(n document.Note) bool { return n.Code == "address" && n.Line == 2 }) {
		t.Errorf("no note on the link: %+v", l.Stops)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err == nil {
		t.Error("it went")
	}
}

// A draft tells what changed on the record since, and takes it over.
func TestLetter_recordNews(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	hello := b.Template(t, "Hello", "For {{person.first_name}}", "Dear {{person.first_name}},\n{{#person.job_title}}\nHow is work as {{person.job_title}}?\n{{/person.job_title}}\nto {{person.city|your town}}?")
	change := func(set map[string]string) {
		t.Helper()
		p, err := b.Store.Person(ctx, ada)
		if err == nil {
			_, err = b.App.Records.ChangePerson(ctx, b.Rep, ada, p.Version, set)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	l := b.Letter(t, ada, hello)
	w := desk.Wording{PersonID: ada, Version: l.Version, Subject: l.Subject, Body: l.Body}
	w.Body.Content = append(slices.Clone(w.Body.Content), document.NewPlain("My own words about Ada.").Content...)
	l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	if err != nil || len(l.RecordNews) != 0 {
		t.Fatalf("%+v, %v", l.RecordNews, err)
	}
	change(map[string]string{"person.phone": "+44 20 7946 0000"}) // the letter does not speak of it
	if l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID); len(l.RecordNews) != 0 {
		t.Errorf("news that are none: %+v", l.RecordNews)
	}
	change(map[string]string{"person.first_name": "Adela", "person.city": "Leeds"})
	l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID)
	want := []compose.RecordNews{{Path: "person.first_name", Label: "First name", Was: "Ada", Now: "Adela"}, {Path: "person.city", Label: "City", Was: "", Now: "Leeds"}}
	if !slices.Equal(l.RecordNews, want) {
		t.Errorf("%+v", l.RecordNews)
	}
	if !strings.Contains(text(l), "Dear Ada,") {
		t.Errorf("changed without being told: %q", text(l))
	}
	w = desk.Wording{PersonID: ada, Version: l.Version, Subject: l.Subject, Body: l.Body}
	l, err = b.App.Desk.SettleRecordNews(ctx, b.Rep, l.ID, w, true)
	if err != nil || len(l.RecordNews) != 0 || l.SubjectLine != "For Adela" || !strings.Contains(text(l), "Dear Adela,\nto Leeds?") || !strings.Contains(text(l), "My own words about Ada.") {
		t.Errorf("%q %q %+v, %v", l.SubjectLine, text(l), l.RecordNews, err)
	}
	change(map[string]string{"person.job_title": "Baker"})
	if l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID); len(l.RecordNews) != 1 || l.RecordNews[0].Now != "Baker" {
		t.Errorf("what a condition asks: %+v", l.RecordNews)
	}
	w = desk.Wording{PersonID: ada, Version: l.Version, Subject: l.Subject, Body: l.Body}
	if l, err = b.App.Desk.SettleRecordNews(ctx, b.Rep, l.ID, w, false); err != nil || len(l.RecordNews) != 0 || strings.Contains(text(l), "Baker") {
		t.Errorf("left as it is: %q %+v, %v", text(l), l.RecordNews, err)
	}
	// What is corrected from the letter itself is no news.
	w = desk.Wording{PersonID: ada, Version: l.Version, Subject: letter.Correct(l.Subject, "person.first_name", "Delia"), Body: l.Body}
	l, err = b.App.Desk.WriteBack(ctx, b.Rep, l.ID, w, "person.first_name")
	p, _ := b.Store.Person(ctx, ada)
	if err != nil || p.FirstName != "Delia" || !strings.Contains(text(l), "Dear Delia,") || len(l.RecordNews) != 0 {
		t.Errorf("%q %q %+v, %v", p.FirstName, text(l), l.RecordNews, err)
	}
}

// A spelling set right changes the words of the field alone, also in fixed wording.
func TestCorrect_byProvenance(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "AL", "Quill", "al@quill.example"), b.Template(t, "Hello", "For you",
		"{{fixed}}\nDear {{person.first_name}}, ALDER wood of AL lasts.\n{{/fixed}}\nIs ALDER yours, {{person.first_name}}?"))
	w := desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: l.Body}
	l, err := b.App.Desk.Correct(ctx, b.Rep, l.ID, w, "person.first_name", "Alan", false)
	if want := "Dear Alan, ALDER wood of AL lasts.\nIs ALDER yours, Alan?"; err != nil || text(l) != want || len(l.Stops) != 0 {
		t.Errorf("%q, stops %v, %v", text(l), l.Stops, err)
	}
}

// What was taken out of a letter again gets no credit for it.
func TestTakeOut_credit(t *testing.T) {
	b := testbed.New(t)
	one, two := b.Template(t, "One", "", "First words."), b.Template(t, "Two", "", "Second words.")
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, b.Person(t, "Ada", "Quill", "ada@quill.example"), nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	put := func(id int64, words string) {
		t.Helper()
		w := wordsFor(l, render.RenderText(l.Body)+"\n"+words)
		if l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, w, desk.Source{TemplateID: id}); err != nil {
			t.Fatal(err)
		}
	}
	put(one, "First words.")
	put(two, "Second words.")
	out := func() {
		t.Helper()
		w := desk.Wording{PersonID: l.PersonID, Version: l.Version, Subject: l.Subject, Body: l.Body}
		if l, err = b.App.Desk.TakeOut(ctx, b.Rep, l.ID, w, 0, nil); err != nil {
			t.Fatal(err)
		}
	}
	if l.TemplateID == nil || *l.TemplateID != one {
		t.Fatalf("%v", l.TemplateID)
	}
	if out(); l.TemplateID == nil || *l.TemplateID != two || l.TemplateName != "Two" {
		t.Errorf("after the first was taken out: %v %q", l.TemplateID, l.TemplateName)
	}
	if out(); l.TemplateID != nil {
		t.Errorf("after both were taken out: %v", *l.TemplateID)
	}
}
