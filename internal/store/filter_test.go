package store

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/domain"
)

var filterCat = field.New([]field.Def{
	{Path: "person.own.volume", Label: "Volume", Type: field.Number, Record: field.Person, Own: true},
	{Path: "lead.own.visit", Label: "Visit", Type: field.Date, Record: field.Lead, Own: true},
	{Path: "person.own.vip", Label: "VIP", Type: field.YesNo, Record: field.Person, Own: true},
	{Path: "company.own.branch", Label: "Branch", Type: field.Text, Record: field.Company, Own: true},
	{Path: "deal.own.room", Label: "Room", Type: field.Number, Record: field.Deal, Own: true},
})

// filterWorld is people with everything that a filter asks about, and the same as values.
type filterWorld struct {
	s      *Store
	now    time.Time
	values map[int64]map[string][]string
}

func newFilterWorld(t *testing.T, rng *rand.Rand, many int) *filterWorld {
	t.Helper()
	s, err := Open(context.Background(), emptyFolder(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	})
	w := &filterWorld{s, time.Date(2026, 3, 2, 15, 0, 0, 0, time.UTC), map[int64]map[string][]string{}}
	err = s.Within(context.Background(), func(ctx context.Context) error { return w.fill(ctx, rng, many) })
	if err != nil {
		t.Fatal(err)
	}
	return w
}

func (w *filterWorld) fill(ctx context.Context, rng *rand.Rand, many int) error {
	pick := func(list ...string) string { return list[rng.IntN(len(list))] }
	var users []int64
	for _, name := range []string{"imre", "greta"} {
		id, err := w.s.AddUser(ctx, domain.User{Email: name + "@fernhollow.example", FirstName: name, Role: "representative", PasswordHash: "-"})
		if err != nil {
			return err
		}
		users = append(users, id)
	}
	var firms []domain.Company
	for i := range 6 {
		c := domain.Company{Name: fmt.Sprint(pick("Quill", "Ünal & Töchter", "O'Hara \"Oven\""), " ", i), City: pick("York", "zürich", ""), Own: domain.Own{"company.own.branch": pick("bakery", "dairy")}, CreatedAt: w.now}
		var err error
		if c.ID, err = w.s.AddCompany(ctx, c); err != nil {
			return err
		}
		if i == 5 {
			if err := w.s.DeleteCompany(ctx, c.ID, &w.now); err != nil {
				return err
			}
			c.DeletedAt = &w.now
		}
		firms = append(firms, c)
	}
	for i := range many {
		p := domain.Person{
			Kind: field.Lead, FirstName: pick("Ada", "bo", "Zoë", ""), LastName: fmt.Sprint("L", i), City: pick("York", "york ", "Zürich", "", "a b"), JobTitle: pick("Owner", "", " "), Email: pick("", fmt.Sprint("p", i%9, "@x.example")),
			CompanyName: pick("", "Quill 1"), LeadStatus: pick("new", "parked"), Own: domain.Own{}, CreatedAt: w.now.AddDate(0, 0, -rng.IntN(30)).Add(-time.Duration(rng.IntN(20)) * time.Hour), UpdatedAt: w.now,
		}
		if rng.IntN(2) == 0 {
			p.Kind, p.CompanyID = field.Contact, &firms[rng.IntN(len(firms))].ID
		}
		if rng.IntN(3) > 0 {
			p.OwnerID = &users[rng.IntN(2)]
		}
		if rng.IntN(6) == 0 {
			p.OptedOutAt = &w.now
		}
		for path, value := range map[string]string{"person.own.volume": pick("22.5", "22.50", "7", "100"), "lead.own.visit": pick("2026-03-02", "2026-03-09", "2026-02-20"), "person.own.vip": pick("true", "false")} {
			if rng.IntN(2) == 0 {
				p.Own[path] = value
			}
		}
		var err error
		if p.ID, err = w.s.AddPerson(ctx, p); err != nil {
			return err
		}
		v := valuesForFilter(&p, firms)
		w.values[p.ID] = v
		if err := w.happens(ctx, rng, p.ID, v); err != nil {
			return err
		}
	}
	for key := range 3 {
		email := fmt.Sprint("p", key, "@x.example")
		if err := w.s.PutBadAddress(ctx, domain.BadAddress{Key: email, Reason: "5.1.1", At: w.now}); err != nil {
			return err
		}
		for _, v := range w.values {
			if slices.Contains(v["person.email"], email) {
				v["bad"] = []string{"true"}
			}
		}
	}
	return nil
}

// valuesForFilter gives the values of a person, as the documentation of filters says.
func valuesForFilter(p *domain.Person, firms []domain.Company) map[string][]string {
	v := map[string][]string{"kind": {string(p.Kind)}, "created": {p.CreatedAt.Format(time.RFC3339)}}
	for _, d := range filterCat.Of(field.Person) {
		if at := p.Column(d.Path); at != nil {
			v[d.Path] = []string{*at}
		}
	}
	for path, value := range p.Own {
		if p.Kind == field.Lead || !strings.HasPrefix(path, "lead.") {
			v[path] = []string{value}
		}
	}
	if p.OwnerID != nil {
		v["owner"] = []string{fmt.Sprint(*p.OwnerID)}
	}
	if p.OptedOutAt != nil {
		v["optedout"] = []string{"true"}
	}
	if p.Kind == field.Lead {
		v["lead.status"], v["lead.company_name"], v["company.name"] = []string{p.LeadStatus}, []string{p.CompanyName}, []string{p.CompanyName}
	} else if i := slices.IndexFunc(firms, func(c domain.Company) bool { return c.ID == *p.CompanyID }); firms[i].DeletedAt == nil {
		c := &firms[i]
		v["company.name"], v["company.city"], v["company.own.branch"] = []string{c.Name}, []string{c.City}, []string{c.Own["company.own.branch"]}
	}
	return v
}

