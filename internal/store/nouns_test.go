package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"github.com/pressly/goose/v3"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

var day = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

func must[T any](t testing.TB) func(v T, err error) T {
	return func(v T, err error) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

// desk is a store with a user and a person.
func desk(t testing.TB) (s *Store, user, person int64) {
	t.Helper()
	s = open(t, emptyFolder(t))
	t.Cleanup(func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	})
	id := must[int64](t)
	user = id(s.AddUser(ctx, domain.User{Email: "imre@fernhollow.example", FirstName: "Imre", LastName: "Falk", Role: access.Representative, PasswordHash: "-"}))
	return s, user, add(t, s, "Ada", "Quill", "ada@quill.example", "Quill & Daughters")
}

// What is stored comes back the same, with its times in UTC.
func TestStore_roundTrips(t *testing.T) {
	s, user, person := desk(t)
	id := must[int64](t)
	team := domain.Team{Name: "North", PostalAddress: "7 Ice House Lane\nHarrowmere", Website: "https://fernhollow.example", Language: "en-GB", Own: domain.Own{"team.own.x": "a"}}
	team.ID = id(s.AddTeam(ctx, team))
	if got := must[domain.Team](t)(s.Team(ctx, team.ID)); !reflect.DeepEqual(got, team) {
		t.Errorf("team %+v, want %+v", got, team)
	}
	firm := domain.Company{Name: "Quill", Website: "https://quill.example", Industry: "bakery", Employees: "12", Street: "Mill Lane 1", City: "Leeds", OwnerID: &user, Own: domain.Own{"company.own.days": "Mon"}, CreatedAt: day}
	firm.ID = id(s.AddCompany(ctx, firm))
	if got := must[domain.Company](t)(s.Company(ctx, firm.ID)); asJSON(t, got) != asJSON(t, firm) {
		t.Errorf("company %+v, want %+v", got, firm)
	}
	if got := must[domain.Company](t)(s.CompanyByName(ctx, "QUILL")); got.ID != firm.ID {
		t.Errorf("by name: %+v", got)
	}
	deal := domain.Deal{Name: "Room", CompanyID: &firm.ID, MainContactID: &person, Stage: "quoted", AmountMinor: 1250000, Currency: "EUR", CloseDate: "2026-04-01", OwnerID: &user, Own: domain.Own{"deal.own.volume": "12.5"}, CreatedAt: day}
	deal.ID = id(s.AddDeal(ctx, deal, nil))
	if got := must[domain.Deal](t)(s.Deal(ctx, deal.ID)); asJSON(t, got) != asJSON(t, deal) {
		t.Errorf("deal %+v, want %+v", got, deal)
	}
	if got := must[[]domain.Deal](t)(s.DealsOf(ctx, person)); len(got) != 1 || got[0].ID != deal.ID {
		t.Errorf("deals of the person: %+v", got)
	}
	for _, body := range []document.Document{markup.Parse("Dear {{person.first_name|you}}\n{{#deal.amount}}\nx\n{{/deal.amount}}"), render.Formatted(markup.Parse("a\n\nb")), markup.ParseHTML("<p>{{person.city|}}</p>")} {
		template := domain.Template{Name: "T", WhenToUse: "now", Tags: []string{"a"}, Rights: access.Rights{Editors: access.Audience{Who: access.Some, Users: []int64{user}}}, Subject: markup.Parse("For {{person.last_name}}"), Body: body, State: domain.TemplateReady, OwnerID: user, Version: 1, CreatedAt: day, UpdatedAt: day, UpdatedBy: user}
		template.ID = id(s.AddTemplate(ctx, template))
		if got := must[domain.Template](t)(s.Template(ctx, template.ID)); asJSON(t, got) != asJSON(t, template) {
			t.Errorf("template\n%s\n%s", asJSON(t, got), asJSON(t, template))
		}
		template.Name = "Changed"
		if err := s.UpdateTemplate(ctx, template); err != nil {
			t.Fatal(err)
		}
		if err := s.UpdateTemplate(ctx, template); !errors.Is(err, domain.ErrStale) {
			t.Errorf("a template stored twice on one version: %v", err)
		}
	}
	for path, def := range map[string]field.Def{
		"deal.own.volume": {Path: "deal.own.volume", Record: field.Deal, Label: "Volume", Type: field.Number, Own: true},
		"lead.own.fuel":   {Path: "lead.own.fuel", Record: field.Lead, Label: "Fuel", Type: field.Choice, Choices: []string{"gas", "none"}, Own: true},
	} {
		if err := s.AddOwnField(ctx, def); err != nil {
			t.Fatal(path, err)
		}
	}
	if got := must[[]field.Def](t)(s.OwnFields(ctx)); len(got) != 2 || len(got[0].Choices)+len(got[1].Choices) != 2 {
		t.Errorf("own fields %+v", got)
	}
}

