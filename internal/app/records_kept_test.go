package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A deal with a company of a new name is made with it or not at all.
func TestAddDeal_withCompany(t *testing.T) {
	b := testbed.New(t)
	in := records.NewDeal{Values: map[string]string{"deal.name": "Cold room", "deal.amount": "ten thousand"}, Company: "Brindle Farm"}
	if _, err := b.App.Records.AddDeal(ctx, b.Rep, in); err == nil {
		t.Fatal(err)
	}
	if _, err := b.Store.CompanyByName(ctx, "Brindle Farm"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a deal that was refused left its company behind: %v", err)
	}
	in.Values["deal.amount"] = "10000 EUR"
	id, err := b.App.Records.AddDeal(ctx, b.Rep, in)
	if err != nil {
		t.Fatal(err)
	}
	d, err := b.Store.Deal(ctx, id)
	c, cErr := b.Store.CompanyByName(ctx, "brindle  farm")
	if err != nil || cErr != nil || d.CompanyID == nil || *d.CompanyID != c.ID {
		t.Errorf("%+v %v %+v %v", d, err, c, cErr)
	}
}

// What was deleted is not changed, whichever kind of record it is.
func TestChange_deleted(t *testing.T) {
	b := testbed.New(t)
	deal, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{Values: map[string]string{"deal.name": "Cold room"}, Company: "Brindle Farm"})
	if err != nil {
		t.Fatal(err)
	}
	c, _ := b.Store.CompanyByName(ctx, "Brindle Farm")
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for kind, id := range map[field.Record]int64{field.Deal: deal, field.Company: c.ID, field.Person: person} {
		if err := b.App.Records.Delete(ctx, b.Rep, kind, id); err != nil {
			t.Fatal(err)
		}
	}
	before := stored(t, b)
	for name, change := range map[string]func() error{
		"deal": func() error {
			return b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, deal, "deal.name", "Cold room", "x")
		},
		"company": func() error {
			return b.App.Records.ChangeRecord(ctx, b.Rep, field.Company, c.ID, "company.city", "", "x")
		},
		"person": func() error {
			_, err := b.App.Records.ChangeValues(ctx, b.Rep, person, map[string]string{"person.city": ""}, map[string]string{"person.city": "York"})
			return err
		},
	} {
		if err := change(); !errors.Is(err, domain.ErrState) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if stored(t, b) != before {
		t.Error("a refused change changed something")
	}
}

// The company of a contact is chosen in a merge as its fields are.
func TestMerge_companyChosen(t *testing.T) {
	b := testbed.New(t)
	contact := func(company string) domain.Person {
		p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Values: map[string]string{"person.last_name": "Quill"}, Company: company})
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	kept, gone := contact("Brindle Farm"), contact("Orchard House")
	sides, err := b.App.Records.Compare(ctx, b.Rep, kept.ID, gone.ID)
	if err != nil || !slices.Contains(sides, records.Side{Path: "company", Label: "Company", Kept: "Brindle Farm", Gone: "Orchard House"}) {
		t.Fatal(sides, err)
	}
	id, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, []string{"company"})
	if err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, kept.ID); p.CompanyID == nil || *p.CompanyID != *gone.CompanyID {
		t.Errorf("%+v", p)
	}
	if left, err := b.App.Records.Split(ctx, b.Rep, id); err != nil || len(left) > 0 {
		t.Fatal(left, err)
	}
	if p, _ := b.Store.Person(ctx, kept.ID); p.CompanyID == nil || *p.CompanyID != *kept.CompanyID {
		t.Errorf("after the split: %+v", p)
	}
	// Left as it is when it was not taken; none stays none when that was chosen.
	lone := contact("")
	if _, err := b.App.Records.Merge(ctx, b.Rep, lone.ID, gone.ID, lone.Version, []string{}); err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, lone.ID); p.CompanyID != nil {
		t.Errorf("%+v", p)
	}
}

// An amount of 0 is one; a deal without one has none, in letters, lists and filters.
func TestDeal_amountOfZero(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	deal := func(amount string) int64 {
		id, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{Values: map[string]string{"deal.name": "Room " + amount, "deal.amount": amount}, MainID: &ada})
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	free, open := deal("0 EUR"), deal("")
	shown := func(id int64) (string, string) {
		t.Helper()
		page, err := b.App.Records.DealPage(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		i := slices.IndexFunc(page.Fields, func(f records.RecordField) bool { return f.Path == "deal.amount" })
		return page.Amount, page.Fields[i].Value
	}
	if row, value := shown(free); row != "€0.00" || value != "0.00 EUR" {
		t.Errorf("%q %q", row, value)
	}
	if row, value := shown(open); row != "" || value != "" {
		t.Errorf("%q %q", row, value)
	}
	if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, free, "deal.amount", "0.00 EUR", ""); err != nil {
		t.Fatal(err)
	}
	if row, value := shown(free); row != "" || value != "" {
		t.Errorf("cleared: %q %q", row, value)
	}
	if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, free, "deal.amount", "", "€0"); err != nil {
		t.Fatal(err)
	}
	if row, _ := shown(free); row != "€0.00" {
		t.Errorf("%q", row)
	}
}

// An act is taken back by whoever did it, by its number, once, within a day.
func TestUndo_byItsNumber(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	change := func(value string) int64 {
		t.Helper()
		out, err := b.App.Records.ChangeMany(ctx, b.Rep, []int64{ada}, "person.city", value)
		if err != nil || out.Undo == 0 {
			t.Fatal(out, err)
		}
		return out.Undo
	}
	id := change("York")
	for name, undo := range map[string]func() error{
		"somebody else":  func() error { _, err := b.App.Records.UndoMany(ctx, b.Lead, id); return err },
		"another number": func() error { _, err := b.App.Records.UndoMany(ctx, b.Rep, id+1); return err },
		"another act":    func() error { _, err := b.App.Records.MakeLead(ctx, b.Rep, ada, id); return err },
	} {
		if err := undo(); !errors.Is(err, domain.ErrState) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := b.App.Records.UndoMany(ctx, b.Rep, id); err != nil {
		t.Fatal(err)
	}
	if p, _ := b.Store.Person(ctx, ada); p.City != "" {
		t.Errorf("%q", p.City)
	}
	if _, err := b.App.Records.UndoMany(ctx, b.Rep, id); !errors.Is(err, domain.ErrState) {
		t.Errorf("twice: %v", err)
	}
	id = change("Leeds")
	b.Pass(25 * time.Hour)
	if _, err := b.App.Records.UndoMany(ctx, b.Rep, id); !errors.Is(err, domain.ErrState) {
		t.Errorf("a day later: %v", err)
	}
}

// A list of commas and quotation marks is read in one go.
func TestReadAddresses_odd(t *testing.T) {
	found, rest := records.ReadAddresses("Ada <ada@quill.example>, bo@rye.example; " + strings.Repeat(`<a,"`, 500_000))
	if len(found) != 2 || found[0].Email != "ada@quill.example" || found[1].Email != "bo@rye.example" || len(rest) != 1 || len(rest[0]) > 100 {
		t.Errorf("%d found, %d rest", len(found), len(rest))
	}
	if found, rest := records.ReadAddresses(strings.Repeat(",", 2_000_000) + "ada@quill.example,"); len(found) != 1 || len(rest) != 0 {
		t.Errorf("%v %d", found, len(rest))
	}
}
