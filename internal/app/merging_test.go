package app_test

import (
	"errors"
	"slices"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Two records of one person become one that has everything of both, and two again.
func TestMerge(t *testing.T) {
	b := testbed.New(t)
	kept := lead(t, b, map[string]string{"person.first_name": "Ada", "person.last_name": "Quill", "person.city": "York"})
	gone := lead(t, b, map[string]string{"person.first_name": "Ada", "person.last_name": "Quil", "person.email": "ada@quill.example", "person.job_title": "Owner"})
	deal, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &gone.ID, Values: map[string]string{"deal.name": "Room"}})
	if err != nil {
		t.Fatal(err)
	}
	shared, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{OtherIDs: []int64{gone.ID}, Values: map[string]string{"deal.name": "Other room"}})
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, gone.ID, b.Template(t, "Hello", "Hello", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	draft, err := b.App.Desk.StartLetter(ctx, b.Rep, gone.ID, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	sides, err := b.App.Records.Compare(ctx, b.Rep, kept.ID, gone.ID)
	if err != nil || !slices.ContainsFunc(sides, func(s records.Side) bool { return s == records.Side{Path: "person.city", Label: "City", Kept: "York"} }) {
		t.Errorf("%+v, %v", sides, err)
	}
	kept, _ = b.Store.Person(ctx, kept.ID)
	for _, wrong := range []func() error{
		func() error {
			_, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, kept.ID, kept.Version, nil)
			return err
		},
		func() error { _, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, 999, kept.Version, nil); return err },
		func() error {
			_, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version+1, nil)
			return err
		},
		func() error {
			_, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, []string{"person.kind"})
			return err
		},
	} {
		if wrong() == nil {
			t.Error("a wrong merge was done")
		}
	}
	before := stored(t, b)
	id, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, []string{"person.email", "person.job_title"})
	if err != nil || stored(t, b) == before {
		t.Fatal(err)
	}
	sheet, err := b.App.Records.Person(ctx, b.Rep, kept.ID)
	if err != nil || sheet.Person.Email != "ada@quill.example" || sheet.Person.City != "York" || sheet.Person.LastName != "Quill" || len(sheet.Deals) != 2 {
		t.Errorf("%+v, %v", sheet, err)
	}
	h, _ := b.History(ctx, kept.ID, 20, 0)
	for _, kind := range []domain.EntryKind{domain.EntrySent, domain.EntryCreated} {
		if !slices.ContainsFunc(h, func(e domain.Entry) bool { return e.Kind == kind }) {
			t.Errorf("%s is missing in %+v", kind, h)
		}
	}
	if d, err := b.App.Desk.Letter(ctx, b.Rep, draft.ID); err != nil || d.PersonID != kept.ID {
		t.Errorf("%+v, %v", d.Letter, err)
	}
	if rows, n, _ := people(b, ctx, domain.PeopleQuery{Search: "ada", Limit: 5}); n != 1 || rows[0].LastSubject != "Hello" {
		t.Errorf("%+v", rows)
	}
	if twice, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, sheet.Person.Version, nil); err == nil {
		t.Errorf("merged twice: %d", twice)
	}
	// What was changed since stays.
	p, _ := b.Store.Person(ctx, kept.ID)
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, kept.ID, p.Version, map[string]string{"person.job_title": "Manager"}); err != nil {
		t.Fatal(err)
	}
	left, err := b.App.Records.Split(ctx, b.Rep, id)
	if err != nil || !slices.Equal(left, []string{"Job title"}) {
		t.Errorf("%v, %v", left, err)
	}
	if p, _ = b.Store.Person(ctx, kept.ID); p.Email != "" || p.JobTitle != "Manager" {
		t.Errorf("%+v", p)
	}
	again, err := b.App.Records.Person(ctx, b.Rep, gone.ID)
	if err != nil || again.Person.DeletedAt != nil || again.Person.Email != "ada@quill.example" || len(again.Deals) != 2 {
		t.Errorf("%+v, %v", again, err)
	}
	for _, d := range []int64{deal, shared} {
		if page, err := b.App.Records.DealPage(ctx, d); err != nil || len(page.People) != 1 || page.People[0].ID != gone.ID {
			t.Errorf("%+v, %v", page.People, err)
		}
	}
	if d, _ := b.App.Desk.Letter(ctx, b.Rep, draft.ID); d.PersonID != gone.ID {
		t.Errorf("the draft is of %d", d.PersonID)
	}
	if rows, _, _ := people(b, ctx, domain.PeopleQuery{Search: "quil", Limit: 5}); len(rows) != 2 || rows[0].LastLetter == nil == (rows[1].LastLetter == nil) {
		t.Errorf("%+v", rows)
	}
	if _, err := b.App.Records.Split(ctx, b.Rep, id); !errors.Is(err, domain.ErrState) {
		t.Errorf("taken back twice: %v", err)
	}
}

