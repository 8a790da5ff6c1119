package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestVersions(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	in := library.TemplateInput{Name: "Hello", Input: library.Input{Subject: "For you", Body: "Dear {{person.first_name}},\n\nthe red room is cold.\n"}, State: domain.TemplateReady}
	s, err := b.App.Library.AddTemplate(ctx, b.Rep, in)
	if err != nil {
		t.Fatal(err)
	}
	first := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), s.ID)
	in.Name, in.Body, in.Language = "Hello there", "Dear {{person.first_name|you}},\n\nthe blue room is very cold.\n", "de"
	if s, err = b.App.Library.ChangeTemplate(ctx, b.Rep, s.ID, s.Version, in); err != nil {
		t.Fatal(err)
	}
	in.Kind, in.Body = "formatted", "<p>Dear {{person.first_name|you}},</p>{{#deal.amount >= 5 EUR}}<p>the blue room is very cold. {{?why_now: text}}</p>{{/deal.amount}}"
	if s, err = b.App.Library.ChangeTemplate(ctx, b.Rep, s.ID, s.Version, in); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Rep, s.ID, 1, in); !errors.Is(err, domain.ErrStale) {
		t.Errorf("stale: %v", err)
	}
	list, err := b.App.Library.Versions(ctx, b.Rep, s.ID)
	if err != nil || len(list) != 3 || list[0].Version != 3 || list[2].Name != "Hello" || list[0].By != "Imre Falk" {
		t.Fatalf("%+v, %v", list, err)
	}
	old, err := b.App.Library.TemplateVersion(ctx, b.Rep, s.ID, 1)
	if err != nil || old.BodyText != "Dear {{person.first_name}},\n\nthe red room is cold.\n" || old.Name != "Hello" || old.Version != 1 || !old.MayEdit {
		t.Errorf("%+v, %v", old, err)
	}
	if *first.TemplateVersion != 1 || render.RenderText(first.Body) != "Dear Ada,\n\nthe red room is cold.\n" {
		t.Errorf("the letter does not remember its version: %v", *first.TemplateVersion)
	}
	said := func(list []library.Stretch) string {
		var out strings.Builder
		for _, s := range list {
			out.WriteString(map[string]string{"same": "", "added": "[+", "removed": "[-"}[s.Kind] + s.Text + map[string]string{"added": "]", "removed": "]"}[s.Kind])
		}
		return out.String()
	}
	for _, row := range []struct {
		from, to                int
		settings, subject, body string
	}{
		{1, 2, "[{Name Hello Hello there} {Language en de}]", "For you", "Dear [-{{person.first_name}},][+{{person.first_name|you}},]\n\nthe [-red][+blue] room is [+very ]cold.\n"},
		{2, 1, "[{Name Hello there Hello} {Language de en}]", "For you", "Dear [-{{person.first_name|you}},][+{{person.first_name}},]\n\nthe [-blue][+red] room is [-very ]cold.\n"},
		{3, 3, "[]", "For you", "Dear ‹First name›,\n\n(only when Amount >= 5 EUR)\n\nthe blue room is very cold. ‹why now›"},
	} {
		c, err := b.App.Library.CompareVersions(ctx, b.Rep, s.ID, row.from, row.to)
		if err != nil || fmt.Sprint(c.Settings) != row.settings || said(c.Subject) != row.subject || said(c.Body) != row.body {
			t.Errorf("%d to %d: %v\n%s\n%s\n%s\nwant\n%s", row.from, row.to, err, fmt.Sprint(c.Settings), said(c.Subject), said(c.Body), row.body)
		}
	}
	if _, err := b.App.Library.CompareVersions(ctx, b.Rep, s.ID, 1, 9); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a version that is none: %v", err)
	}
	// The versions of a draft are for those who see the draft.
	hidden, err := b.App.Library.AddTemplate(ctx, b.Lead, library.TemplateInput{Name: "H", Input: library.Input{Subject: "s", Body: "b"}, State: domain.TemplateDraft})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Library.Versions(ctx, b.Rep, hidden.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("versions of a draft of somebody else: %v", err)
	}
	if _, err := b.App.Library.TemplateVersion(ctx, b.Rep, hidden.ID, 1); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a version of a draft of somebody else: %v", err)
	}
}
