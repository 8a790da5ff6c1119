package app_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/twin"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// lead writes down a lead of the records of these tests.
// people gives the rows of a window and how many there are in all.
func people(b *testbed.Bed, ctx context.Context, q domain.PeopleQuery) ([]domain.PersonRow, int, error) {
	page, err := b.Store.People(ctx, q)
	return page.Rows, page.Total, err
}

func lead(t *testing.T, b *testbed.Bed, values map[string]string) domain.Person {
	t.Helper()
	p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Lead, Company: "Quill & Daughters", Values: values})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestAddPerson(t *testing.T) {
	b := testbed.New(t)
	for name, row := range map[string]struct {
		in    records.NewPerson
		where string
	}{
		"nobody":                {records.NewPerson{Kind: field.Lead}, "person.last_name"},
		"a wrong address":       {records.NewPerson{Kind: field.Lead, Values: map[string]string{"person.last_name": "Quill", "person.email": "ada@"}}, "person.email"},
		"a field of another":    {records.NewPerson{Kind: field.Lead, Values: map[string]string{"person.last_name": "Quill", "contact.department": "x"}}, "contact.department"},
		"no field":              {records.NewPerson{Kind: field.Lead, Values: map[string]string{"person.last_name": "Quill", "person.shoe": "41"}}, "person.shoe"},
		"a kind that is none":   {records.NewPerson{Kind: field.Deal, Values: map[string]string{"person.last_name": "Quill"}}, "kind"},
		"an owner who is none":  {records.NewPerson{Kind: field.Lead, OwnerID: new(int64(99)), Values: map[string]string{"person.last_name": "Quill"}}, "owner"},
		"a line break in it":    {records.NewPerson{Kind: field.Lead, Values: map[string]string{"person.last_name": "Qu\nill"}}, "person.last_name"},
		"a language that isn’t": {records.NewPerson{Kind: field.Lead, Values: map[string]string{"person.last_name": "Quill", "person.language": "Klingon"}}, "person.language"},
	} {
		_, err := b.App.Records.AddPerson(ctx, b.Rep, row.in)
		var bad *domain.InvalidError
		if !errors.As(err, &bad) || !bad.Names(row.where) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, total, err := people(b, ctx, domain.PeopleQuery{Limit: 1}); err != nil || total != 0 {
		t.Errorf("%d people were made of what was refused, %v", total, err)
	}
	p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "  quill   &  daughters ", Values: map[string]string{"person.first_name": "Ada", "person.last_name": "O’Quill 👩‍🚀", "person.email": "ada@quill.example"}})
	if err != nil || p.CompanyID == nil || p.ContactSince != "2026-03-02" || *p.OwnerID != b.Rep.ID {
		t.Fatalf("%+v, %v", p, err)
	}
	other, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "Quill & Daughters", OwnerID: &b.Lead.ID, Values: map[string]string{"person.last_name": "Stone"}})
	if err != nil || *other.CompanyID != *p.CompanyID || *other.OwnerID != b.Lead.ID {
		t.Errorf("one company of two: %+v, %v", other, err)
	}
	if h, err := b.History(ctx, p.ID, 5, 0); err != nil || len(h) != 1 || h[0].Kind != domain.EntryCreated || h[0].Text != "Ada O’Quill 👩‍🚀" {
		t.Errorf("%+v, %v", h, err)
	}
}

