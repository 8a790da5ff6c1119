package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A lead fills what letters take from the team, and the next letter has it.
func TestChangeRecord_team(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.NewOwnField(ctx, b.Lead, field.Def{Path: "team.own.next_event", Label: "Next event", Type: field.Date}); err != nil {
		t.Fatal(err)
	}
	team := *b.Rep.TeamID
	if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Team, team, "team.own.next_event", "", "2026-05-08"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative changed it: %v", err)
	}
	for _, c := range []struct{ path, value string }{
		{"team.own.next_event", "2026-05-08"}, {"team.postal_address", "7 Ice House Lane"}, {"team.language", "German"},
	} {
		if err := b.App.Records.ChangeRecord(ctx, b.Lead, field.Team, team, c.path, "", c.value); err != nil {
			t.Fatalf("%s: %v", c.path, err)
		}
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Invitation", "Hi", "Hello {{person.first_name}},\n\nwe would like to see you on {{team.own.next_event}}, at {{team.postal_address}}."))
	if got := text(l); !strings.Contains(got, "8 May 2026, at 7 Ice House Lane") {
		t.Errorf("the letter says %q", got)
	}
	list, err := b.App.Records.TeamSheets(ctx, b.Rep)
	if err != nil || len(list) != 1 || list[0].MayEdit || !slices.ContainsFunc(list[0].Fields, func(f records.RecordField) bool {
		return f.Path == "team.language" && f.Value == "de" && f.Shown == "German"
	}) {
		t.Errorf("%+v, %v", list, err)
	}
}

// Values of a deal are read as people write them, kept from two windows, and noted.
func TestChangeRecord_deal(t *testing.T) {
	b := testbed.New(t)
	volume(t, b)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	deal := withDeal(t, b, ada, "New room")
	change := func(path, was, value string) error {
		return b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, deal, path, was, value)
	}
	d, err := b.Store.Deal(ctx, deal)
	if err != nil {
		t.Fatal(err)
	}
	was := ""
	if d.AmountMinor != 0 {
		was = field.MoneyOf(d.AmountMinor, d.Currency).String()
	}
	for _, c := range [][3]string{
		{"deal.own.volume", "", "22,5"}, {"deal.amount", was, "€20,500.50"}, {"deal.close_date", d.CloseDate, "2026-12-24"}, {"deal.name", "New room", "Room for O'Neil"},
	} {
		if err := change(c[0], c[1], c[2]); err != nil {
			t.Fatalf("%s: %v", c[0], err)
		}
	}
	if d, err = b.Store.Deal(ctx, deal); err != nil || d.AmountMinor != 2050050 || d.Currency != "EUR" || d.CloseDate != "2026-12-24" || d.Name != "Room for O'Neil" || d.Own["deal.own.volume"] != "22.5" {
		t.Errorf("%+v, %v", d, err)
	}
	if err := change("deal.own.volume", "", "30"); !errors.Is(err, domain.ErrStale) {
		t.Errorf("over what another window stored: %v", err)
	}
	for _, c := range [][3]string{{"deal.own.volume", "22.5", "a lot"}, {"deal.name", "Room for O'Neil", " "}, {"deal.amount", "20500.50 EUR", "1.005 EUR"}, {"deal.id", "1", "2"}, {"person.email", "", "x"}} {
		var bad *domain.InvalidError
		if err := change(c[0], c[1], c[2]); !errors.As(err, &bad) || bad.Fields[0].Where != c[0] {
			t.Errorf("%s = %q: %v", c[0], c[2], err)
		}
	}
	entries := dealHistory(t, b, deal)
	if len(entries) < 4 || !slices.ContainsFunc(entries, func(e domain.Entry) bool { return strings.Contains(e.Text, "Volume: 22.5") }) {
		t.Errorf("%+v", entries)
	}
}

// A field is renamed, gets choices and another place; templates go on.
func TestChangeOwnField(t *testing.T) {
	b := testbed.New(t)
	for _, d := range []field.Def{
		{Path: "person.own.size", Label: "Size", Type: field.Choice, Choices: []string{"small", "small", " large "}},
		{Path: "person.own.taste", Label: "Taste", Type: field.Text},
		{Path: "deal.own.volume", Label: "Volume", Type: field.Number},
	} {
		if err := b.App.Records.NewOwnField(ctx, b.Lead, d); err != nil {
			t.Fatal(err)
		}
	}
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, ada, 1, map[string]string{"person.own.size": "small"}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.size", "Room size", []string{"large", "huge"}, false); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.MoveOwnField(ctx, b.Lead, "deal.own.volume", "person.own.size"); err != nil {
		t.Fatal(err)
	}
	list, err := b.Store.OwnFields(ctx)
	if err != nil || len(list) != 3 || list[0].Path != "deal.own.volume" || list[1].Label != "Room size" || !slices.Equal(list[1].Choices, []string{"large", "huge"}) {
		t.Errorf("%+v, %v", list, err)
	}
	l := b.Letter(t, ada, b.Template(t, "Size", "s", "Hello {{person.first_name}}, a {{person.own.size}} one."))
	if got := text(l); !strings.Contains(got, "a small one") {
		t.Errorf("a value that is no choice any more: %q", got)
	}
	for what, err := range map[string]error{
		"no name":    b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.size", " ", []string{"x"}, false),
		"no choices": b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.size", "Size", []string{" "}, false),
		"unknown":    b.App.Records.ChangeOwnField(ctx, b.Lead, "person.own.none", "None", nil, false),
		"not a lead": b.App.Records.ChangeOwnField(ctx, b.Rep, "person.own.size", "Size", []string{"x"}, false),
		"moved none": b.App.Records.MoveOwnField(ctx, b.Lead, "person.own.none", ""),
	} {
		if err == nil {
			t.Errorf("%s was stored", what)
		}
	}
}
