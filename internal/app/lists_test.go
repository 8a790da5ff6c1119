package app_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func listed(t *testing.T, b *testbed.Bed, u domain.User) map[string]records.ListSheet {
	t.Helper()
	all, err := b.App.Records.Lists(ctx, u)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]records.ListSheet{}
	for _, l := range all {
		out[l.Name] = l
	}
	return out
}

func holds(t *testing.T, b *testbed.Bed, u domain.User, l records.ListSheet) int {
	t.Helper()
	n, err := b.App.Records.CountPeople(ctx, u, records.Asked{Where: l.Filter}, domain.PeopleQuery{})
	if err != nil {
		t.Fatal(err)
	}
	return n
}

func TestPutList(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	b.Person(t, "Bo", "Stone", "")
	for where, in := range map[string]domain.List{
		"name": {Name: " ", Filter: "kind is lead"}, "filter": {Name: "Everybody", Filter: " "}, "filter ": {Name: "X", Filter: "person.shoe is 4"}, "filter  ": {Name: "X", Filter: "kind is"},
	} {
		_, err := b.App.Records.PutList(ctx, b.Rep, 0, in)
		var bad *domain.InvalidError
		if !errors.As(err, &bad) || !bad.Names(strings.TrimSpace(where)) {
			t.Errorf("%s: %v", where, err)
		}
	}
	mine, err := b.App.Records.PutList(ctx, b.Rep, 0, domain.List{Name: "No address", Filter: "person.email is missing", Sort: "added", Down: true, Columns: "person.city:90, person.shoe"})
	if err != nil {
		t.Fatal(err)
	}
	got := listed(t, b, b.Rep)["No address"]
	if holds(t, b, b.Rep, got) != 1 || !got.Mine || got.Filter != "person.email is missing" || !got.Down || got.Sort != "created" || got.Columns != "person.city:90" || len(listed(t, b, b.Lead)) != 0 {
		t.Errorf("%+v", got)
	}
	if _, err := b.App.Records.PutList(ctx, b.Lead, mine, domain.List{Name: "Hers", Filter: "kind is lead"}); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another one’s list was changed: %v", err)
	}
	if err := b.App.Records.DeleteList(ctx, b.Lead, mine, false); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("another one’s list was deleted: %v", err)
	}
	if _, err := b.App.Records.PutList(ctx, b.Rep, mine, domain.List{Name: "Mine", Filter: `owner is me and person.last_name is "Quill"`, Shared: true}); err != nil {
		t.Fatal(err)
	}
	// Whose a shared list is depends on who looks.
	if l := listed(t, b, b.Rep)["Mine"]; holds(t, b, b.Rep, l) != 1 {
		t.Errorf("%+v", l)
	}
	if l := listed(t, b, b.Lead)["Mine"]; holds(t, b, b.Lead, l) != 0 || !l.Mine || l.Owner != "Imre Falk" {
		t.Errorf("%+v", l)
	}
	other, err := b.Store.AddUser(ctx, domain.User{Email: "celia@fernhollow.example", FirstName: "Celia", Role: "representative", PasswordHash: "-"})
	if err != nil {
		t.Fatal(err)
	}
	celia, _ := b.Store.User(ctx, other)
	if _, err := b.App.Records.PutList(ctx, celia, mine, domain.List{Name: "Hers", Filter: "kind is lead"}); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a shared list was changed by somebody else: %v", err)
	}
	if err := b.App.Records.DeleteList(ctx, b.Rep, mine, false); err != nil || len(listed(t, b, b.Rep)) != 0 {
		t.Error(err)
	}
	if err := b.App.Records.DeleteList(ctx, b.Rep, mine, true); err != nil || len(listed(t, b, b.Rep)) != 1 {
		t.Error(err)
	}
}

