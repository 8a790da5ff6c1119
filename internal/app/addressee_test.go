package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// withDeal adds a deal of 900 EUR with a person.
func withDeal(t *testing.T, b *testbed.Bed, person int64, name string) int64 {
	t.Helper()
	id, err := b.Store.AddDeal(ctx, domain.Deal{Name: name, MainContactID: &person, Stage: "quoted", AmountMinor: 90000, Currency: "EUR", CreatedAt: b.Now()}, nil)
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func TestSetAddressee(t *testing.T) {
	b := testbed.New(t)
	ada, bo := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Rye", "bo@rye.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "For {{person.first_name}}", "Dear {{person.first_name}},\n\n{{fixed}}{{person.last_name}} pays net.{{/fixed}}\n\n{{?reason}}\n\n{{sender.first_name}}"))
	price := b.Template(t, "Price", "", "{{person.first_name}} gets it.")
	p, err := b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{TemplateID: price})
	if err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, with(l, p), desk.Source{TemplateID: price}); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "?reason", "Ada asked.", false); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Email: "BO@rye.example"}, {Email: "cy@wye.example"}}}); err != nil {
		t.Fatal(err)
	}
	l, err = b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: bo, AlsoTo: []domain.Address{{Name: "Ada Quill", Email: "ada@quill.example"}}})
	if err != nil {
		t.Fatal(err)
	}
	if got := render.RenderText(l.Subject) + "\n" + text(l); got != "For Bo\nDear Bo,\n\nRye pays net.\n\nAda asked.\n\nImre\nBo gets it." {
		t.Errorf("%q", got)
	}
	if len(l.Stops) != 1 || l.Stops[0].Code != "kept" || l.ToEmail != "bo@rye.example" || l.Person.ID != bo {
		t.Errorf("stops %v, to %q", l.Stops, l.ToEmail)
	}
	// The blank's words are the writer's, and may speak of the wrong one.
	if !slices.Equal(l.Kept, []domain.KeptWords{{Path: "person.first_name", Label: "First name", Words: "Ada"}}) {
		t.Errorf("told %v", l.Kept)
	}
	// Who is in To gets no copy; the others keep theirs.
	if !slices.Equal(l.Extras.Cc, []domain.Address{{Email: "cy@wye.example"}}) || len(l.Extras.AlsoTo) != 1 {
		t.Errorf("copies %+v", l.Extras)
	}
	// The piece is found again under its new words.
	out, err := b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 0, nil)
	if err != nil || strings.Contains(text(out), "gets it") {
		t.Errorf("%q %v", text(out), err)
	}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || !strings.Contains(proof.Mail.To, "bo@rye.example") || !strings.Contains(proof.Mail.To, "ada@quill.example") {
		t.Errorf("To: %q %v", proof.Mail.To, err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, out.Version, "bo@rye.example", desk.When{}); err == nil {
		t.Error("it went although nobody said that Ada fits")
	}
	if out, err = b.App.Desk.SettleKept(ctx, b.Rep, l.ID, wordingOf(out)); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, out.Version, "bo@rye.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(desk.DefaultHold * 2e9)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	for _, box := range []string{"bo@rye.example", "ada@quill.example", "cy@wye.example"} {
		if got, err := b.Store.PostLetters(ctx, box, 5); err != nil || len(got) != 1 {
			t.Errorf("%s has %d letters, %v", box, len(got), err)
		}
	}
}

func TestSetAddressee_tellsWhatStays(t *testing.T) {
	b := testbed.New(t)
	ada, bo := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Rye", "bo@rye.example")
	begun := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
	w := wordingOf(begun)
	w.Body.Content = append(w.Body.Content, document.NewPlain("As Quill said, Ada will come.").Content...)
	l, err := b.App.Desk.SetAddressee(ctx, b.Rep, begun.ID, w, desk.Addressee{PersonID: bo})
	want := []domain.KeptWords{{Path: "person.last_name", Label: "Last name", Words: "Quill"}, {Path: "person.first_name", Label: "First name", Words: "Ada"}}
	if err != nil || !slices.Equal(l.Kept, want) {
		t.Errorf("%v %v", l.Kept, err)
	}
	// It is kept with the letter: another window is told the same, until the words are gone.
	if again, err := b.App.Desk.Letter(ctx, b.Rep, l.ID); err != nil || !slices.Equal(again.Kept, want) {
		t.Errorf("in another window: %v %v", again.Kept, err)
	}
	w = wordingOf(l)
	w.Body = document.NewPlain("Dear Bo, as QUILL said, somebody will come.")
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil || !slices.Equal(l.Kept, want[:1]) {
		t.Errorf("after correcting one: %v %v", l.Kept, err)
	}
}

