package app_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestTemplates_writtenByTwo(t *testing.T) {
	b := testbed.New(t)
	in := library.TemplateInput{Name: " Hello ", Input: library.Input{Subject: "s", Body: "Dear {{person.first_name}}"}, State: domain.TemplateDraft}
	mine, err := b.App.Library.AddTemplate(ctx, b.Rep, in)
	if err != nil || mine.Name != "Hello" || mine.Version != 1 || !mine.MayEdit {
		t.Fatalf("%+v, %v", mine, err)
	}
	in.Body = "Hers"
	if hers, err := b.App.Library.ChangeTemplate(ctx, b.Lead, mine.ID, 1, in); err != nil || hers.Version != 2 {
		t.Fatal(hers.Version, err)
	}
	in.Body = "Mine"
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Rep, mine.ID, 1, in); !errors.Is(err, domain.ErrStale) {
		t.Errorf("the second was not told: %v", err)
	}
	if got, err := b.App.Library.Template(ctx, b.Rep, mine.ID); err != nil || got.BodyText != "Hers" {
		t.Errorf("%q, %v", got.BodyText, err)
	}
	hers := b.Template(t, "Hers", "s", "b")
	if _, err := b.App.Library.ChangeTemplate(ctx, b.Rep, hers, 1, in); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative changed a lead's template: %v", err)
	}
}

func TestTemplates_refuse(t *testing.T) {
	b := testbed.New(t)
	for name, row := range map[string]struct {
		in  library.TemplateInput
		why string
	}{
		"no name":   {library.TemplateInput{State: domain.TemplateDraft, Input: library.Input{Body: "b"}}, "name: is missing"},
		"long name": {library.TemplateInput{Name: strings.Repeat("a", 121), Input: library.Input{Body: "b"}, State: domain.TemplateDraft}, "longer than 120"},
		"state":     {library.TemplateInput{Name: "n", State: "published"}, "state: must be"},
		"unknown":   {library.TemplateInput{Name: "n", Input: library.Input{Body: "a\n {{person.frist_name}}"}, State: domain.TemplateReady}, "body: line 2, column 2: There is no field"},
		"unclosed":  {library.TemplateInput{Name: "n", Input: library.Input{Subject: "{{person.first_name", Body: "b"}, State: domain.TemplateReady}, "subject: line 1, column 1"},
		"empty":     {library.TemplateInput{Name: "n", State: domain.TemplateReady}, "body: is empty"},
		"huge":      {library.TemplateInput{Name: "n", Input: library.Input{Body: strings.Repeat("a", 1<<20+1)}, State: domain.TemplateDraft}, "body: is longer than 1 MiB"},
	} {
		var bad *domain.InvalidError
		if _, err := b.App.Library.AddTemplate(ctx, b.Rep, row.in); !errors.As(err, &bad) || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v, want %q", name, err, row.why)
		}
	}
	// A draft is kept as it was typed, mistakes and all.
	typed := "Dear {{person.frist_name}} and {{open"
	if d, err := b.App.Library.AddTemplate(ctx, b.Rep, library.TemplateInput{Name: "n", Input: library.Input{Body: typed}, State: domain.TemplateDraft}); err != nil || d.BodyText != typed || len(d.Notes) != 2 {
		t.Errorf("%q %v, %v", d.BodyText, d.Notes, err)
	}
}