func TestAddDeal(t *testing.T) {
	b := testbed.New(t)
	ada, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "Quill", Values: map[string]string{"person.last_name": "Quill"}})
	if err != nil {
		t.Fatal(err)
	}
	bo := b.Person(t, "Bo", "Stone", "bo@stone.example")
	for where, values := range map[string]map[string]string{
		"deal.name": {"deal.amount": "100 EUR"}, "deal.amount": {"deal.name": "Room", "deal.amount": "much"}, "deal.close_date": {"deal.name": "Room", "deal.close_date": "soon"}, "deal.shoe": {"deal.name": "Room", "deal.shoe": "1"},
	} {
		_, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{Values: values})
		var bad *domain.InvalidError
		if !errors.As(err, &bad) || !bad.Names(where) {
			t.Errorf("%s: %v", where, err)
		}
	}
	id, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &ada.ID, OtherIDs: []int64{bo, ada.ID, bo}, Values: map[string]string{"deal.name": "Room for O’Neil", "deal.amount": "12500.50 GBP", "deal.close_date": "2026-05-01"}})
	if err != nil {
		t.Fatal(err)
	}
	d, err := b.App.Records.DealPage(ctx, id)
	if err != nil || d.CompanyID == nil || *d.CompanyID != *ada.CompanyID || d.AmountMinor != 1250050 || d.Currency != "GBP" || d.Stage == "" || len(d.People) != 2 || !d.People[0].Main {
		t.Errorf("%+v, %v", d, err)
	}
	// One main contact, changed; who is in it twice is in it once.
	if err := b.App.Records.SetDealPeople(ctx, b.Rep, id, &bo, []int64{ada.ID, ada.ID, bo}); err != nil {
		t.Fatal(err)
	}
	if d, _ = b.App.Records.DealPage(ctx, id); len(d.People) != 2 || d.People[0].ID != bo || *d.MainContactID != bo {
		t.Errorf("%+v", d.People)
	}
	if err := b.App.Records.SetDealPeople(ctx, b.Rep, id, nil, nil); err != nil {
		t.Fatal(err)
	}
	if d, _ = b.App.Records.DealPage(ctx, id); len(d.People) != 0 || d.MainContactID != nil {
		t.Errorf("%+v", d.People)
	}
	if err := b.App.Records.SetDealPeople(ctx, b.Rep, id, new(int64(999)), nil); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("nobody is the main contact: %v", err)
	}
	h := dealHistory(t, b, id)
	if len(h) != 3 || h[0].Text != "People: nobody" || !strings.HasPrefix(h[1].Text, "People: Bo Stone (main contact), ") {
		t.Errorf("%+v", h)
	}
}

// Who is deleted stands in no list, gets no letter, also none that waits, and comes back as
// they were.
func TestDelete_person(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	waits := b.Letter(t, ada, b.Template(t, "Hello", "Hello", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Send(ctx, b.Rep, waits.ID, waits.Version, waits.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	draft, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	hangs, err := b.App.Records.HangsOn(ctx, field.Person, ada)
	if err != nil || hangs.Drafts != 1 || hangs.Waiting != 1 {
		t.Errorf("%+v, %v", hangs, err)
	}
	if err := b.App.Records.Delete(ctx, b.Rep, field.Person, ada); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.Delete(ctx, b.Rep, field.Person, ada); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("deleted twice: %v", err)
	}
	found := func() (all, searched, byEmail, begun int) {
		_, all, err1 := people(b, ctx, domain.PeopleQuery{Limit: 9})
		_, searched, err2 := people(b, ctx, domain.PeopleQuery{Search: "quill", Limit: 9})
		list, err3 := b.Store.PeopleByEmail(ctx, "ada@quill.example")
		rows, err4 := b.Store.PeopleBeginning(ctx, "ada", 9)
		if err := errors.Join(err1, err2, err3, err4); err != nil {
			t.Fatal(err)
		}
		return all, searched, len(list), len(rows)
	}
	if a, s, e, p := found(); a+s+e+p != 0 {
		t.Errorf("a deleted person is found: %d %d %d %d", a, s, e, p)
	}
	var state *domain.StateError
	if _, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, nil, nil); !errors.As(err, &state) || !strings.Contains(state.Why, "was deleted") {
		t.Errorf("a letter to nobody: %v", err)
	}
	l, err := b.App.Desk.Letter(ctx, b.Rep, draft.ID)
	if err != nil || !slices.ContainsFunc(l.Stops, func(n document.Note) bool { return n.Code == "deleted" }) {
		t.Errorf("%+v, %v", l.Stops, err)
	}
	if err := b.Deliver(ctx, waits.ID); err != nil {
		t.Fatal(err)
	}
	if gone, _ := b.Store.Letter(ctx, waits.ID); gone.State != domain.Refused || !strings.Contains(gone.Reason, "was deleted") {
		t.Errorf("%s: %s", gone.State, gone.Reason)
	}
	if err := b.App.Records.PutBack(ctx, b.Rep, field.Person, ada); err != nil {
		t.Fatal(err)
	}
	if a, s, e, p := found(); a != 1 || s != 1 || e != 1 || p != 1 {
		t.Errorf("not all there again: %d %d %d %d", a, s, e, p)
	}
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, ada, 1, map[string]string{"person.city": "York"}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("changed from before it was deleted: %v", err)
	}
}