// happens gives a person deals, and what came back of letters.
func (w *filterWorld) happens(ctx context.Context, rng *rand.Rand, id int64, v map[string][]string) error {
	for range rng.IntN(3) {
		d := domain.Deal{Name: "Room", Stage: []string{"quoted", "won"}[rng.IntN(2)], AmountMinor: int64(rng.IntN(3)) * 50000, Currency: []string{"EUR", "GBP"}[rng.IntN(2)], CloseDate: w.now.AddDate(0, 0, rng.IntN(20)-10).Format(time.DateOnly), MainContactID: &id, CreatedAt: w.now}
		var others []int64
		if rng.IntN(2) == 0 {
			d.MainContactID, others = nil, []int64{id}
		}
		if rng.IntN(2) == 0 {
			d.Own = domain.Own{"deal.own.room": "22.5"}
		}
		deal, err := w.s.AddDeal(ctx, d, others)
		if err != nil {
			return err
		}
		if rng.IntN(4) == 0 {
			if err := w.s.DeleteDeal(ctx, deal, &w.now); err != nil {
				return err
			}
			continue
		}
		v["deal.name"], v["deal.stage"], v["deal.close_date"] = append(v["deal.name"], d.Name), append(v["deal.stage"], d.Stage), append(v["deal.close_date"], d.CloseDate)
		v["deal.own.room"] = append(v["deal.own.room"], d.Own["deal.own.room"])
		if d.AmountMinor != 0 {
			v["deal.amount"] = append(v["deal.amount"], field.MoneyOf(d.AmountMinor, d.Currency).String())
		}
	}
	for kind, path := range map[domain.EntryKind]string{domain.EntryOpened: "opened", domain.EntryDocument: "opened", domain.EntryClicked: "clicked", domain.EntryReplied: "answered", domain.EntryCall: ""} {
		if rng.IntN(3) > 0 {
			continue
		}
		e := domain.Entry{PersonID: &id, Kind: kind, At: w.now.AddDate(0, 0, -rng.IntN(40)), Machine: rng.IntN(3) == 0}
		if err := w.s.AddEntry(ctx, e); err != nil {
			return err
		}
		if path != "" && !e.Machine {
			v[path] = append(v[path], e.At.Format(time.RFC3339))
		}
	}
	if rng.IntN(2) == 0 {
		at := w.now.AddDate(0, 0, -rng.IntN(30))
		v["written"] = []string{at.Format(time.RFC3339)}
		_, err := w.s.exec(ctx, "write to person", `UPDATE people SET last_letter_at = ? WHERE id = ?`, at, id)
		return err
	}
	return nil
}

// someFilter makes a filter of fields that the world has values of.
func someFilter(rng *rand.Rand, fields []filter.Field, depth int) filter.Expr {
	if depth > 2 || rng.IntN(3) == 0 {
		f := fields[rng.IntN(len(fields))]
		words := []string{"York", "zÜrich", "o", "22.5", "500.00 EUR", "2026-03-02", "2026-02-25", "me", "2", "0", "7", "14", "won", "quoted", "new", "lead", "a b", "\"", "Quill 1"}
		return filter.Expr{Test: &filter.Test{Field: f.Path, Op: f.Ops[rng.IntN(len(f.Ops))], Value: words[rng.IntN(len(words))]}}
	}
	list := []filter.Expr{someFilter(rng, fields, depth+1), someFilter(rng, fields, depth+1)}
	switch rng.IntN(4) {
	case 0:
		return filter.Expr{Not: &list[0]}
	case 1:
		return filter.Expr{All: list}
	}
	return filter.Expr{Any: list}
}

// The query of a filter finds whom the filter holds for by the rule, worked out one by one.
func TestPeople_filtered(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: the race detector has nothing to find here")
	}
	rng := rand.New(rand.NewPCG(11, 2)) //nolint:gosec // made-up people
	w := newFilterWorld(t, rng, 250)
	fields := filter.Fields(filterCat)
	tried, some := 0, 0
	for tried < 1500 {
		e, err := filter.Check(filterCat, someFilter(rng, fields, 0))
		if err != nil {
			continue
		}
		tried++
		var want []int64
		for id, v := range w.values {
			if filter.Holds(filterCat, e, func(path string) []string { return v[path] }, w.now, 1) {
				want = append(want, id)
			}
		}
		slices.Sort(want)
		rows, total, err := people(w.s, context.Background(), domain.PeopleQuery{Where: filter.Bind(filterCat, e, w.now, 1), Limit: 500, By: filter.Field{Path: "created"}})
		if err != nil {
			t.Fatalf("%s: %v", filter.Print(e), err)
		}
		var got []int64
		for _, r := range rows {
			got = append(got, r.ID)
		}
		slices.Sort(got)
		if total != len(want) || !slices.Equal(got, want) {
			t.Fatalf("%s: %d found, %d by the rule; %v, %v", filter.Print(e), total, len(want), got, want)
		}
		if len(want) > 0 && len(want) < 250 {
			some++
		}
	}
	if some < 400 {
		t.Errorf("only %d of %d filters told people apart", some, tried)
	}
}