// Every value of the records before is noticed in the ways that it may have been typed; what the
// records had when the letter was begun goes with them, also when they were changed since.
func TestSetAddressee_everyValueInEveryForm(t *testing.T) {
	b := testbed.New(t)
	ada, bo := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Rye", "bo@rye.example")
	put(t, b, ada, "person.phone", "+44 20 7946 0018")
	oven, cellar := withDeal(t, b, ada, "Walk-in oven"), withDeal(t, b, bo, "Cellar")
	d, err := b.Store.Deal(ctx, oven)
	if err != nil {
		t.Fatal(err)
	}
	d.AmountMinor, d.Currency, d.CloseDate = 1250000, "EUR", "2026-06-12"
	if err := b.Store.UpdateDeal(ctx, d); err != nil {
		t.Fatal(err)
	}
	template := b.Template(t, "Quote", "Your room", "Dear {{person.first_name}}, your room in {{person.city}} for {{deal.amount}}.")
	for typed, told := range map[string]string{
		"ADA, are you there?": "ADA", "It costs €12,500.00.": "€12,500.00", "It costs 12500.00 EUR.": "12500.00 EUR", "By 12 June 2026, we hope.": "12 June 2026",
		"By 12/06/2026.": "12/06/2026", "About your walk-in OVEN.": "walk-in OVEN", "In Harrowmere.": "Harrowmere", "Call +44 20 7946 0018.": "+44 20 7946 0018",
		"ada@quill.example is right?": "ada@quill.example", "The adage holds, and canada too.": "", "Nothing of anybody.": "",
	} {
		t.Run(typed, func(t *testing.T) {
			put(t, b, ada, "person.city", "Harrowmere")
			begun, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, &template, &oven)
			if err != nil {
				t.Fatal(err)
			}
			put(t, b, ada, "person.city", "Leeds") // after the letter was begun
			w := wordingOf(begun)
			w.Body.Content = append(document.Clone(w.Body.Content), document.NewPlain(typed).Content...)
			saved, err := b.App.Desk.SaveDraft(ctx, b.Rep, begun.ID, w)
			if err != nil {
				t.Fatal(err)
			}
			l, err := b.App.Desk.SetAddressee(ctx, b.Rep, begun.ID, wordingOf(saved), desk.Addressee{PersonID: bo, DealID: &cellar})
			if err != nil {
				t.Fatal(err)
			}
			if first := strings.Split(text(l), "\n")[0]; strings.Contains(first, "Harrowmere") || strings.Contains(first, "Leeds") || strings.Contains(first, "12,500") {
				t.Errorf("of the records before: %q", first)
			}
			got := ""
			for _, k := range l.Kept {
				got += k.Words
			}
			if got != told {
				t.Errorf("told %q, want %q", got, told)
			}
		})
	}
}

func TestSetAddressee_deals(t *testing.T) {
	b := testbed.New(t)
	ada, bo := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Rye", "bo@rye.example")
	one, two := withDeal(t, b, ada, "Oven"), withDeal(t, b, ada, "Cellar")
	quote := b.Template(t, "Quote", "Hi", "The {{deal.name}} for {{deal.amount}}.")
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, &quote, &one)
	if err != nil || !strings.HasPrefix(text(l), "The Oven for ") || len(l.Deals) != 2 {
		t.Fatalf("%q %v", text(l), err)
	}
	if l, err = b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: ada, DealID: &two}); err != nil || !strings.HasPrefix(text(l), "The Cellar for ") || l.DealName != "Cellar" {
		t.Fatalf("%q %v", text(l), err)
	}
	for name, to := range map[string]desk.Addressee{
		"nobody":                      {PersonID: 999},
		"somebody without a deal":     {PersonID: bo},
		"a deal of somebody else":     {PersonID: bo, DealID: &one},
		"an address that is none":     {PersonID: ada, DealID: &two, AlsoTo: []domain.Address{{Email: "cy"}}},
		"a name of more than a line":  {PersonID: ada, DealID: &two, AlsoTo: []domain.Address{{Email: "c@y.example", Name: "C\r\nBcc: x@y.example"}}},
		"more deals, and none chosen": {PersonID: ada},
	} {
		var bad *domain.InvalidError
		if _, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), to); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := b.App.Desk.SetAddressee(ctx, b.Lead, l.ID, wordingOf(l), desk.Addressee{PersonID: ada}); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("somebody else's letter: %v", err)
	}
}

// What the writer wrote in place of a value is offered to the record.
func TestEditedValue(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}, from {{sender.first_name}}"))
	w := wordingOf(l)
	w.Body = letter.Correct(letter.Correct(w.Body, "person.first_name", "Adda"), "sender.first_name", "me")
	l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	want := []library.Suggestion{{Path: "person.first_name", Label: "First name", Value: "Ada", Better: "Adda", Edited: true}}
	if err != nil || !slices.Equal(l.Suggestions, want) {
		t.Fatalf("%+v %v", l.Suggestions, err)
	}
	if l, err = b.App.Desk.Correct(ctx, b.Rep, l.ID, wordingOf(l), "person.first_name", "Adda", true); err != nil || len(l.Suggestions) != 0 || l.Person.FirstName != "Adda" {
		t.Errorf("%+v %q %v", l.Suggestions, l.Person.FirstName, err)
	}
}

func TestWhoHas(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	b.Person(t, "Ben", "Quill", "Ada@Quill.example")
	if who, err := b.App.Desk.WhoHas(ctx, "ADA@quill.example"); err != nil || len(who) != 2 || who[0].Who != "lead" {
		t.Errorf("%v %v", who, err)
	}
	if who, err := b.App.Desk.WhoHas(ctx, "nobody@quill.example"); err != nil || len(who) != 0 {
		t.Errorf("%v %v", who, err)
	}
}

// A name of two letters is noticed too.
func TestSetAddressee_shortName(t *testing.T) {
	b := testbed.New(t)
	bo, ada := b.Person(t, "Bo", "Rye", "bo@rye.example"), b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, bo, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
	w := wordingOf(l)
	w.Body.Content = append(w.Body.Content, document.NewPlain("Bo, call me about the book.").Content...)
	l, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, w, desk.Addressee{PersonID: ada})
	if err != nil || len(l.Kept) != 1 || l.Kept[0].Words != "Bo" {
		t.Errorf("%v, %v", l.Kept, err)
	}
}
