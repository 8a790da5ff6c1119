package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/sentence"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// with gives the wording of a letter with nodes behind what is there.
func with(l desk.LetterSheet, p desk.Piece) desk.Wording {
	w := wordingOf(l)
	w.Body.Content = slices.Concat(w.Body.Content, p.Body.Content)
	return w
}

func TestPieces(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}"))
	price := b.Template(t, "Price", "The price", "{{person.first_name}}, it costs {{?sum: text}}.\n\n{{fixed}}Net.{{/fixed}}")
	p, err := b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{TemplateID: price})
	if err != nil || p.Name != "Price" || render.RenderText(p.Subject) != "The price" || !strings.HasPrefix(render.RenderText(p.Body), "Ada, it costs ") {
		t.Fatalf("%+v %v", p, err)
	}
	l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, with(l, p), desk.Source{TemplateID: price})
	if err != nil || len(l.Extras.Pieces) != 1 || !slices.Equal(l.Fixed, []string{"Net."}) || len(l.Gaps) != 1 || l.Gaps[0].Path != "?sum" || l.TemplateName != "Hello" {
		t.Fatalf("%+v %v %v", l.Extras.Pieces, l.Fixed, err)
	}
	if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "?sum", "no more", false); err != nil {
		t.Fatal(err)
	}
	// Another piece at the end, then the first is swapped for a third.
	bye, other := b.Template(t, "Bye", "", "Bye, {{sender.first_name}}"), b.Template(t, "Other", "", "See you.")
	if p, err = b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{TemplateID: bye}); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, with(l, p), desk.Source{TemplateID: bye}); err != nil {
		t.Fatal(err)
	}
	l, err = b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 0, &desk.Source{TemplateID: other})
	if err != nil || text(l) != "Dear Ada\nSee you.\nBye, Imre" || len(l.Fixed) != 0 || len(l.Extras.Pieces) != 2 || l.Extras.Pieces[1].Name != "Other" || len(l.Stops) != 0 {
		t.Fatalf("%q %v %+v %v %v", text(l), l.Fixed, l.Extras.Pieces, l.Stops, err)
	}
	if l, err = b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 0, nil); err != nil || text(l) != "Dear Ada\nSee you." {
		t.Fatalf("%q %v", text(l), err)
	}
	for name, do := range map[string]func() error{
		"a piece that is not there": func() error { _, err := b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 5, nil); return err },
		"a passage that is not there": func() error {
			_, err := b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{Passage: "nowhere"})
			return err
		},
		"somebody else's letter": func() error {
			_, err := b.App.Desk.PieceFor(ctx, b.Lead, l.ID, desk.Source{TemplateID: price})
			return err
		},
		"an old version": func() error {
			w := wordingOf(l)
			w.Version--
			_, err := b.App.Desk.Insert(ctx, b.Rep, l.ID, w, desk.Source{TemplateID: price})
			return err
		},
	} {
		if do() == nil {
			t.Errorf("%s: no error", name)
		}
	}
}

func TestPieces_kinds(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	markup := "<p>Dear <b>{{person.first_name}}</b></p><ul><li><p>One</p></li></ul>"
	formatted := b.Formatted(t, "Formatted", markup)
	plain := b.Letter(t, ada, b.Template(t, "Plain", "Hi", "Hello\n\nthere"))
	p, err := b.App.Desk.PieceFor(ctx, b.Rep, plain.ID, desk.Source{TemplateID: formatted})
	if err != nil || p.Body.Attrs.Body != document.BodyPlain || render.RenderText(p.Body) != "- One" || !slices.Equal(p.Without, []sentence.Frame{sentence.Greeting}) {
		t.Errorf("%q %v", render.RenderText(p.Body), err)
	}
	l := b.Letter(t, ada, formatted)
	// What was asked for whole comes whole, also in place of what stayed behind.
	if l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, with(l, p), desk.Source{TemplateID: *plain.TemplateID, Without: []sentence.Frame{sentence.Greeting}}); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 0, &desk.Source{TemplateID: *plain.TemplateID}); err != nil || !strings.Contains(text(l), "Hello") {
		t.Errorf("%q %v", text(l), err)
	}
	if p, err = b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{TemplateID: *plain.TemplateID}); err != nil || p.Body.Attrs.Body != document.BodyFormatted || len(p.Body.Content) != 1 {
		t.Errorf("%+v %v", p.Body, err)
	}
}

