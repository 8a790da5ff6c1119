package app_test

import (
	"context"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Fixed wording is enforced by the server, whatever the editor sends.
func TestSend_fixedWording(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	id := b.Template(t, "Terms", "Terms", "Dear {{person.first_name}},\n{{fixed}}\nThe offer to {{person.first_name}} holds 30 days.\n{{/fixed}}\nYours")
	person := b.Person(t, "ADA", "Quill", "ada@quill.example")
	l := b.Letter(t, person, id)
	if len(l.Stops) > 0 || len(l.Fixed) != 1 || l.Fixed[0] != "The offer to ADA holds 30 days." {
		t.Fatalf("%v %q", l.Stops, l.Fixed)
	}
	save := func(text string) desk.LetterSheet {
		t.Helper()
		s, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: document.NewPlain(text)})
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	l = save("Hello,\nThe offer to ADA holds 60 days.\nYours")
	if len(l.Stops) != 1 || l.Stops[0].Code != "fixed" {
		t.Fatalf("changed: %v", l.Stops)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err == nil || !strings.Contains(err.Error(), "is fixed wording") {
		t.Errorf("changed fixed wording was sent: %v", err)
	}
	if l = save("Hello Ada,\n\nThe offer to ADA holds 30 days.\nBye"); len(l.Stops) > 0 {
		t.Errorf("written around: %v", l.Stops)
	}
	// A value that is corrected by the program is corrected in fixed wording, too.
	l = b.Letter(t, person, id)
	l, err := b.App.Desk.Correct(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}, "person.first_name", "Ada", false)
	if err != nil || len(l.Stops) > 0 || l.Fixed[0] != "The offer to Ada holds 30 days." {
		t.Fatalf("%v %v %q", err, l.Stops, l.Fixed)
	}
	if l, err = b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil || l.State != domain.Waiting {
		t.Errorf("%v %s", err, l.State)
	}
}
