package store

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/domain"
)

// What of people and deals the program keeps for itself: a change of it is not one of the record.
var kept = map[string][]string{
	"people": {"id", "email_key", "opted_out_at", "created_at", "updated_at", "version", "sort_name", "company_sort", "last_letter_at", "last_subject", "said_right", "untracked", "basis_since", "basis_source"},
	"deals":  {"id", "company_id", "created_at", "zero_given"}, // see TestRecordEvents_amountOfZero
}

// Every column of a record that is not kept for the program is told of when it changes, with what
// it was and what it is, once; written as it was it is not.
func TestRecordEvents_everyColumn(t *testing.T) {
	s := open(t, emptyFolder(t))
	defer func() { _ = s.Close() }()
	ada, bea := add(t, s, "Ada", "Quill", "ada@quill.example", ""), add(t, s, "Bea", "Quill", "bea@quill.example", "")
	run := func(query string, args ...any) {
		t.Helper()
		if _, err := s.DB().Exec(query, args...); err != nil {
			t.Fatalf("%v in %s", err, query)
		}
	}
	run(`INSERT INTO companies (id, name, name_key, created_at) VALUES (7, 'Marrow', 'marrow', ?)`, "2026-03-02 09:00:00+00:00")
	for _, id := range []int{1, 2} {
		run(`INSERT INTO users (id, email, email_key, password_hash, role, team_id, first_name, last_name) VALUES (?, ?, ?, '-', 'representative', NULL, 'A', 'B')`, id, fmt.Sprint("u", id, "@fernhollow.example"), fmt.Sprint("u", id, "@fernhollow.example"))
	}
	deal := must[int64](t)(s.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &bea, Stage: "quoted", Currency: "EUR", CreatedAt: time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)}, nil))
	given := map[string]any{"company_id": 7, "owner_id": 2, "main_contact_id": ada, "amount_minor": 1250, "own": `{"lead.own.x":"2","deal.own.y":"z"}`, "deleted_at": "2026-03-02 10:00:00+00:00"}
	rest := func(after int64) []domain.RecordEvent {
		t.Helper()
		if err := s.DateEvents(ctx, time.Date(2026, 3, 2, 10, 0, 0, 0, time.UTC)); err != nil {
			t.Fatal(err)
		}
		return must[[]domain.RecordEvent](t)(s.RecordEvents(ctx, after, 100))
	}
	last := func() int64 {
		t.Helper()
		event, _, err := s.LastEvents(ctx)
		if err != nil {
			t.Fatal(err)
		}
		return event
	}
	for table, id := range map[string]int64{"people": ada, "deals": deal} {
		var columns []string
		rows, err := s.DB().Query(`SELECT name FROM pragma_table_info(?) ORDER BY name = 'deleted_at'`, table)
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			var name string
			if err := rows.Scan(&name); err != nil {
				t.Fatal(err)
			}
			columns = append(columns, name)
		}
		if err := rows.Close(); err != nil || len(columns) < 10 {
			t.Fatal(columns, err)
		}
		ours := " " + strings.Join(kept[table], " ") + " "
		for _, column := range columns {
			if strings.Contains(ours, " "+column+" ") {
				continue
			}
			before := last()
			value, ok := given[column]
			if !ok {
				value = "other"
				if column == "kind" {
					value = "contact"
				}
			}
			run(`UPDATE `+table+` SET `+column+` = ? WHERE id = ?`, value, id)
			list := rest(before)
			want := 1
			if column == "own" {
				want = 2 // of two own fields
			}
			if len(list) != want {
				t.Errorf("%s.%s: %d events: %+v", table, column, len(list), list)
				continue
			}
			e, asIs := list[0], fmt.Sprint(value)
			who := e.PersonID
			if table == "deals" {
				who = e.DealID
			}
			switch {
			case who == nil || *who != id:
				t.Errorf("%s.%s is of another record: %+v", table, column, e)
			case column == "deleted_at" && e.Kind != "deleted", column != "deleted_at" && (e.Kind != "changed" || e.Path == ""):
				t.Errorf("%s.%s: %+v", table, column, e)
			case column != "deleted_at" && column != "own" && !strings.HasPrefix(e.Value, asIs) && !strings.HasSuffix(e.Value, asIs):
				t.Errorf("%s.%s is told as %q", table, column, e.Value)
			}
			run(`UPDATE `+table+` SET `+column+` = ? WHERE id = ?`, value, id)
			if again := rest(list[len(list)-1].ID); len(again) != 0 {
				t.Errorf("%s.%s as it was is told of: %+v", table, column, again)
			}
		}
	}
	all := rest(0)
	made := 0
	for _, e := range all {
		if e.Kind == "created" {
			made++
		}
	}
	if made != 3 {
		t.Errorf("%d records made: %+v", made, all)
	}
	if err := s.ForgetEvents(ctx, time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	if left := rest(0); len(left) != len(all)-made {
		t.Errorf("%d of %d left", len(left), len(all))
	}
}

// That a deal got an amount of 0, or has none any more, is a change of its amount.
func TestRecordEvents_amountOfZero(t *testing.T) {
	s := open(t, emptyFolder(t))
	defer func() { _ = s.Close() }()
	d := domain.Deal{Name: "A room", Stage: "quoted", Currency: "EUR", CreatedAt: time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)}
	d.ID = must[int64](t)(s.AddDeal(ctx, d, nil))
	var got []string
	for _, zero := range []bool{true, true, false} {
		after, _, err := s.LastEvents(ctx)
		if err != nil {
			t.Fatal(err)
		}
		if d.ZeroGiven = zero; s.UpdateDeal(ctx, d) != nil || s.DateEvents(ctx, d.CreatedAt) != nil {
			t.Fatal("not stored")
		}
		for _, e := range must[[]domain.RecordEvent](t)(s.RecordEvents(ctx, after, 100)) {
			got = append(got, e.Path+": "+e.Was+" > "+e.Value)
		}
	}
	if want := "deal.amount:  > 0 EUR, deal.amount: 0 EUR > "; strings.Join(got, ", ") != want {
		t.Errorf("%q", got)
	}
}