func TestStartOver(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Email: "bo@quill.example"}}}); err != nil {
		t.Fatal(err)
	}
	at, _ := b.App.Library.Upload(ctx, b.Rep, "a.txt", []byte("a"))
	if l, err = b.App.Desk.SetAttachments(ctx, b.Rep, l.ID, wordingOf(l), []domain.Attachment{at}); err != nil {
		t.Fatal(err)
	}
	hello := b.Formatted(t, "Hello", "<p>Dear {{person.first_name}}</p>")
	if _, err := b.App.Desk.StartOver(ctx, b.Rep, l.ID, l.Version-1, hello); err == nil {
		t.Error("an old version")
	}
	l, err = b.App.Desk.StartOver(ctx, b.Rep, l.ID, l.Version, hello)
	if err != nil || l.Body.Attrs.Body != document.BodyFormatted || text(l) != "Dear Ada" || l.TemplateName != "Hello" || len(l.Extras.Cc) != 1 || len(l.Extras.Attachments) != 1 {
		t.Errorf("%q %+v %v", text(l), l.Extras, err)
	}
}

func TestPieces_passage(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}"))
	if _, err := b.App.Library.AddPassage(ctx, b.Rep, library.PassageInput{Name: "Parking", Shortcut: "park", Kind: document.BodyPlain, Body: "You can park here, {{person.first_name|friend}}."}); err != nil {
		t.Fatal(err)
	}
	// Somebody else's passage of the same shortcut is neither taken nor named.
	if _, err := b.App.Library.AddPassage(ctx, b.Lead, library.PassageInput{Name: "A private one", Shortcut: "park", Kind: document.BodyPlain, Body: "Mine.", Rights: access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}}); err != nil {
		t.Fatal(err)
	}
	p, err := b.App.Desk.PieceFor(ctx, b.Rep, l.ID, desk.Source{Passage: "park"})
	if err != nil || p.Name != "Parking" || render.RenderText(p.Body) != "You can park here, Ada." {
		t.Errorf("%+v %v", p, err)
	}
}

func TestPieces_doNotLiftRules(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	id := b.Template(t, "Strict", "Hi", "Dear {{person.first_name}}")
	strict, err := b.Store.Template(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	strict.Extras.MayNot = []domain.Addition{domain.AddLinks}
	if err := b.Store.UpdateTemplate(ctx, strict); err != nil {
		t.Fatal(err)
	}
	added := func(l desk.LetterSheet) bool {
		return slices.ContainsFunc(l.Stops, func(n document.Note) bool { return n.Code == "added" })
	}
	l := b.Letter(t, ada, id)
	w := wordingOf(l)
	w.Body.Content = append(w.Body.Content, document.NewPlain("See https://mine.example/").Content...)
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil || !added(l) {
		t.Fatal("a link of the writer's goes: ", err)
	}
	from := desk.Source{TemplateID: b.Template(t, "Link", "", "Look: https://fernhollow.example/")}
	p, err := b.App.Desk.PieceFor(ctx, b.Rep, l.ID, from)
	if err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.Insert(ctx, b.Rep, l.ID, with(l, p), from); err != nil || !added(l) {
		t.Fatal("a piece lifts the rule: ", err)
	}
	w = wordingOf(l)
	w.Body.Content = slices.DeleteFunc(w.Body.Content, func(n document.Node) bool {
		return len(n.Content) == 1 && strings.Contains(n.Content[0].Text, "mine.example")
	})
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil || added(l) {
		t.Errorf("the link of the piece does not go: %q %v", text(l), err)
	}
	if l, err = b.App.Desk.TakeOut(ctx, b.Rep, l.ID, wordingOf(l), 0, nil); err != nil {
		t.Fatal(err)
	}
	w = wordingOf(l)
	w.Body.Content = append(w.Body.Content, document.NewPlain("See https://mine.example/").Content...)
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil || !added(l) {
		t.Error("what a piece brought may be replaced by a link of the writer's: ", err)
	}
}

func TestCopies_optedOutWhileWaiting(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", body))
	bo := b.Person(t, "Bo", "Ohm", "bo@quill.example")
	l, err := b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Email: "bo@quill.example"}}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	p, _ := b.Store.Person(ctx, bo)
	now := b.Now()
	p.OptedOutAt = &now
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.Letter(ctx, b.Rep, l.ID); err != nil || l.State != domain.Refused || !strings.Contains(l.Reason, "bo@quill.example") {
		t.Errorf("%s %q %v", l.State, l.Reason, err)
	}
}

