package store

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
	"lucidletter/internal/store/query"
)

// Every page of the list is the same, whether it is read from near by or from the start,
// in every order; somebody added or renamed stands where they belong at once.
func TestPeople_places(t *testing.T) {
	s, err := Open(context.Background(), emptyFolder(t))
	if err != nil {
		t.Fatal(err)
	}
	defer func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	}()
	ctx := context.Background()
	const many = 1730
	err = s.Within(ctx, func(ctx context.Context) error {
		for i := range many {
			kind := field.Lead
			if i%4 == 0 {
				kind = field.Contact
			}
			if _, err := s.AddPerson(ctx, domain.Person{Kind: kind, FirstName: fmt.Sprint("N", i*7919%613), LastName: fmt.Sprint("L", i*104729%331), CompanyName: fmt.Sprint("C", i%50), CreatedAt: day, UpdatedAt: day}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	page := func(q domain.PeopleQuery) []int64 {
		t.Helper()
		rows, total, err := people(s, ctx, q)
		if err != nil {
			t.Fatal(err)
		}
		ids := []int64{int64(total)}
		for _, r := range rows {
			ids = append(ids, r.ID)
		}
		return ids
	}
	queries := []domain.PeopleQuery{}
	for _, sort := range []string{"", "company.name"} {
		for _, kind := range []field.Record{"", field.Lead} {
			for _, down := range []bool{false, true} {
				for _, offset := range []int{0, 499, 500, 777, 1200, 1297, 1650, 1729, 1730, 5000} {
					queries = append(queries, domain.PeopleQuery{By: filter.Field{Path: sort}, Kind: kind, Down: down, Offset: offset, Limit: 100})
				}
			}
		}
	}
	for _, q := range queries {
		s.Places = &query.Places{} // not known
		slow := page(q)
		if n, err := s.CountPeople(ctx, q); err != nil || int64(n) != slow[0] {
			t.Fatalf("%d counted, %d listed, %v", n, slow[0], err)
		}
		if edition, err := s.PeopleEdition(ctx); err != nil {
			t.Fatal(err)
		} else if _, _, known := s.Places.Known(edition, lists.SortsWithKey[q.By.Path]+string(q.Kind)); !known {
			t.Fatal("nothing was remembered")
		}
		if quick := page(q); !slices.Equal(slow, quick) {
			t.Errorf("%+v: %d people %v, from near by %d people %v", q, slow[0], slow[1:], quick[0], quick[1:])
		}
	}
	// Very many that a search found come as they were added, the last first, until somebody
	// asks for an order; who has an address is found by its beginning.
	found, err := s.People(ctx, domain.PeopleQuery{Search: "l", Limit: 2, Offset: 1, Most: 10_000})
	if err != nil || !found.Unsorted || !found.More || found.Total != lists.ManyFound+1 || found.Rows[0].ID != many-1 || found.Rows[1].ID != many-2 {
		t.Errorf("%+v, %v", found, err)
	}
	if ids, err := s.PeopleFound(ctx, domain.PeopleQuery{Search: "l", Limit: 2, Offset: 1}); err != nil || !slices.Equal(ids, []int64{many - 1, many - 2}) {
		t.Errorf("who is picked is not who is shown: %v, %v", ids, err)
	}
	sorted, err := s.People(ctx, domain.PeopleQuery{Search: "l", Limit: 2, By: filter.Field{Path: "name"}, Most: 10_000})
	if err != nil || sorted.Unsorted || sorted.Total != many || sorted.Rows[0].LastName != "L0" {
		t.Errorf("%+v, %v", sorted, err)
	}
	if n, err := s.CountPeople(ctx, domain.PeopleQuery{Search: "l", Kind: field.Lead}); err != nil || n != many-(many+3)/4 {
		t.Errorf("%d leads counted, %v", n, err)
	}
	first := page(domain.PeopleQuery{Limit: 1})
	if _, err := s.AddPerson(ctx, domain.Person{Kind: field.Lead, LastName: "Aaa", CreatedAt: day, UpdatedAt: day}); err != nil {
		t.Fatal(err)
	}
	// A company that is renamed moves its people, though nothing of them was changed, and
	// with a clock that stands still.
	firm, err := s.AddCompany(ctx, domain.Company{Name: "Zzz", CreatedAt: day})
	if err != nil {
		t.Fatal(err)
	}
	zoe, err := s.AddPerson(ctx, domain.Person{Kind: field.Contact, LastName: "Zoe", CompanyID: &firm, CreatedAt: day, UpdatedAt: day})
	if err != nil {
		t.Fatal(err)
	}
	byFirm := domain.PeopleQuery{By: filter.Field{Path: "company.name"}, Down: true, Limit: 1}
	for range 2 {
		if _, err := s.CountPeople(ctx, byFirm); err != nil {
			t.Fatal(err)
		}
		if now := page(byFirm); now[1] != zoe {
			t.Fatalf("%v, not %d", now, zoe)
		}
	}
	if err := s.UpdateCompany(ctx, domain.Company{ID: firm, Name: "Aaa", CreatedAt: day}); err != nil {
		t.Fatal(err)
	}
	for range 4 {
		if now := page(byFirm); now[1] == zoe {
			t.Fatalf("after renaming the company: %v", now)
		}
	}
	if now := page(domain.PeopleQuery{Limit: 1}); now[0] != many+2 || now[1] == first[1] {
		t.Errorf("somebody added: %v after %v", now, first)
	}
}