func TestDelete_companyAndDeal(t *testing.T) {
	b := testbed.New(t)
	ada, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Company: "Quillworks", Values: map[string]string{"person.first_name": "Ada", "person.last_name": "Stone", "person.email": "ada@x.example"}})
	if err != nil {
		t.Fatal(err)
	}
	deal, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{MainID: &ada.ID, Values: map[string]string{"deal.name": "Room"}})
	if err != nil {
		t.Fatal(err)
	}
	seen := func() (companies, found, deals int, company string) {
		_, companies, _, err1 := b.App.Records.Companies(ctx, records.Asked{}, domain.RecordsQuery{Search: "quillw", Limit: 5})
		rows, found, err2 := people(b, ctx, domain.PeopleQuery{Search: "quillworks", Limit: 5})
		all, _, _, err3 := b.App.Records.Deals(ctx, records.Asked{}, domain.RecordsQuery{Limit: 500})
		sheet, err4 := b.App.Records.Person(ctx, b.Rep, ada.ID)
		if err := errors.Join(err1, err2, err3, err4); err != nil {
			t.Fatal(err)
		}
		if len(rows) > 0 {
			company = rows[0].Company
		}
		if sheet.Company != nil != (companies == 1) {
			t.Errorf("the person’s page has %+v", sheet.Company)
		}
		return companies, found, len(all), company
	}
	if c, f, d, name := seen(); c != 1 || f != 1 || d != 1 || name != "Quillworks" {
		t.Fatalf("%d %d %d %q", c, f, d, name)
	}
	for _, step := range []error{b.App.Records.Delete(ctx, b.Rep, field.Company, *ada.CompanyID), b.App.Records.Delete(ctx, b.Rep, field.Deal, deal)} {
		if step != nil {
			t.Fatal(step)
		}
	}
	if c, f, d, _ := seen(); c+f+d != 0 {
		t.Errorf("found though deleted: %d %d %d", c, f, d)
	}
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, ada.ID, nil, &deal)
	var bad *domain.InvalidError
	if !errors.As(err, &bad) || !bad.Names("dealId") {
		t.Errorf("a letter about a deleted deal: %+v %v", l.Letter, err)
	}
	if err := b.App.Records.SetDealPeople(ctx, b.Rep, deal, nil, nil); !errors.Is(err, domain.ErrState) {
		t.Errorf("a deleted deal is changed: %v", err)
	}
	for _, step := range []error{b.App.Records.PutBack(ctx, b.Rep, field.Company, *ada.CompanyID), b.App.Records.PutBack(ctx, b.Rep, field.Deal, deal)} {
		if step != nil {
			t.Fatal(step)
		}
	}
	if c, f, d, name := seen(); c != 1 || f != 1 || d != 1 || name != "Quillworks" {
		t.Errorf("%d %d %d %q", c, f, d, name)
	}
	// Another name is found at once, the old one is not.
	if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Company, *ada.CompanyID, "company.name", "Quillworks", "Harrow Bakery"); err != nil {
		t.Fatal(err)
	}
	if _, n, _ := people(b, ctx, domain.PeopleQuery{Search: "harrow", Limit: 5}); n != 1 {
		t.Errorf("%d found by the new name", n)
	}
	if _, n, _ := people(b, ctx, domain.PeopleQuery{Search: "quillworks", Limit: 5}); n != 0 {
		t.Errorf("%d found by the old name", n)
	}
}