// Who asked not to be written to is asked for by no merge.
func TestMerge_optedOut(t *testing.T) {
	b := testbed.New(t)
	kept, gone := lead(t, b, map[string]string{"person.last_name": "Quill"}), lead(t, b, map[string]string{"person.last_name": "Quill"})
	now := b.Now()
	gone.OptedOutAt = &now
	if err := b.Store.UpdatePerson(ctx, gone); err != nil {
		t.Fatal(err)
	}
	id, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, nil)
	if err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, kept.ID); p.OptedOutAt == nil {
		t.Error("the wish not to be written to was lost")
	}
	if _, err := b.App.Records.Split(ctx, b.Rep, id); err != nil {
		t.Fatal(err)
	}
	for person, asked := range map[int64]bool{kept.ID: false, gone.ID: true} {
		if p, _ := b.Store.Person(ctx, person); (p.OptedOutAt != nil) != asked {
			t.Errorf("%d asked: %v", person, p.OptedOutAt)
		}
	}
}

// Who is gone by a merge comes back with what was theirs; a contact is not merged into a lead.
func TestMerge_putBack(t *testing.T) {
	b := testbed.New(t)
	kept, gone := lead(t, b, map[string]string{"person.last_name": "Quill"}), lead(t, b, map[string]string{"person.last_name": "Quil"})
	l := b.Letter(t, gone.ID, b.Template(t, "Hello", "Hello", "Good day"))
	if _, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, nil); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.PutBack(ctx, b.Rep, field.Person, gone.ID); err != nil {
		t.Fatal(err)
	}
	if l, _ := b.App.Desk.Letter(ctx, b.Rep, l.ID); l.PersonID != gone.ID {
		t.Errorf("the letter is of %d", l.PersonID)
	}
	made, err := b.App.Records.MakeContact(ctx, b.Rep, gone.ID, version(t, b, gone.ID), records.Qualify{Company: "Quill"})
	if err != nil {
		t.Fatal(made, err)
	}
	var state *domain.StateError
	if _, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, version(t, b, kept.ID), nil); !errors.As(err, &state) {
		t.Errorf("a contact was merged into a lead: %v", err)
	}
}

func version(t *testing.T, b *testbed.Bed, id int64) int {
	t.Helper()
	p, err := b.Store.Person(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	return p.Version
}

// A contact without a company gets that of the other, and loses it again when they are split.
func TestMerge_company(t *testing.T) {
	b := testbed.New(t)
	add := func(company string) domain.Person {
		p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: company, Values: map[string]string{"person.last_name": "Quill"}})
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	kept, gone := add(""), add("Quill & Daughters")
	id, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, nil)
	if err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, kept.ID); p.CompanyID == nil || *p.CompanyID != *gone.CompanyID {
		t.Errorf("%+v", p.CompanyID)
	}
	if _, err := b.App.Records.Split(ctx, b.Rep, id); err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, kept.ID); p.CompanyID != nil {
		t.Errorf("the company %d stayed", *p.CompanyID)
	}
}