func TestChoicesFor(t *testing.T) {
	b := testbed.New(t)
	b.Template(t, "A", "Hello {{person.first_name}}", "x")
	b.Template(t, "B", "s", "{{deal.amount}}")
	b.Template(t, "C", "s", "{{contact.since}}")
	b.Template(t, "D", "s", "{{lead.status}} {{person.city}}")
	hidden, err := b.App.Library.AddTemplate(ctx, b.Lead, library.TemplateInput{Name: "E", Input: library.Input{Body: "b"}, State: domain.TemplateDraft})
	if err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	choices, err := b.App.Desk.ChoicesFor(ctx, b.Rep, ada, nil)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, c := range choices {
		got = append(got, c.Name+" "+c.Reason)
	}
	if want := []string{"A ", "D ", "B needs a deal, and there isn’t one with Ada Quill", "C is for a contact; this is a lead"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	if choices[0].Subject != "Hello Ada" || choices[1].Gaps != 1 {
		t.Errorf("%+v", choices[:2])
	}
	if _, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, &hidden.ID, nil); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another's draft was used: %v", err)
	}
	var state *domain.StateError
	if _, err := b.App.Desk.StartLetter(ctx, b.Lead, ada, &hidden.ID, nil); !errors.As(err, &state) {
		t.Errorf("a draft was used: %v", err)
	}
	if _, err := b.App.Library.Template(ctx, b.Rep, hidden.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another's draft was seen: %v", err)
	}
	if _, err := b.Store.AddDeal(ctx, domain.Deal{Name: "Room", MainContactID: &ada, Stage: "quoted", AmountMinor: 1250000, Currency: "GBP", CreatedAt: b.Now()}, nil); err != nil {
		t.Fatal(err)
	}
	if choices, err = b.App.Desk.ChoicesFor(ctx, b.Rep, ada, nil); err != nil || choices[1].Preview != "£12,500.00" {
		t.Errorf("with its only deal: %+v, %v", choices[1], err)
	}
}

func TestChangePerson(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "lead.own.volume", Record: field.Lead, Label: "Volume", Type: field.Number, Own: true}); err != nil {
		t.Fatal(err)
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p, err := b.App.Records.ChangePerson(ctx, b.Lead, ada, 1, map[string]string{"person.city": "Leeds", "lead.own.volume": "12.50"})
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
		if _, err := b.App.Records.ChangePerson(ctx, b.Rep, ada, 2, set); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%v: %v", set, err)
		}
	}
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, ada, 1, map[string]string{"person.city": "York"}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("an old version was taken: %v", err)
	}
	if s, err := b.App.Records.Person(ctx, b.Rep, ada); err != nil || s.Person.City != "Leeds" || s.Person.Version != 2 {
		t.Errorf("%+v, %v", s.Person, err)
	}
}

func TestSignIn(t *testing.T) {
	b := testbed.New(t)
	u := domain.User{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}
	if _, err := b.App.Team.AddUser(ctx, u, "short"); err == nil {
		t.Error("a short password was taken")
	}
	if _, err := b.App.Team.AddUser(ctx, u, "long enough for her"); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Team.AddUser(ctx, u, "long enough for her"); err == nil {
		t.Error("one address was taken twice")
	}
	if got, err := b.App.Team.SignIn(ctx, "NORA@fernhollow.example ", "long enough for her", "192.0.2.1", ""); err != nil || got.FirstName != "Nora" {
		t.Errorf("%+v, %v", got, err)
	}
	for _, row := range [][2]string{{"nora@fernhollow.example", "wrong"}, {"nobody@fernhollow.example", "long enough for her"}, {"imre@fernhollow.example", "-"}} {
		if _, err := b.App.Team.SignIn(ctx, row[0], row[1], "192.0.2.1", ""); !errors.Is(err, domain.ErrSignIn) {
			t.Errorf("%v: %v", row, err)
		}
	}
}

