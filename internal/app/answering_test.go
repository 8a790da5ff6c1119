package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/advice"
	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestStartAnswer(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	first := b.Letter(t, ada, b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	gone(t, b, first, desk.When{})
	sent, _ := b.Store.Letter(ctx, first.ID)
	comes(t, b, "imre@fernhollow.example", "From: Ada Quill <ada@quill.example>\nTo: Imre <imre@fernhollow.example>, Bo <bo@else.example>\nCc: greta@fernhollow.example, ada@quill.example\n"+
		"Message-ID: <a1@quill.example>\nIn-Reply-To: <"+sent.MessageID+">\nReferences: <"+sent.MessageID+">\nSubject: AW: Re: For you", "Yes.\n\nOn 2 March Imre wrote:\n> Dear Ada")
	list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
	if err != nil || len(list) != 1 {
		t.Fatal(list, err)
	}
	noSubject := b.Template(t, "Short", "", "Thank you, {{person.first_name}}")
	l, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, &noSubject, false)
	if err != nil {
		t.Fatal(err)
	}
	if l.PersonID != ada || render.RenderText(l.Subject) != "Re: For you" || !strings.Contains(render.RenderText(l.Body), "Thank you, Ada") || l.Extras.Quote == nil || l.Extras.Quote.Words != "Yes." || len(l.Extras.Cc) != 0 {
		t.Fatalf("%+v %+v", l.Letter, l.Extras.Quote)
	}
	gone(t, b, l, desk.When{})
	raw, err := b.App.Desk.Source(ctx, b.Rep, l.ID)
	for _, want := range []string{"In-Reply-To: <a1@quill.example>", "References: <" + sent.MessageID + "> <a1@quill.example>", "Subject: Re: For you", "Ada Quill <ada@quill.example>, 2 March 2026:", "> Yes."} {
		if err != nil || !strings.Contains(strings.ReplaceAll(string(raw), "\r\n ", " "), want) {
			t.Errorf("%q is not in %s", want, raw)
		}
	}
	if left, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep); err != nil || len(left) != 0 {
		t.Errorf("still to be answered: %+v %v", left, err)
	}
	// What comes to the answer belongs to it.
	answer, _ := b.Store.Letter(ctx, l.ID)
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nIn-Reply-To: <"+answer.MessageID+">\nMessage-ID: <a2@quill.example>\nSubject: Re: For you", "Good.")
	if in, err := b.App.Inbox.IncomingOf(ctx, b.Rep, l.ID); err != nil || len(in) != 1 {
		t.Errorf("%+v %v", in, err)
	}
	all, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, nil, true)
	if err != nil || len(all.Extras.Cc) != 2 || all.Extras.Cc[0].Email != "bo@else.example" || strings.Join(all.Strangers, " ") != "bo@else.example" {
		t.Errorf("to all: %+v %v %v", all.Extras.Cc, all.Strangers, err)
	}
	cut, err := b.App.Inbox.SetQuote(ctx, b.Rep, all.ID, desk.Wording{Version: all.Version, Subject: all.Subject, Body: document.NewPlain("Hello")}, "")
	if err != nil {
		t.Fatal(err)
	}
	if p, err := b.App.Desk.ProofOf(ctx, b.Rep, cut.ID, desk.When{}); err != nil || p.Mail.Text != "Hello\n" {
		t.Errorf("cut: %q %v", p.Mail.Text, err)
	}
}

// Who is in no record becomes a lead; an answer goes where the letter asks; nobody
// answers a machine.
func TestStartAnswer_others(t *testing.T) {
	b := testbed.New(t)
	answer := func(headers string) (desk.LetterSheet, error) {
		t.Helper()
		comes(t, b, "imre@fernhollow.example", headers, "Hello?")
		list, err := b.Store.IncomingFor(ctx, b.Rep.ID, false, 1)
		if err != nil || len(list) != 1 {
			t.Fatal(list, err)
		}
		return b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, nil, false)
	}
	if l, err := answer("From: \"Moss, Bo; the (2nd)\" <bo@moss.example>\nSubject: A question"); err != nil || l.ToEmail != "bo@moss.example" || l.Person.Name() != "Moss Bo the 2nd" || render.RenderText(l.Subject) != "Re: A question" || slices.ContainsFunc(l.Advice.Notes, func(n advice.Advice) bool { return strings.Contains(n.Message, "Re:") }) {
		t.Errorf("%+v %v", l.Letter, err)
	}
	b.Pass(1)
	if l, err := answer("From: Bo <bo@moss.example>\nReply-To: desk@moss.example\nSubject: =?utf-8?q?a=0D=0Ab?="); err != nil || l.ToEmail != "bo@moss.example" || len(l.Extras.AlsoTo) != 1 || l.Extras.AlsoTo[0].Email != "desk@moss.example" || strings.ContainsAny(render.RenderText(l.Subject), "\r\n") {
		t.Errorf("%+v %v", l.Letter, err)
	}
	first := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	gone(t, b, first, desk.When{})
	sent, _ := b.Store.Letter(ctx, first.ID)
	if l, err := answer("From: ada@quill.example\nIn-Reply-To: <" + sent.MessageID + ">\nSubject: Re: For you"); err != nil || l.InReplyTo != sent.MessageID {
		t.Errorf("without an id of its own: %q %v", l.InReplyTo, err)
	}
	b.Pass(1)
	var state *domain.StateError
	if _, err := answer("From: bo@moss.example\nAuto-Submitted: auto-replied\nSubject: Away"); !errors.As(err, &state) {
		t.Errorf("a machine: %v", err)
	}
	var invalid *domain.InvalidError
	if _, err := answer("From: nobody\nSubject: x"); !errors.As(err, &invalid) {
		t.Errorf("no address: %v", err)
	}
}

// A reply that is given to somebody else quotes nothing of who wrote, and begins a conversation of
// its own.
func TestStartAnswer_givenToSomebodyElse(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	bo := b.Person(t, "Bo", "Rye", "bo@rye.example")
	comes(t, b, "imre@fernhollow.example", "From: Ada <ada@quill.example>\nMessage-ID: <x@quill.example>\nSubject: Private", "My own affairs.")
	list, err := b.Store.IncomingFor(ctx, b.Rep.ID, false, 1)
	if err != nil || len(list) != 1 {
		t.Fatal(list, err)
	}
	l, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, nil, false)
	if err != nil || l.Extras.Quote == nil {
		t.Fatal(l.Extras, err)
	}
	if l, err = b.App.Desk.SetAddressee(ctx, b.Rep, l.ID, wordingOf(l), desk.Addressee{PersonID: bo}); err != nil {
		t.Fatal(err)
	}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || strings.Contains(proof.Mail.Text, "affairs") || l.Extras.Quote != nil || l.InReplyTo != "" || l.References != "" || l.ThreadID != nil || l.AnswersID != nil {
		t.Errorf("%q, %+v, %v", proof.Mail.Text, l.Letter.References, err)
	}
}
