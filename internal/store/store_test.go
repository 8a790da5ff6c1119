package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/app"
	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
)

var ctx = context.Background()

// emptyDatabase is an empty one of this program's form, made once for all tests.
var emptyDatabase = sync.OnceValues(func() ([]byte, error) {
	folder, err := os.MkdirTemp("", "lucid-empty-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(folder) }()
	s, err := Open(ctx, folder)
	if err == nil {
		err = s.Close()
	}
	if err != nil {
		return nil, err
	}
	return os.ReadFile(filepath.Join(folder, FileName))
})

// emptyFolder is a data folder with an empty database.
func emptyFolder(t testing.TB) string {
	t.Helper()
	folder := t.TempDir()
	empty, err := emptyDatabase()
	if err == nil {
		err = os.WriteFile(filepath.Join(folder, FileName), empty, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	return folder
}

func open(t testing.TB, folder string) *Store {
	t.Helper()
	s, err := Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func add(t testing.TB, s app.Store, first, last, email, company string) int64 {
	t.Helper()
	return addIn(ctx, t, s, first, last, email, company)
}

func addIn(ctx context.Context, t testing.TB, s app.Store, first, last, email, company string) int64 {
	t.Helper()
	now := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	id, err := s.AddPerson(ctx, domain.Person{Kind: field.Lead, FirstName: first, LastName: last, Email: email, CompanyName: company, CreatedAt: now, UpdatedAt: now, Own: domain.Own{"lead.own.x": "1"}})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

func TestOpen_again(t *testing.T) {
	folder := t.TempDir()
	s := open(t, folder)
	id := add(t, s, "Ada", "Quill", "ada@quill.example", "")
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	s = open(t, folder)
	defer func() { _ = s.Close() }()
	if p, err := s.Person(ctx, id); err != nil || p.FirstName != "Ada" || p.Own["lead.own.x"] != "1" || p.CreatedAt.Location() != time.UTC && p.CreatedAt.Hour() != 9 {
		t.Errorf("%+v, %v", p, err)
	}
	if _, err := s.Person(ctx, 99); !errors.Is(err, domain.ErrNotFound) {
		t.Error(err)
	}
}

func TestWithin_undoesEverything(t *testing.T) {
	s := open(t, emptyFolder(t))
	defer func() { _ = s.Close() }()
	boom := errors.New("boom")
	err := s.Within(ctx, func(ctx context.Context) error {
		addIn(ctx, t, s, "Ada", "Quill", "ada@quill.example", "")
		return s.Within(ctx, func(ctx context.Context) error {
			addIn(ctx, t, s, "Bo", "Quill", "bo@quill.example", "")
			return boom
		})
	})
	if _, n, _ := people(s, ctx, domain.PeopleQuery{Limit: 9}); !errors.Is(err, boom) || n != 0 {
		t.Errorf("%v, %d people", err, n)
	}
}

func TestPeople_search(t *testing.T) {
	s := open(t, emptyFolder(t))
	defer func() { _ = s.Close() }()
	ada := add(t, s, "Ada", "Quill", "ada@quill.example", "Bäckerei Süd")
	add(t, s, "Bo", "Finch", "bo@finch.example", "Finch Flowers")
	add(t, s, "", "", "only@mail.example", "")
	for search, want := range map[string]int{
		"": 3, "ada": 1, "ad": 1, "a": 1, "quill ada": 1, "backerei": 1, "finch bo": 1, "finch ada": 0, `"`: 0, "ada OR bo": 0, "ada*": 1, "example": 3, "NEAR(": 0, "zz": 0,
	} {
		rows, n, err := people(s, ctx, domain.PeopleQuery{Search: search, Limit: 10})
		if err != nil || n != want || len(rows) != want {
			t.Errorf("%q: %d, %v, want %d", search, n, err, want)
		}
	}
	p, err := s.Person(ctx, ada)
	if err != nil {
		t.Fatal(err)
	}
	p.LastName = "Wren"
	if err := s.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	if _, n, _ := people(s, ctx, domain.PeopleQuery{Search: "wren", Limit: 1}); n != 1 {
		t.Error("not found by the new name")
	}
	if err := s.UpdatePerson(ctx, p); !errors.Is(err, domain.ErrStale) {
		t.Errorf("an old version was stored: %v", err)
	}
	for sort := range lists.SortColumns {
		for _, down := range []bool{false, true} {
			if rows, _, err := people(s, ctx, domain.PeopleQuery{By: filter.Field{Path: sort}, Down: down, Limit: 2, Offset: 1}); err != nil || len(rows) != 2 {
				t.Errorf("sorted by %s: %d, %v", sort, len(rows), err)
			}
		}
	}
}

// A window out of 100,000 people, as the table asks for it.
func BenchmarkPeople(b *testing.B) {
	s := open(b, b.TempDir())
	defer func() { _ = s.Close() }()
	if err := s.Within(ctx, func(ctx context.Context) error {
		for i := range 100_000 {
			addIn(ctx, b, s, fmt.Sprintf("First%d", i%977), fmt.Sprintf("Last%d", i), fmt.Sprintf("p%d@firm.example", i), "Firm")
		}
		return nil
	}); err != nil {
		b.Fatal(err)
	}
	for name, q := range map[string]domain.PeopleQuery{
		"first window": {Limit: 100}, "far window": {Limit: 100, Offset: 90_000}, "search": {Search: "first97 last1", Limit: 100}, "one letter": {Search: "l", Limit: 100},
		"by last letter": {By: filter.Field{Path: "written"}, Down: true, Limit: 100}, "by company": {By: filter.Field{Path: "company.name"}, Limit: 100},
	} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, _, err := people(s, ctx, q); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// Ids are never used again, in a new database and in one of an earlier state, and the
// change of the declaration leaves the file whole.
func TestOpen_idsNeverAgain(t *testing.T) {
	s, user, person := desk(t)
	l := domain.Letter{PersonID: person, SenderID: user, State: domain.Draft, CreatedAt: day, UpdatedAt: day}
	var ids [2]int64
	for i := range ids {
		id, err := s.AddLetter(ctx, l)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := s.write.ExecContext(ctx, "DELETE FROM letters WHERE id = ?", id); err != nil {
			t.Fatal(err)
		}
		ids[i] = id
	}
	if ids[0] == ids[1] {
		t.Errorf("id %d was given twice", ids[0])
	}
	var whole string
	if err := s.read.Get(&whole, "PRAGMA integrity_check"); err != nil || whole != "ok" {
		t.Errorf("%s, %v", whole, err)
	}
	// Every table that is counted by its own ids; those of searches are kept by SQLite,
	// those of settings and of one row for another hold no ids of their own.
	var tables []string
	if err := s.read.Select(&tables, `SELECT name FROM sqlite_schema WHERE type = 'table' AND sql LIKE '%id INTEGER PRIMARY KEY%' AND sql NOT LIKE '%AUTOINCREMENT%'
		AND sql NOT LIKE '%CHECK (id = 1)%' AND name NOT LIKE '%\_find%' ESCAPE '\' AND sql NOT LIKE '%INTEGER PRIMARY KEY REFERENCES%' AND name <> 'goose_db_version'`); err != nil || len(tables) > 0 {
		t.Errorf("ids of %v can be given twice, %v", tables, err)
	}
}

// people gives the rows of a window and how many there are in all.
func people(s *Store, ctx context.Context, q domain.PeopleQuery) ([]domain.PersonRow, int, error) {
	page, err := s.People(ctx, q)
	return page.Rows, page.Total, err
}
