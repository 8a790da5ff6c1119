package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/testbed"
)

func TestTemplates_writtenByTwo(t *testing.T) {
	b := testbed.New(t)
	in := app.TemplateInput{Name: " Hello ", Subject: "s", Body: "Dear {{person.first_name}}", State: app.TemplateDraft}
	mine, err := b.App.AddTemplate(ctx, b.Rep, in)
	if err != nil || mine.Name != "Hello" || mine.Version != 1 || !mine.MayEdit {
		t.Fatalf("%+v, %v", mine, err)
	}
	in.Body = "Hers"
	if hers, err := b.App.ChangeTemplate(ctx, b.Lead, mine.ID, 1, in); err != nil || hers.Version != 2 {
		t.Fatal(hers.Version, err)
	}
	in.Body = "Mine"
	if _, err := b.App.ChangeTemplate(ctx, b.Rep, mine.ID, 1, in); !errors.Is(err, app.ErrStale) {
		t.Errorf("the second was not told: %v", err)
	}
	if got, err := b.App.Template(ctx, b.Rep, mine.ID); err != nil || got.BodyText != "Hers" {
		t.Errorf("%q, %v", got.BodyText, err)
	}
	hers := b.Template(t, "Hers", "s", "b")
	if _, err := b.App.ChangeTemplate(ctx, b.Rep, hers, 1, in); !errors.Is(err, app.ErrDenied) {
		t.Errorf("a representative changed a lead's template: %v", err)
	}
}

func TestTemplates_refuse(t *testing.T) {
	b := testbed.New(t)
	for name, row := range map[string]struct {
		in  app.TemplateInput
		why string
	}{
		"no name":   {app.TemplateInput{Body: "b", State: app.TemplateDraft}, "name: is missing"},
		"long name": {app.TemplateInput{Name: strings.Repeat("a", 121), Body: "b", State: app.TemplateDraft}, "longer than 120"},
		"state":     {app.TemplateInput{Name: "n", State: "published"}, "state: must be"},
		"unknown":   {app.TemplateInput{Name: "n", Body: "a\n {{person.frist_name}}", State: app.TemplateReady}, "body: line 2, column 2: There is no field"},
		"unclosed":  {app.TemplateInput{Name: "n", Subject: "{{person.first_name", Body: "b", State: app.TemplateReady}, "subject: line 1, column 1"},
		"empty":     {app.TemplateInput{Name: "n", State: app.TemplateReady}, "body: is empty"},
		"huge":      {app.TemplateInput{Name: "n", Body: strings.Repeat("a", 1<<20+1), State: app.TemplateDraft}, "body: is longer than 1 MiB"},
	} {
		var bad *app.InvalidError
		if _, err := b.App.AddTemplate(ctx, b.Rep, row.in); !errors.As(err, &bad) || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v, want %q", name, err, row.why)
		}
	}
	// A draft is kept as it was typed, mistakes and all.
	typed := "Dear {{person.frist_name}} and {{open"
	if d, err := b.App.AddTemplate(ctx, b.Rep, app.TemplateInput{Name: "n", Body: typed, State: app.TemplateDraft}); err != nil || d.BodyText != typed || len(d.Notes) != 2 {
		t.Errorf("%q %v, %v", d.BodyText, d.Notes, err)
	}
}

func TestChoicesFor(t *testing.T) {
	b := testbed.New(t)
	b.Template(t, "A", "Hello {{person.first_name}}", "x")
	b.Template(t, "B", "s", "{{deal.amount}}")
	b.Template(t, "C", "s", "{{contact.since}}")
	b.Template(t, "D", "s", "{{lead.status}} {{person.city}}")
	hidden, err := b.App.AddTemplate(ctx, b.Lead, app.TemplateInput{Name: "E", Body: "b", State: app.TemplateDraft})
	if err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	choices, err := b.App.ChoicesFor(ctx, b.Rep, ada, nil)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, c := range choices {
		got = append(got, c.Name+" "+c.Reason)
	}
	if want := []string{"A ", "D ", "B needs a deal; choose one", "C is for a contact; this is a lead"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if choices[0].Subject != "Hello Ada" || choices[1].Gaps != 1 {
		t.Errorf("%+v", choices[:2])
	}
	var state *app.StateError
	if _, err := b.App.StartLetter(ctx, b.Rep, ada, &hidden.ID, nil); !errors.As(err, &state) {
		t.Errorf("a draft was used: %v", err)
	}
	if _, err := b.App.Template(ctx, b.Rep, hidden.ID); !errors.Is(err, app.ErrNotFound) {
		t.Errorf("another's draft was seen: %v", err)
	}
	if _, err := b.Store.AddDeal(ctx, app.Deal{Name: "Room", MainContactID: &ada, Stage: "quoted", AmountMinor: 1250000, Currency: "GBP", CreatedAt: b.Now()}, nil); err != nil {
		t.Fatal(err)
	}
	if choices, err = b.App.ChoicesFor(ctx, b.Rep, ada, nil); err != nil || choices[1].Preview != "£12,500.00" {
		t.Errorf("with its only deal: %+v, %v", choices[1], err)
	}
}

func TestChangePerson(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.AddOwnField(ctx, field.Def{Path: "lead.own.volume", Record: field.Lead, Label: "Volume", Type: field.Number, Own: true}); err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p, err := b.App.ChangePerson(ctx, b.Lead, ada, 1, map[string]string{"person.city": "Leeds", "lead.own.volume": "12.50"})
	if err != nil || p.City != "Leeds" || p.Own["lead.own.volume"] != "12.50" || p.Version != 2 {
		t.Fatalf("%+v, %v", p, err)
	}
	for why, set := range map[string]map[string]string{
		"person.email":      {"person.email": "a@b@c", "person.city": "York"},
		"is not a number":   {"lead.own.volume": "much"},
		"belongs to a con":  {"contact.since": "2026-01-01"},
		"cannot be written": {"person.full_name": "X"},
		"is not a field":    {"person.nose": "X"},
		"a person needs":    {"person.first_name": "", "person.last_name": "", "person.email": ""},
	} {
		if _, err := b.App.ChangePerson(ctx, b.Rep, ada, 2, set); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%v: %v", set, err)
		}
	}
	if _, err := b.App.ChangePerson(ctx, b.Rep, ada, 1, map[string]string{"person.city": "York"}); !errors.Is(err, app.ErrStale) {
		t.Errorf("an old version was taken: %v", err)
	}
	if s, err := b.App.Person(ctx, b.Rep, ada); err != nil || s.Person.City != "Leeds" || s.Person.Version != 2 {
		t.Errorf("%+v, %v", s.Person, err)
	}
}

func TestSignIn(t *testing.T) {
	b := testbed.New(t)
	u := app.User{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}
	if _, err := b.App.AddUser(ctx, u, "short"); err == nil {
		t.Error("a short password was taken")
	}
	if _, err := b.App.AddUser(ctx, u, "long enough for her"); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.AddUser(ctx, u, "long enough for her"); err == nil {
		t.Error("one address was taken twice")
	}
	if got, err := b.App.SignIn(ctx, "NORA@fernhollow.example ", "long enough for her"); err != nil || got.FirstName != "Nora" {
		t.Errorf("%+v, %v", got, err)
	}
	for _, row := range [][2]string{{"nora@fernhollow.example", "wrong"}, {"nobody@fernhollow.example", "long enough for her"}, {"imre@fernhollow.example", "-"}} {
		if _, err := b.App.SignIn(ctx, row[0], row[1]); !errors.Is(err, app.ErrSignIn) {
			t.Errorf("%v: %v", row, err)
		}
	}
}
