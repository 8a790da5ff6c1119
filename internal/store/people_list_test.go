package store

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/domain"
)

// Every column sorts as its values compare, those without one last in both directions, and
// window after window gives everybody once: all, those of a filter, and those of a search.
func TestPeople_everyColumn(t *testing.T) {
	w := newFilterWorld(t, rand.New(rand.NewPCG(8, 1)), 130)
	ctx := context.Background()
	e, err := filter.Check(filterCat, filter.Expr{Test: &filter.Test{Field: "person.city", Op: filter.Filled}})
	if err != nil {
		t.Fatal(err)
	}
	cities := filter.Bind(filterCat, e, w.now, 1)
	told := 0
	for _, f := range append(filter.Columns(filterCat, field.Person), filter.Field{}) {
		for _, q := range []domain.PeopleQuery{{}, {Down: true}, {Where: cities}, {Search: "york"}, {Search: "l", Kind: field.Lead, Down: true}, {Where: cities, Most: 7, Down: true}} {
			q.By, q.Columns = f, []filter.TableColumn{{Field: f}}
			if f.Path == "" {
				q.Columns = nil
			}
			rows := windows(t, w.s, q)
			n, err := w.s.CountPeople(ctx, q)
			whole, err2 := w.s.PeopleFound(ctx, domain.PeopleQuery{Search: q.Search, Kind: q.Kind, Where: q.Where, By: f, Down: q.Down, Limit: 1000})
			if err != nil || err2 != nil || q.Most == 0 && n != len(rows) || q.Most > 0 && n != q.Most+1 {
				t.Fatalf("%s: %d counted of %d, %v %v", f.Path, n, len(rows), err, err2)
			}
			ids := []int64{}
			for i, r := range rows {
				if slices.Contains(ids, r.ID) {
					t.Fatalf("by %s: %d stands twice", f.Path, r.ID)
				}
				ids = append(ids, r.ID)
				if i == 0 || f.Path == "" {
					continue
				}
				if order := inOrder(f, rows[i-1].Cells[0], r.Cells[0], q.Down); !order {
					t.Errorf("by %s, down %v: %q before %q", f.Path, q.Down, rows[i-1].Cells[0], r.Cells[0])
				}
				if rows[i-1].Cells[0] != r.Cells[0] {
					told++
				}
			}
			if !slices.Equal(ids, whole) {
				t.Errorf("by %s: window by window %v, at once %v", f.Path, ids, whole)
			}
		}
	}
	if told < 500 {
		t.Errorf("only %d neighbours differ", told)
	}
}

// windows reads a list from its start to its end, 40 at a time.
func windows(t *testing.T, s *Store, q domain.PeopleQuery) []domain.PersonRow {
	t.Helper()
	out := []domain.PersonRow{}
	for more := true; more; {
		q.Offset, q.Limit = len(out), 40
		page, err := s.People(context.Background(), q)
		if err != nil {
			t.Fatalf("%+v: %v", q, err)
		}
		out = append(out, page.Rows...)
		if more = len(page.Rows) == q.Limit; more && page.Total < len(out) || !more && !page.More && page.Total != len(out) {
			t.Fatalf("%+v: %d in all after %d", q.By, page.Total, len(out))
		}
	}
	return out
}

// inOrder compares two values of a column by the rule.
func inOrder(f filter.Field, a, b string, down bool) bool {
	a, b = strings.ToLower(strings.TrimSpace(a)), strings.ToLower(strings.TrimSpace(b))
	if a == "" || b == "" {
		// The dates of letters are sorted by their index: none before the first.
		return b == "" || f.Path == "written" && !down || f.Path == "company.name" && !down
	}
	order := strings.Compare(a, b)
	switch {
	case f.Kind == filter.Number:
		x, err1 := field.Parse(field.Number, a, nil)
		y, err2 := field.Parse(field.Number, b, nil)
		if err1 != nil || err2 != nil {
			return false
		}
		order, _ = field.Compare(x, y)
	case len(f.Choices) > 0:
		order = slices.Index(f.Choices, a) - slices.Index(f.Choices, b)
	}
	return order == 0 || order < 0 != down
}