// A filter on a field that was deleted says so, and the list comes back with the field.
func TestLists_fieldGone(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.NewOwnField(ctx, b.Lead, field.Def{Path: "person.own.nick", Label: "Nick", Type: field.Text}); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Records.PutList(ctx, b.Rep, 0, domain.List{Name: "Nicks", Filter: "person.own.nick is filled"}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.DeleteOwnField(ctx, b.Lead, "person.own.nick"); err != nil {
		t.Fatal(err)
	}
	if l := listed(t, b, b.Rep)["Nicks"]; !strings.Contains(l.Problem, "may have been deleted") {
		t.Errorf("%+v", l)
	}
	if _, err := b.App.Records.People(ctx, b.Rep, records.Asked{Where: "person.own.nick is filled"}, domain.PeopleQuery{Limit: 5}); err == nil {
		t.Error("a filter on nothing found people")
	}
	if err := b.App.Records.PutBackOwnField(ctx, b.Lead, "person.own.nick"); err != nil {
		t.Fatal(err)
	}
	if l := listed(t, b, b.Rep)["Nicks"]; l.Problem != "" {
		t.Errorf("%+v", l)
	}
}

func TestChangeMany(t *testing.T) {
	b := testbed.New(t)
	ada, bo := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Stone", "bo@stone.example")
	carl, err := b.App.Records.AddPerson(ctx, b.Rep, records.NewPerson{Kind: field.Contact, Values: map[string]string{"person.last_name": "Carl", "person.city": "York"}})
	if err != nil {
		t.Fatal(err)
	}
	all := []int64{ada, bo, carl.ID}
	for path, value := range map[string]string{"person.email": "x@y.example", "person.first_name": "X", "person.shoe": "4", "person.language": "Klingon"} {
		if _, err := b.App.Records.ChangeMany(ctx, b.Rep, all, path, value); err == nil {
			t.Errorf("%s: %s", path, value)
		}
	}
	if _, err := b.App.Records.ChangeMany(ctx, b.Rep, append(all, 999), "person.city", "Leeds"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("somebody who is not there: %v", err)
	}
	if p, _ := b.Store.Person(ctx, ada); p.City == "Leeds" {
		t.Error("half of it was done")
	}
	got, err := b.App.Records.ChangeMany(ctx, b.Rep, all, "person.city", "York")
	if err != nil || got.People != 2 || got.Same != 1 || got.Undo == 0 {
		t.Fatalf("%+v, %v", got, err)
	}
	if h, _ := b.History(ctx, ada, 1, 0); h[0].Text != "City: York" {
		t.Errorf("%+v", h)
	}
	// Who was changed since keeps what they have.
	p, _ := b.Store.Person(ctx, bo)
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, bo, p.Version, map[string]string{"person.city": "Hull"}); err != nil {
		t.Fatal(err)
	}
	left, err := b.App.Records.UndoMany(ctx, b.Rep, got.Undo)
	if err != nil || len(left) != 1 || left[0].Name != "Bo Stone" {
		t.Errorf("%+v, %v", left, err)
	}
	if a, _ := b.Store.Person(ctx, ada); a.City != "" {
		t.Errorf("%q", a.City)
	}
	if p, _ = b.Store.Person(ctx, bo); p.City != "Hull" {
		t.Errorf("%q", p.City)
	}
	if got, err = b.App.Records.ChangeMany(ctx, b.Rep, all, "lead.status", "parked"); err != nil || len(got.Left) != 1 || got.Left[0].ID != carl.ID {
		t.Errorf("%+v, %v", got, err)
	}
	// Who was deleted in another window meanwhile stops nothing, and is named.
	if err := b.App.Records.Delete(ctx, b.Rep, field.Person, ada); err != nil {
		t.Fatal(err)
	}
	if left, err = b.App.Records.UndoMany(ctx, b.Rep, got.Undo); err != nil || len(left) != 1 || left[0].ID != ada {
		t.Errorf("%+v, %v", left, err)
	}
	if got, err = b.App.Records.ChangeMany(ctx, b.Rep, all, "person.city", "Leeds"); err != nil || got.People != 2 || len(got.Left) != 1 || got.Left[0].ID != ada {
		t.Errorf("%+v, %v", got, err)
	}
}

// "Not written to for 14 days", "opened but not answered" and the like find whom they say.
func TestPeopleIn(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	b.Person(t, "Bo", "Stone", "bo@stone.example")
	linked(t, b, ada)
	l, err := b.Store.LetterTo(ctx, "ada@quill.example", "", b.Now().Add(-time.Hour))
	if err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	if err := b.App.Desk.Opened(ctx, l.Token, look); err != nil {
		t.Fatal(err)
	}
	names := func(where string) string {
		page, err := b.App.Records.People(ctx, b.Rep, records.Asked{Where: where}, domain.PeopleQuery{Limit: 9})
		if err != nil {
			t.Errorf("%s: %v", where, err)
		}
		var out []string
		for _, r := range page.Rows {
			out = append(out, r.FirstName)
		}
		return strings.Join(out, " ")
	}
	for where, want := range map[string]string{
		"opened is filled and answered is missing": "Ada", "written not in last 14 days": "Bo", "created in last 0 days and owner is me": "Ada Bo", "person.job_title is missing": "Ada Bo", "bad yes": "",
	} {
		if got := names(where); got != want {
			t.Errorf("%s: %s, want %s", where, got, want)
		}
	}
	b.Pass(20 * 24 * time.Hour)
	if got := names("written not in last 14 days"); got != "Ada Bo" {
		t.Errorf("later: %s", got)
	}
	if fields, err := b.App.Records.FilterFields(ctx); err != nil || len(fields) < 20 {
		t.Errorf("%d fields, %v", len(fields), err)
	}
	if _, err := b.App.Records.CheckFilter(ctx, filter.Expr{Test: &filter.Test{Field: "kind", Op: filter.MoreThan, Value: "lead"}}); err == nil {
		t.Error("a kind was more than another")
	}
}

// Very many are changed in steps, and taken back by one number.
func TestChangeMany_inSteps(t *testing.T) {
	b := testbed.New(t)
	people := crowd(t, b, 450)
	got, err := b.App.Records.ChangeMany(ctx, b.Rep, people, "person.city", "York")
	if err != nil || got.People != 450 || got.Undo == 0 {
		t.Fatalf("%+v %v", got, err)
	}
	cities := func() (n int) {
		for _, id := range people {
			p, err := b.Store.Person(ctx, id)
			if err != nil {
				t.Fatal(err)
			}
			if p.City == "York" {
				n++
			}
		}
		return n
	}
	if n := cities(); n != 450 {
		t.Errorf("%d are in York", n)
	}
	if left, err := b.App.Records.UndoMany(ctx, b.Rep, got.Undo); err != nil || len(left) > 0 || cities() != 0 {
		t.Errorf("taken back: %v %v, %d are in York still", left, err, cities())
	}
	if _, err := b.App.Records.UndoMany(ctx, b.Rep, got.Undo); err == nil {
		t.Error("taken back twice")
	}
}