func TestReachAndTryOn(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Ada", "Abel", "ada@quill.example")
	none := b.Person(t, "", "Bird", "b@quill.example")
	long := b.Person(t, strings.Repeat("Cy", 20), "Crow", "c@quill.example")
	contact, err := b.Store.AddPerson(ctx, domain.Person{Kind: field.Contact, FirstName: "Di", LastName: "Dean", CreatedAt: b.Now(), UpdatedAt: b.Now()})
	if err != nil {
		t.Fatal(err)
	}
	r, err := b.App.Library.ReachOf(ctx, b.Rep, library.Input{Subject: "{{lead.status}}", Body: "Dear {{person.first_name}} {{person.city|}} {{?why}}"})
	if err != nil || r.People != 4 || r.Complete != 2 || r.OtherKind+r.NoDeal != 1 || len(r.Missing) != 1 || r.Missing[0] != (library.ReachMissing{Path: "person.first_name", Label: "First name", Count: 1}) {
		t.Errorf("%+v, %v", r, err)
	}
	if len(r.WithGaps) != 1 || r.WithGaps[0].Name != "Bird" || r.Hardest == nil || r.Hardest.ID != none {
		t.Errorf("%+v %+v", r.WithGaps, r.Hardest)
	}
	if r, err = b.App.Library.ReachOf(ctx, b.Rep, library.Input{Subject: "s", Body: "{{person.first_name|there}}"}); err != nil || r.Complete != 4 || r.Hardest.ID != long {
		t.Errorf("%+v, %v", r, err)
	}
	if _, err := b.Store.AddDeal(ctx, domain.Deal{Name: "Room", MainContactID: &contact, Stage: "quoted", CreatedAt: b.Now()}, nil); err != nil {
		t.Fatal(err)
	}
	id := b.Template(t, "Deal", "s", "{{deal.name}} {{deal.main_contact.first_name}}")
	if r, err = b.App.Library.ReachOfTemplate(ctx, b.Rep, id); err != nil || r.Complete != 1 || r.OtherKind+r.NoDeal != 3 {
		t.Errorf("%+v, %v", r, err)
	}
	for _, row := range []struct {
		body, search string
		person       int64
		index        int
		want         string
	}{
		{"{{person.last_name}}", "", 0, 0, "Abel 4"},
		{"{{person.last_name}}", "", 0, 3, "Dean 4"},
		{"{{person.last_name}}", "crow", 0, 0, "Crow 1"},
		{"{{lead.last_name}}", "", 0, 2, "Crow 3"},
		{"{{deal.name}}", "", 0, 0, "Room 1"},
		{"{{lead.last_name}}", "", contact, 0, "‹Last name› 0 is for a lead; this is a contact"},
	} {
		got, err := b.App.Library.TryOn(ctx, b.Rep, library.Input{Subject: "s", Body: row.body}, row.person, row.search, row.index)
		if line := strings.TrimSpace(fmt.Sprintf("%s %d %s", render.RenderText(got.Body), got.Total, got.Reason)); err != nil || line != row.want {
			t.Errorf("%s: %q, %v, want %q", row.body, line, err, row.want)
		}
	}
	// With a deal template only those who have an open deal; of several deals the newest.
	for name, stages := range map[string][]string{"Early": nil, "Eden": {"lost"}, "Elm": {"quoted", "survey", "won"}} {
		id, err := b.Store.AddPerson(ctx, domain.Person{Kind: field.Contact, LastName: name, CreatedAt: b.Now(), UpdatedAt: b.Now()})
		for i, stage := range stages {
			if err == nil {
				_, err = b.Store.AddDeal(ctx, domain.Deal{Name: "Room " + stage, MainContactID: &id, Stage: stage, CreatedAt: b.Now().AddDate(0, 0, i)}, nil)
			}
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	for i, want := range []string{"Room 2", "Room survey 2"} {
		got, err := b.App.Library.TryOn(ctx, b.Rep, library.Input{Subject: "s", Body: "{{deal.name}}"}, 0, "", i)
		if line := fmt.Sprintf("%s %d%s", render.RenderText(got.Body), got.Total, got.Reason); err != nil || line != want {
			t.Errorf("person %d with a deal: %q, %v, want %q", i, line, err, want)
		}
	}
	var state *domain.StateError
	if _, err := b.App.Library.TryOn(ctx, b.Rep, library.Input{Subject: "s", Body: "b"}, 0, "nobody", 0); !errors.As(err, &state) {
		t.Errorf("nobody to try on: %v", err)
	}
}
