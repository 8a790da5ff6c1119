package app_test

import (
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// recordActs make records and take them away.
func init() {
	contact := func(t *testing.T, b *testbed.Bed) domain.Person {
		p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "Quill", Values: map[string]string{"person.last_name": "Quill"}})
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	deal := func(t *testing.T, b *testbed.Bed) (int64, domain.Person) {
		p := contact(t, b)
		id, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &p.ID, Values: map[string]string{"deal.name": "Room"}})
		if err != nil {
			t.Fatal(err)
		}
		return id, p
	}
	oneActs["AddPerson"] = func(_ *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "Quill", Values: map[string]string{"person.last_name": "Quill"}})
			return err
		}
	}
	oneActs["AddCompany"] = func(_ *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := b.App.Records.AddCompany(ctx, b.Rep, records.NewCompany{Values: map[string]string{"company.name": "Quill"}})
			return err
		}
	}
	oneActs["AddDeal"] = func(t *testing.T, b *testbed.Bed) func() error {
		p := contact(t, b)
		return func() error {
			_, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &p.ID, Values: map[string]string{"deal.name": "Room"}})
			return err
		}
	}
	oneActs["SetDealPeople"] = func(t *testing.T, b *testbed.Bed) func() error {
		id, p := deal(t, b)
		return func() error { return b.App.Records.SetDealPeople(ctx, b.Rep, id, nil, []int64{p.ID}) }
	}
	oneActs["SetOwner"] = func(t *testing.T, b *testbed.Bed) func() error {
		p := contact(t, b)
		return func() error { return b.App.Records.SetOwner(ctx, b.Rep, field.Company, *p.CompanyID, b.Lead.ID) }
	}
	oneActs["SetCompany"] = func(t *testing.T, b *testbed.Bed) func() error {
		p := contact(t, b)
		return func() error {
			return b.App.Records.SetCompany(ctx, b.Rep, field.Contact, p.ID, nil, "New Dairy")
		}
	}
	for _, kind := range []field.Record{field.Person, field.Company, field.Deal} {
		idOf := func(id int64, p domain.Person) int64 {
			return map[field.Record]int64{field.Person: p.ID, field.Company: *p.CompanyID, field.Deal: id}[kind]
		}
		oneActs["Delete "+string(kind)] = func(t *testing.T, b *testbed.Bed) func() error {
			id := idOf(deal(t, b))
			return func() error { return b.App.Records.Delete(ctx, b.Rep, kind, id) }
		}
		oneActs["PutBack "+string(kind)] = func(t *testing.T, b *testbed.Bed) func() error {
			id := idOf(deal(t, b))
			if err := b.App.Records.Delete(ctx, b.Rep, kind, id); err != nil {
				t.Fatal(err)
			}
			return func() error { return b.App.Records.PutBack(ctx, b.Rep, kind, id) }
		}
	}
	oneActs["ChangeMany"] = func(t *testing.T, b *testbed.Bed) func() error {
		ids := []int64{b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Stone", "bo@stone.example")}
		return func() error {
			_, err := b.App.Records.ChangeMany(ctx, b.Rep, ids, "person.city", "York")
			return err
		}
	}
	two := func(t *testing.T, b *testbed.Bed) (kept, gone domain.Person) {
		kept, gone = lead(t, b, map[string]string{"person.last_name": "Quill"}), lead(t, b, map[string]string{"person.last_name": "Quil", "person.city": "York"})
		if _, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &gone.ID, Values: map[string]string{"deal.name": "Room"}}); err != nil {
			t.Fatal(err)
		}
		return kept, gone
	}
	oneActs["Merge"] = func(t *testing.T, b *testbed.Bed) func() error {
		kept, gone := two(t, b)
		return func() error {
			_, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, []string{"person.city"})
			return err
		}
	}
	for _, way := range []string{"Split", "PutBack merged"} {
		oneActs[way] = func(t *testing.T, b *testbed.Bed) func() error {
			kept, gone := two(t, b)
			id, err := b.App.Records.Merge(ctx, b.Rep, kept.ID, gone.ID, kept.Version, []string{"person.city"})
			if err != nil {
				t.Fatal(err)
			}
			if way == "Split" {
				return func() error { _, err := b.App.Records.Split(ctx, b.Rep, id); return err }
			}
			return func() error { return b.App.Records.PutBack(ctx, b.Rep, field.Person, gone.ID) }
		}
	}
	oneActs["MakeContact"] = func(t *testing.T, b *testbed.Bed) func() error {
		p := lead(t, b, map[string]string{"person.last_name": "Quill"})
		return func() error {
			_, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version, records.Qualify{Company: "Quill", Deal: &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}})
			return err
		}
	}
	oneActs["MakeLead"] = func(t *testing.T, b *testbed.Bed) func() error {
		p := lead(t, b, map[string]string{"person.last_name": "Quill"})
		got, err := b.App.Records.MakeContact(ctx, b.Rep, p.ID, p.Version, records.Qualify{Company: "Quill", Deal: &records.NewDeal{Values: map[string]string{"deal.name": "Room"}}})
		if err != nil {
			t.Fatal(err)
		}
		return func() error { _, err := b.App.Records.MakeLead(ctx, b.Rep, p.ID, got.Undo); return err }
	}
	file := "First,Last,Email,Company,Deal\nAda,Quill,ada@quill.example,Quill,Room\n"
	oneActs["ImportPeople"] = func(t *testing.T, b *testbed.Bed) func() error {
		return func() error {
			_, err := importCSV(t, b, file, transfer.ImportOptions{Kind: field.Contact, Columns: map[string]string{"Deal": "deal.name"}})
			return err
		}
	}
	oneActs["TakeBack"] = func(t *testing.T, b *testbed.Bed) func() error {
		r, err := importCSV(t, b, file, transfer.ImportOptions{Kind: field.Contact})
		if err != nil {
			t.Fatal(err)
		}
		return func() error { _, err := b.App.Transfer.TakeBack(ctx, b.Rep, r.ID); return err }
	}
}