func TestSetOwnerAndCompany(t *testing.T) {
	b := testbed.New(t)
	p, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Values: map[string]string{"person.last_name": "Quill"}})
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.SetCompany(ctx, b.Rep, field.Contact, p.ID, nil, "New Dairy"); err != nil {
		t.Fatal(err)
	}
	sheet, err := b.App.Records.Person(ctx, b.Rep, p.ID)
	if err != nil || sheet.Company == nil || sheet.Company.Name != "New Dairy" {
		t.Fatalf("%+v, %v", sheet.Company, err)
	}
	for kind, id := range map[field.Record]int64{field.Person: p.ID, field.Company: sheet.Company.ID} {
		if err := b.App.Records.SetOwner(ctx, b.Rep, kind, id, b.Lead.ID); err != nil {
			t.Error(err)
		}
		if err := b.App.Records.SetOwner(ctx, b.Rep, kind, id, 99); err == nil {
			t.Error("nobody owns it")
		}
	}
	if sheet, _ = b.App.Records.Person(ctx, b.Rep, p.ID); sheet.Owner != "Greta Holm" {
		t.Errorf("%q", sheet.Owner)
	}
	if err := b.App.Records.SetCompany(ctx, b.Rep, field.Contact, p.ID, nil, ""); err != nil {
		t.Fatal(err)
	}
	if sheet, _ = b.App.Records.Person(ctx, b.Rep, p.ID); sheet.Company != nil {
		t.Errorf("%+v", sheet.Company)
	}
	if err := b.App.Records.SetCompany(ctx, b.Rep, field.Lead, lead(t, b, map[string]string{"person.last_name": "X"}).ID, nil, "Y"); err == nil {
		t.Error("a lead got a company of the records")
	}
}

// A lead becomes a contact: its history, its draft and its person values stay, its own
// fields go where they are to.
func TestTwins(t *testing.T) {
	b := testbed.New(t)
	lead(t, b, map[string]string{"person.first_name": "Katherine", "person.last_name": "Johnson", "person.email": "kj@quill.example"})
	gone := lead(t, b, map[string]string{"person.first_name": "Katherine", "person.last_name": "Johnston"})
	if err := b.App.Records.Delete(ctx, b.Rep, field.Person, gone.ID); err != nil {
		t.Fatal(err)
	}
	for want, typed := range map[twin.Reason]twin.Person{
		twin.SameEmail: {Email: "KJ@quill.example"}, twin.SameName: {First: "katherine", Last: "JOHNSON"}, twin.CloseName: {First: "Katharine", Last: "Jonson", Company: "Quill and Daughters"},
		"": {First: "Peter", Last: "Johnson", Company: "Quill & Daughters"},
	} {
		got, err := b.App.Records.Twins(ctx, typed)
		if want == "" && len(got) == 0 && err == nil {
			continue
		}
		if err != nil || len(got) != 1 || got[0].Why != want || got[0].LastName != "Johnson" {
			t.Errorf("%+v: %+v, %v", typed, got, err)
		}
	}
	if got, err := b.App.Records.Twins(ctx, twin.Person{}); err != nil || len(got) != 0 {
		t.Errorf("nobody has twins: %+v, %v", got, err)
	}
}

func TestAddNote(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct {
		what domain.EntryKind
		text string
	}{{"sent", "x"}, {domain.EntryCall, "  \n"}, {domain.EntryNote, strings.Repeat("x", 10_001)}} {
		if _, err := b.App.Records.AddNote(ctx, b.Rep, field.Person, ada, row.what, row.text); err == nil {
			t.Errorf("%s %.20q was written down", row.what, row.text)
		}
	}
	id, err := b.App.Records.AddNote(ctx, b.Rep, field.Person, ada, domain.EntryCall, "Wants a room\nby May")
	if err != nil {
		t.Fatal(err)
	}
	if h, err := b.History(ctx, ada, 1, 0); err != nil || h[0].Kind != domain.EntryCall || h[0].Text != "Wants a room\nby May" || *h[0].UserID != b.Rep.ID {
		t.Errorf("%+v, %v", h, err)
	}
	if err := b.App.Records.DeleteNote(ctx, b.Lead, id); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another one’s note was taken out: %v", err)
	}
	if err := b.App.Records.DeleteNote(ctx, b.Rep, id); err != nil {
		t.Error(err)
	}
}
