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
	l, kept, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: bo, AlsoTo: []domain.Address{{Name: "Ada Quill", Email: "ada@quill.example"}}})
	if err != nil {
		t.Fatal(err)
	}
	if got := render.RenderText(l.Subject) + "\n" + text(l); got != "For Bo\nDear Bo,\n\nRye pays net.\n\nAda asked.\n\nImre\nBo gets it." {
		t.Errorf("%q", got)
	}
	if len(l.Stops) > 0 || l.ToEmail != "bo@rye.example" || l.Person.ID != bo {
		t.Errorf("stops %v, to %q", l.Stops, l.ToEmail)
	}
	// The blank's words are the writer's, and may speak of the wrong one.
	if !slices.Equal(kept, []desk.KeptWords{{Label: "First name", Words: "Ada"}}) {
		t.Errorf("told %v", kept)
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
	if _, err := b.App.Delivery.Send(ctx, b.Rep, l.ID, out.Version, "bo@rye.example", desk.When{}); err != nil {
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
	l := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},"))
	w := wordingOf(l)
	w.Body.Content = append(w.Body.Content, document.NewPlain("As Quill said, Ada will come.").Content...)
	_, kept, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, w, desk.Addressee{PersonID: bo})
	want := []desk.KeptWords{{Label: "Last name", Words: "Quill"}, {Label: "First name", Words: "Ada"}}
	if err != nil || !slices.Equal(kept, want) {
		t.Errorf("%v %v", kept, err)
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
	if l, _, err = b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: ada, DealID: &two}); err != nil || !strings.HasPrefix(text(l), "The Cellar for ") || l.DealName != "Cellar" {
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
		if _, _, err := b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), to); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, _, err := b.App.Desk.SetAddressee(ctx, b.Lead, l.ID, wordingOf(l), desk.Addressee{PersonID: ada}); !errors.Is(err, domain.ErrNotFound) {
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