func TestLetter_templateNews(t *testing.T) {
	b := testbed.New(t)
	id := b.Template(t, "Hello", "Hi", body)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), id)
	news := func(want string) {
		t.Helper()
		now, err := b.App.Desk.Letter(ctx, b.Rep, l.ID)
		if err != nil || now.TemplateNews != want || text(now) != text(l) || len(now.Stops) != 0 {
			t.Errorf("%q, want %q; %v %v", now.TemplateNews, want, now.Stops, err)
		}
	}
	news("")
	change := func(state domain.TemplateState) {
		t.Helper()
		stored, err := b.Store.Template(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		stored.State = state
		if err := b.Store.UpdateTemplate(ctx, stored); err != nil {
			t.Fatal(err)
		}
	}
	change(domain.TemplateReady)
	news("was changed (version 2, this letter has 1)")
	change(domain.TemplateWithdrawn)
	news("was withdrawn")
	now := b.Now()
	if err := b.Store.DeleteTemplate(ctx, id, &now); err != nil {
		t.Fatal(err)
	}
	news("was deleted")
}

func TestFormat(t *testing.T) {
	b, _ := signing(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},\n\n{{fixed}}Net.{{/fixed}}\n\n{{?reason}}"))
	before := text(l)
	l, err := b.App.Desk.Format(ctx, b.Rep, l.ID, wordingOf(l))
	if err != nil || l.Body.Attrs.Body != document.BodyFormatted || text(l) != before {
		t.Fatalf("%q, was %q %v", text(l), before, err)
	}
	if l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, wordingOf(l), "?reason", "because", false); err != nil || len(l.Stops) > 0 {
		t.Fatalf("%v %v", l.Stops, err)
	}
	// The signature is still known as such.
	if err := b.App.Desk.SetSignature(ctx, b.Rep, "sales@fernhollow.example", formatted(t, "<p>The sales desk</p>")); err != nil {
		t.Fatal(err)
	}
	if l, err = b.App.Desk.SetFrom(ctx, b.Rep, l.ID, wordingOf(l), "sales@fernhollow.example"); err != nil || strings.Contains(text(l), "Imre") || !strings.Contains(text(l), "The sales desk") {
		t.Errorf("%q %v", text(l), err)
	}
	w := wordingOf(l)
	w.Body = render.Formatted(document.NewPlain("Dear Ada, net no more"))
	if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil || len(l.Stops) == 0 {
		t.Errorf("fixed wording went with the form: %v %v", l.Stops, err)
	}
	if _, err := b.App.Desk.Format(ctx, b.Rep, l.ID, wordingOf(l)); err == nil {
		t.Error("formatted twice")
	}
}