func asJSON(t testing.TB, v any) string {
	t.Helper()
	return string(must[[]byte](t)(json.Marshal(v)))
}

func TestStore_notFound(t *testing.T) {
	s, _, _ := desk(t)
	for name, load := range map[string]func() error{
		"user":          func() error { _, err := s.User(ctx, 99); return err },
		"user by email": func() error { _, err := s.UserByEmail(ctx, "x@y.example"); return err },
		"team":          func() error { _, err := s.Team(ctx, 99); return err },
		"person":        func() error { _, err := s.Person(ctx, 99); return err },
		"company":       func() error { _, err := s.Company(ctx, 99); return err },
		"by name":       func() error { _, err := s.CompanyByName(ctx, "none"); return err },
		"deal":          func() error { _, err := s.Deal(ctx, 99); return err },
		"template":      func() error { _, err := s.Template(ctx, 99); return err },
		"letter":        func() error { _, err := s.Letter(ctx, 99); return err },
		"bytes":         func() error { _, err := s.Bytes(ctx, 99); return err },
		"post letter":   func() error { _, err := s.PostLetter(ctx, 99); return err },
		"draft":         func() error { return s.DeleteDraft(ctx, 99, nil) },
	} {
		if err := load(); !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func draft(t testing.TB, s *Store, user, person int64) domain.Letter {
	t.Helper()
	l := domain.Letter{
		PersonID: person, SenderID: user, State: domain.Draft, ToName: "Ada Quill", ToEmail: "ada@quill.example", FromName: "Imre", FromEmail: "imre@fernhollow.example",
		Subject: document.NewPlain("s"), Body: document.NewPlain("b"), SubjectLine: "s", Fixed: domain.Stretches{"b"}, Version: 1, CreatedAt: day, UpdatedAt: day,
	}
	l.ID = must[int64](t)(s.AddLetter(ctx, l))
	return l
}

// Every change of state is guarded by the state before; each row is tried on a
// letter in every state.
func TestMove_guarded(t *testing.T) {
	s, user, person := desk(t)
	states := []domain.LetterState{domain.Draft, domain.Waiting, domain.Sending, domain.Sent, domain.Refused, domain.Unsure, domain.Cancelled}
	for _, from := range states {
		for _, is := range states {
			l := draft(t, s, user, person)
			if is != domain.Draft {
				if moved, err := s.Move(ctx, l.ID, domain.Draft, domain.Change{To: is, At: day}); err != nil || !moved {
					t.Fatal(moved, err)
				}
			}
			moved, err := s.Move(ctx, l.ID, from, domain.Change{To: domain.Waiting, Reason: "why", At: day.Add(time.Hour), Due: &day})
			if err != nil || moved != (from == is) {
				t.Errorf("from %s, a letter that is %s: moved %v, %v", from, is, moved, err)
			}
			got := must[domain.Letter](t)(s.Letter(ctx, l.ID))
			if moved && (got.State != domain.Waiting || got.DueAt == nil) || !moved && got.State != is {
				t.Errorf("from %s, a letter that is %s is now %s", from, is, got.State)
			}
		}
	}
	if _, err := s.Move(ctx, draft(t, s, user, person).ID, domain.Draft, domain.Change{To: "lost", At: day}); err == nil {
		t.Error("a state that does not exist was taken")
	}
}

func TestLetters_draftsAndDue(t *testing.T) {
	s, user, person := desk(t)
	l := draft(t, s, user, person)
	l.Body, l.Fixed = document.NewPlain("changed"), nil
	if err := s.UpdateDraft(ctx, l); err != nil {
		t.Fatal(err)
	}
	if err := s.UpdateDraft(ctx, l); !errors.Is(err, domain.ErrStale) {
		t.Errorf("a draft stored twice on one version: %v", err)
	}
	got := must[domain.Letter](t)(s.Letter(ctx, l.ID))
	if render.RenderText(got.Body) != "changed" || got.Version != 2 || len(got.Fixed) != 0 {
		t.Errorf("%+v", got)
	}
	// Those whose time has come, the oldest first, and the next one.
	var ids []int64
	for _, hours := range []int{2, 1, 5} {
		one := draft(t, s, user, person)
		due := day.Add(time.Duration(hours) * time.Hour)
		if _, err := s.Move(ctx, one.ID, domain.Draft, domain.Change{To: domain.Waiting, At: day, Due: &due}); err != nil {
			t.Fatal(err)
		}
		ids = append(ids, one.ID)
	}
	for _, row := range []struct {
		hours int
		want  string
	}{{0, "[] 1h"}, {1, fmt.Sprintf("[%d] 2h", ids[1])}, {3, fmt.Sprintf("[%d %d] 5h", ids[1], ids[0])}, {6, fmt.Sprintf("[%d %d %d] -", ids[1], ids[0], ids[2])}} {
		due, next, err := s.Due(ctx, day.Add(time.Duration(row.hours)*time.Hour), 9)
		if err != nil {
			t.Fatal(err)
		}
		now := []int64{}
		for _, d := range due {
			now = append(now, d.ID)
		}
		then := "-"
		if next != nil {
			then = fmt.Sprintf("%.0fh", next.Sub(day).Hours())
		}
		if got := fmt.Sprint(now, " ", then); got != row.want {
			t.Errorf("after %d hours: %s, want %s", row.hours, got, row.want)
		}
	}
	if err := s.DeleteDraft(ctx, ids[0], &day); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a letter on its way was thrown away: %v", err)
	}
	if err := s.DeleteDraft(ctx, l.ID, &day); err != nil {
		t.Error(err)
	}
	if rows := must[[]domain.LetterRow](t)(s.Letters(ctx, domain.LettersQuery{SenderID: user, States: []domain.LetterState{domain.Waiting}, Limit: 2})); len(rows) != 2 || rows[0].PersonName != "Ada Quill" {
		t.Errorf("%+v", rows)
	}
}

// What is taken back forgets the bytes that were composed, and the people table
// knows the latest letter that went.
func TestLetters_bytesAndLast(t *testing.T) {
	s, user, person := desk(t)
	l := draft(t, s, user, person)
	move := func(from domain.LetterState, c domain.Change) {
		t.Helper()
		c.At = day
		if moved, err := s.Move(ctx, l.ID, from, c); err != nil || !moved {
			t.Fatal(moved, err)
		}
	}
	move(domain.Draft, domain.Change{To: domain.Waiting})
	if err := s.PutBytes(ctx, l.ID, []byte("bytes")); err != nil {
		t.Fatal(err)
	}
	move(domain.Waiting, domain.Change{To: domain.Draft})
	if _, err := s.Bytes(ctx, l.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("the bytes are still there: %v", err)
	}
	move(domain.Draft, domain.Change{To: domain.Waiting})
	move(domain.Waiting, domain.Change{To: domain.Sending, HandedOver: &day})
	at := day.Add(time.Hour)
	move(domain.Sending, domain.Change{To: domain.Sent, SentAt: &at, Reason: "250 OK"})
	rows, _, err := people(s, ctx, domain.PeopleQuery{Limit: 9, By: filter.Field{Path: "written"}, Down: true})
	if err != nil || rows[0].LastLetter == nil || !rows[0].LastLetter.Equal(at) || rows[0].LastSubject != "s" {
		t.Errorf("%+v, %v", rows, err)
	}
}

func TestHistory_newestFirst(t *testing.T) {
	s, user, person := desk(t)
	for i, kind := range []domain.EntryKind{domain.EntrySent, domain.EntryReplied, domain.EntryBounced} {
		if err := s.AddEntry(ctx, domain.Entry{PersonID: &person, UserID: &user, Kind: kind, Text: fmt.Sprint(i), At: day.Add(time.Duration(i) * time.Minute)}); err != nil {
			t.Fatal(err)
		}
	}
	got := ""
	for _, e := range must[[]domain.Entry](t)(s.History(ctx, domain.HistoryQuery{PersonID: person, Limit: 2, Offset: 0})) {
		got += e.Text + string(e.Kind) + e.By + " "
	}
	if rest := must[[]domain.Entry](t)(s.History(ctx, domain.HistoryQuery{PersonID: person, Limit: 2, Offset: 2})); got != "2bouncedImre Falk 1repliedImre Falk " || len(rest) != 1 || rest[0].Text != "0" {
		t.Errorf("%q, %+v", got, rest)
	}
}

// Everybody, those of one company together, each with the newest open deal.
func TestPeopleWithDeals(t *testing.T) {
	s, _, ada := desk(t)
	id := must[int64](t)
	firm := id(s.AddCompany(ctx, domain.Company{Name: "Quill", CreatedAt: day}))
	bo := id(s.AddPerson(ctx, domain.Person{Kind: field.Contact, FirstName: "Bo", CompanyID: &firm, CreatedAt: day, UpdatedAt: day}))
	for i, stage := range []string{"won", "quoted", "survey"} {
		id(s.AddDeal(ctx, domain.Deal{Name: stage, Stage: stage, MainContactID: &bo, CreatedAt: day.Add(time.Duration(i) * time.Hour)}, nil))
	}
	got := map[int64]string{}
	ids := must[[]int64](t)(s.PeopleIDs(ctx))
	before := must[int64](t)(s.PeopleEdition(ctx))
	for _, p := range must[[]domain.PersonDeal](t)(s.PeopleWithDeals(ctx, append(ids, 9999))) {
		got[p.ID] = "no deal"
		if p.DealID != nil {
			got[p.ID] = must[domain.Deal](t)(s.Deal(ctx, *p.DealID)).Name
		}
	}
	if len(got) != 2 || got[ada] != "no deal" || got[bo] != "survey" {
		t.Errorf("%v", got)
	}
	p := must[domain.Person](t)(s.Person(ctx, ada))
	p.City, p.UpdatedAt = "Leeds", day.Add(time.Hour)
	if err := s.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	if after := must[int64](t)(s.PeopleEdition(ctx)); after <= before {
		t.Errorf("%d and %d", before, after)
	}
}

// A data folder from any earlier state of the program opens.
func TestOpen_earlierStates(t *testing.T) {
	if testing.Short() {
		t.Skip("one thing after another: the race detector has nothing to find here")
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		t.Fatal(err)
	}
	names := must[[]string](t)(fs.Glob(files, "*.sql"))
	for version := 1; version < len(names); version++ {
		folder := t.TempDir()
		db := must[*sql.DB](t)(sql.Open("sqlite", filepath.Join(folder, FileName)))
		p := must[*goose.Provider](t)(goose.NewProvider(goose.DialectSQLite3, db, files))
		if _, err := p.UpTo(ctx, int64(version)); err != nil {
			t.Fatal(err)
		}
		// As the first state wrote them.
		for _, row := range []string{
			`INSERT INTO teams (id, name) VALUES (1, 'North')`,
			`INSERT INTO users (id, email, email_key, password_hash, role, team_id, first_name, last_name) VALUES (1, 'imre@fernhollow.example', 'imre@fernhollow.example', '-', 'representative', 1, 'Imre', 'Falk')`,
			`INSERT INTO people (id, kind, first_name, last_name, email, email_key, sort_name, created_at, updated_at) VALUES (1, 'lead', 'Ada', 'Quill', 'ada@quill.example', 'ada@quill.example', 'quill ada', '2026-03-02 09:00:00+00:00', '2026-03-02 09:00:00+00:00')`,
			`INSERT INTO templates (id, name, subject, body, state, owner_id, created_at, updated_at, updated_by) VALUES (1, 'T', '{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph"}]}', '{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"field","attrs":{"path":"person.first_name","missing":"must"}}]}]}', 'ready', 1, '2026-03-02 09:00:00+00:00', '2026-03-02 09:00:00+00:00', 1)`,
			`INSERT INTO letters (id, person_id, template_id, sender_id, state, to_name, to_email, from_name, from_email, subject, body, created_at, updated_at) VALUES (1, 1, 1, 1, 'draft', 'Ada', 'ada@quill.example', 'Imre', 'imre@fernhollow.example', '{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"text","text":"s"}]}]}', '{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph","content":[{"type":"text","text":"Ada","marks":[{"type":"merged","attrs":{"path":"person.first_name"}}]}]}]}', '2026-03-02 09:00:00+00:00', '2026-03-02 09:00:00+00:00')`,
		} {
			if _, err := db.Exec(row); err != nil {
				t.Fatalf("state %d: %v in %s", version, err, row)
			}
		}
		if err := db.Close(); err != nil {
			t.Fatal(err)
		}
		s := open(t, folder)
		person, err1 := s.Person(ctx, 1)
		team, err2 := s.Team(ctx, 1)
		template, err3 := s.Template(ctx, 1)
		l, err4 := s.Letter(ctx, 1)
		if err := errors.Join(err1, err2, err3, err4, s.Close()); err != nil {
			t.Fatalf("state %d: %v", version, err)
		}
		if person.FirstName != "Ada" || person.SaidRight == nil || team.Language != "" || len(l.Fixed) != 0 || markup.Print(template.Body) != "{{person.first_name}}" || render.RenderText(l.Body) != "Ada" {
			t.Errorf("state %d: %+v %+v %q %+v", version, person, team, markup.Print(template.Body), l)
		}
	}
}
