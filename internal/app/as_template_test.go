package app_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestSaveAsTemplate(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "For {{person.first_name}}", "Dear {{person.first_name}},\n\nin {{person.city|your town}} {{?when: text}}.\n\n{{sender.first_name}}"))
	w := wordingOf(l)
	w.Body.Content = append(w.Body.Content, document.NewPlain("Yours, Ms Quill, and Adam").Content...)
	l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w)
	if err != nil {
		t.Fatal(err)
	}
	as, err := b.App.Desk.AsTemplate(ctx, b.Rep, l.ID, nil)
	if err != nil || len(as.Offers) != 1 || as.Offers[0].Path != "person.last_name" || as.Offers[0].Words != "Quill" {
		t.Fatalf("%+v %v", as.Offers, err)
	}
	if _, err := b.App.Desk.AsTemplate(ctx, b.Lead, l.ID, nil); err == nil {
		t.Error("somebody else's letter")
	}
	if _, err := b.App.Desk.SaveAsTemplate(ctx, b.Rep, l.ID, " ", "", nil, nil); err == nil {
		t.Error("no name")
	}
	made, err := b.App.Desk.SaveAsTemplate(ctx, b.Rep, l.ID, "From a letter", "Often", nil, []string{"person.last_name"})
	want := "Dear {{person.first_name}},\n\nin {{person.city|your town}} {{?when}}.\n\n{{sender.first_name}}\nYours, Ms {{person.last_name}}, and Adam"
	if got := markup.Print(made.Body); err != nil || strings.Replace(got, ": text", "", 1) != want || markup.Print(made.Subject) != "For {{person.first_name}}" || made.State != domain.TemplateDraft || made.OwnerID != b.Rep.ID {
		t.Errorf("%s\n%v %v", got, made.State, err)
	}
}

func TestSaveAsTemplate_formatted(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Formatted(t, "F", "<p>Dear <b>{{person.first_name}}</b></p><ul><li><p>One</p></li></ul>"))
	made, err := b.App.Desk.SaveAsTemplate(ctx, b.Rep, l.ID, "Again", "", nil, nil)
	if err != nil || made.Body.Attrs.Body != document.BodyFormatted || !strings.Contains(markup.Print(made.Body), "<b>{{person.first_name}}</b>") {
		t.Errorf("%s %v", markup.Print(made.Body), err)
	}
}
