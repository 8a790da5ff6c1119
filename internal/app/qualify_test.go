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

func TestMakeContact(t *testing.T) {
	b := testbed.New(t)
	for path, kind := range map[string]field.Type{
		"lead.own.visit": field.Text, "contact.own.visit": field.Text, "lead.own.volume": field.Number, "deal.own.volume": field.Number,
		"lead.own.branch": field.Text, "company.own.branch": field.Text, "lead.own.lost": field.Text, "person.own.nick": field.Text,
	} {
		if err := b.App.Records.AddOwnField(ctx, field.Def{Path: path, Label: path, Type: kind, Record: field.Record(strings.Split(path, ".")[0]), Own: true}); err != nil {
			t.Fatal(err)
		}
	}
	boss := b.Lead
	boss.Role = "administrator"
	settings, err := b.App.Team.Settings(ctx)
	if err != nil {
		t.Fatal(err)
	}
	settings.LeadFields = map[string]string{"lead.own.volume": "deal.own.volume", "lead.own.branch": "company.own.branch"}
	if err := b.App.Records.CheckLeadFields(ctx, settings.LeadFields); err != nil {
		t.Fatal(err)
	}
	for from, to := range map[string]string{"lead.own.volume": "company.own.nothing", "person.own.nick": "contact.own.visit", "lead.own.visit": "deal.own.volume"} {
		if err := b.App.Records.CheckLeadFields(ctx, map[string]string{from: to}); err == nil {
			t.Errorf("%s goes to %s", from, to)
		}
	}
	if err := b.App.Team.SetSettings(ctx, boss, settings); err != nil {
		t.Fatal(err)
	}
	p := lead(t, b, map[string]string{
		"person.first_name": "Ada", "person.last_name": "Quill", "person.email": "ada@quill.example",
		"lead.own.visit": "in May", "lead.own.volume": "40", "lead.own.branch": "bakery", "lead.own.lost": "x", "person.own.nick": "Addie",
	})
	draft, err := b.App.Desk.StartLetter(ctx, b.Rep, p.ID, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version+1, records.Qualify{}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("from another version: %v", err)
	}
	if _, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version, records.Qualify{Company: p.CompanyName, Deal: &records.NewDeal{Values: map[string]string{"deal.amount": "much", "deal.name": "Room"}}}); err == nil {
		t.Error("a deal without an amount that can be read")
	}
	if again, _ := b.Store.Person(ctx, p.ID); again.Kind != field.Lead {
		t.Error("half of it was done")
	}
	got, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version, records.Qualify{Company: p.CompanyName, Deal: &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}})
	if err != nil {
		t.Fatal(err)
	}
	if got.Person.Kind != field.Contact || !got.CompanyMade || got.DealID == 0 || !slices.Equal(got.Left, []string{"lead.own.lost"}) || len(got.Carried) != 3 {
		t.Errorf("%+v", got)
	}
	sheet, err := b.App.Records.Person(ctx, b.Rep, p.ID)
	if err != nil || sheet.Company.Name != "Quill & Daughters" || sheet.Company.Own["company.own.branch"] != "bakery" || sheet.Person.Own["contact.own.visit"] != "in May" ||
		sheet.Person.Own["person.own.nick"] != "Addie" || sheet.Person.Own["lead.own.lost"] != "x" || sheet.Deals[0].Own["deal.own.volume"] != "40" {
		t.Errorf("%+v %+v, %v", sheet.Person.Own, sheet.Company, err)
	}
	if l, err := b.App.Desk.Letter(ctx, b.Rep, draft.ID); err != nil || l.ToEmail != "ada@quill.example" || l.State != domain.Draft {
		t.Errorf("%+v, %v", l.Letter, err)
	}
	if h, _ := b.History(ctx, p.ID, 9, 0); len(h) < 2 || !slices.ContainsFunc(h, func(e domain.Entry) bool { return e.Text == "Became a contact at Quill & Daughters" }) {
		t.Errorf("%+v", h)
	}
	if _, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, got.Person.Version, records.Qualify{}); !errors.Is(err, domain.ErrState) {
		t.Errorf("a contact became one: %v", err)
	}
	// Undone: as before, but for what was changed since.
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, p.ID, got.Person.Version, map[string]string{"person.city": "York", "person.own.nick": "Ad"}); err != nil {
		t.Fatal(err)
	}
	left, err := b.App.Records.MakeLead(ctx, b.Rep, p.ID, got.Undo)
	back, err2 := b.Store.Person(ctx, p.ID)
	if err != nil || err2 != nil || len(left) != 0 || back.Kind != field.Lead || back.CompanyID != nil || back.ContactSince != "" || back.City != "York" || back.CompanyName != "Quill & Daughters" ||
		back.Own["contact.own.visit"] != "" || back.Own["lead.own.visit"] != "in May" || back.Own["person.own.nick"] != "Ad" || things(t, b) != "1 people 0 companies 0 deals" {
		t.Errorf("%v %+v, %v %v, %s", left, back, err, err2, things(t, b))
	}
	if _, err := b.App.Records.MakeLead(ctx, b.Rep, p.ID, got.Undo); !errors.Is(err, domain.ErrState) {
		t.Errorf("a lead became one: %v", err)
	}
}

// What hangs on the deal and the company that came with a contact keeps them.
func TestMakeLead_whatHangsOnIt(t *testing.T) {
	b := testbed.New(t)
	p := lead(t, b, map[string]string{"person.last_name": "Quill", "person.email": "ada@quill.example"})
	got, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version, records.Qualify{Company: "Quill", Deal: &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.StartLetter(ctx, b.Rep, p.ID, nil, &got.DealID); err != nil {
		t.Fatal(err)
	}
	left, err := b.App.Records.MakeLead(ctx, b.Rep, p.ID, got.Undo)
	if err != nil || len(left) != 2 || things(t, b) != "1 people 1 companies 1 deals" {
		t.Errorf("%v, %v, %s", left, err, things(t, b))
	}
}

// Two people change one record: on different fields both count, on one the second is told.
func TestChangeValues(t *testing.T) {
	b := testbed.New(t)
	id := b.Person(t, "Ada", "Quill", "ada@quill.example")
	change := func(was, set map[string]string) error {
		_, err := b.App.Records.ChangeValues(ctx, b.Rep, id, was, set)
		return err
	}
	if err := change(map[string]string{"person.city": ""}, map[string]string{"person.city": "York"}); err != nil {
		t.Fatal(err)
	}
	if err := change(map[string]string{"person.job_title": ""}, map[string]string{"person.job_title": "Owner"}); err != nil {
		t.Fatal(err)
	}
	if err := change(map[string]string{"person.city": ""}, map[string]string{"person.city": "Leeds"}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("the first one’s word was overwritten: %v", err)
	}
	if err := change(map[string]string{"person.city": "York"}, map[string]string{"person.city": "Leeds"}); err != nil {
		t.Error(err)
	}
	if p, err := b.Store.Person(ctx, id); err != nil || p.City != "Leeds" || p.JobTitle != "Owner" {
		t.Errorf("%+v, %v", p, err)
	}
}