// Formatting is undone as long as nothing else was written.
func TestUnformat(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "O'Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Terms", "Hi", "Dear {{person.last_name}},\n\n{{fixed}}\nPrices are net.\n{{/fixed}}\n\nhttps://fernhollow.example"))
	before := wordingOf(l)
	formatted, err := b.App.Desk.Format(ctx, b.Rep, l.ID, before)
	if err != nil {
		t.Fatal(err)
	}
	undo := before
	if _, err := b.App.Desk.Unformat(ctx, b.Rep, l.ID, undo); !errors.Is(err, domain.ErrStale) {
		t.Errorf("on another version: %v", err)
	}
	undo.Version, undo.Body = formatted.Version, document.NewPlain("Dear you")
	var state *domain.StateError
	if _, err := b.App.Desk.Unformat(ctx, b.Rep, l.ID, undo); !errors.As(err, &state) {
		t.Errorf("without what is fixed: %v", err)
	}
	undo.Body = before.Body
	back, err := b.App.Desk.Unformat(ctx, b.Rep, l.ID, undo)
	if err != nil || back.Body.Attrs.Body != document.BodyPlain || text(back) != text(l) || markup.Print(back.Body) != markup.Print(l.Body) {
		t.Fatalf("%q, %v", text(back), err)
	}
	if len(back.Fixed) != len(l.Fixed) || back.Extras.Stationery != 0 {
		t.Errorf("%q %+v", back.Fixed, back.Extras)
	}
}

// Starting again with a template keeps what was written: it can be restored as it was.
func TestStartOver_keepsWhatWasWritten(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "One", "One", "Dear {{person.first_name}}, one."))
	w := wordingOf(l)
	w.Body = document.NewPlain("Dear Ada, an hour of work.")
	l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	if err != nil {
		t.Fatal(err)
	}
	again, err := b.App.Desk.StartOver(ctx, b.Rep, l.ID, l.Version, b.Template(t, "Two", "Two", "Dear {{person.first_name}}, two."))
	if err != nil || !strings.Contains(text(again), "two") || again.Before == 0 {
		t.Fatalf("%q, %d, %v", text(again), again.Before, err)
	}
	back, err := b.App.Desk.Restore(ctx, b.Rep, again.Before)
	if err != nil || text(back) != "Dear Ada, an hour of work." || back.SubjectLine != "One" || back.PersonID != l.PersonID {
		t.Errorf("%q, %v", text(back), err)
	}
}

// A folder of passages goes as its contents are to go, and comes back with them.
func TestDeleteFolder_ofPassages(t *testing.T) {
	for _, contents := range []library.Contents{library.OnlyEmpty, library.MoveOut, library.DeleteToo} {
		b := testbed.New(t)
		folder, err := b.App.Library.AddFolder(ctx, b.Lead, library.HoldsPassages, library.FolderInput{Name: "Answers"})
		if err != nil {
			t.Fatal(err)
		}
		p, err := b.App.Library.AddPassage(ctx, b.Lead, library.PassageInput{Name: "Hours", Shortcut: "hours", Body: "From eight.", FolderID: &folder})
		if err != nil {
			t.Fatal(err)
		}
		_, err = b.App.Library.DeleteFolder(ctx, b.Lead, library.HoldsPassages, folder, contents)
		if contents == library.OnlyEmpty {
			if err == nil {
				t.Error("a folder with a passage was deleted as an empty one")
			}
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		now, err := b.Store.Passage(ctx, p.ID)
		if err != nil || (now.DeletedAt != nil) != (contents == library.DeleteToo) || contents == library.MoveOut && now.FolderID != nil {
			t.Errorf("%v: %+v, %v", contents, now, err)
		}
		if err := b.App.Desk.PutBackFolder(ctx, b.Lead, library.HoldsPassages, folder); err != nil {
			t.Fatal(err)
		}
		if now, err = b.Store.Passage(ctx, p.ID); err != nil || now.DeletedAt != nil || now.FolderID == nil || *now.FolderID != folder {
			t.Errorf("%v, put back: %+v, %v", contents, now, err)
		}
	}
}
