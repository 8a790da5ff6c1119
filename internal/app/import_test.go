package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/files"
	"lucidletter/internal/testbed"
)

func importCSV(t *testing.T, b *testbed.Bed, csv string, o app.ImportOptions) (app.ImportReport, error) {
	t.Helper()
	table, err := files.OpenCSV(strings.NewReader(csv))
	if err != nil {
		return app.ImportReport{}, err
	}
	return b.App.ImportPeople(context.Background(), b.Rep, table, o)
}

func counts(r app.ImportReport) string {
	return fmt.Sprintf("%d rows %d created %d updated %d same %d refused done %v", r.Rows, r.Created, r.Updated, r.Same, r.Refused, r.Done)
}

func total(t *testing.T, b *testbed.Bed) int {
	t.Helper()
	_, n, err := b.App.People(context.Background(), app.PeopleQuery{})
	if err != nil {
		t.Fatal(err)
	}
	return n
}

func TestImportPeople(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	first := "Name,E-Mail,Position,Company,Town\nAda Quill,ada@quill.example,Owner,Quill Bakery,Harrowmere\nPlato,plato@one.example,,,\n,only@mail.example,,,\n"
	r, err := importCSV(t, b, first, app.ImportOptions{Check: true})
	if got := counts(r); err != nil || got != "3 rows 3 created 0 updated 0 same 0 refused done false" || total(t, b) != 0 {
		t.Fatalf("check: %s, %v, %d people", got, err, total(t, b))
	}
	if r, err = importCSV(t, b, first, app.ImportOptions{}); err != nil || counts(r) != "3 rows 3 created 0 updated 0 same 0 refused done true" {
		t.Fatalf("import: %s, %v", counts(r), err)
	}
	found, err := b.Store.PeopleByEmail(ctx, "ada@quill.example")
	if err != nil || len(found) != 1 {
		t.Fatal(found, err)
	}
	p := found[0]
	if p.FirstName != "Ada" || p.LastName != "Quill" || p.JobTitle != "Owner" || p.CompanyName != "Quill Bakery" || p.City != "Harrowmere" || p.Kind != field.Lead || p.LeadStatus != "new" || *p.OwnerID != b.Rep.ID {
		t.Errorf("%+v", p)
	}
	// Again: nothing changes, but for one cell; empty cells leave what is there.
	r, err = importCSV(t, b, strings.Replace(first, "Plato,plato@one.example,,,", "Plato,PLATO@one.example,Thinker,,", 1), app.ImportOptions{})
	if err != nil || counts(r) != "3 rows 0 created 1 updated 2 same 0 refused done true" {
		t.Errorf("again: %s, %v", counts(r), err)
	}
	if h, err := b.History(ctx, p.ID, 10, 0); err != nil || len(h) != 1 || h[0].Kind != app.EntryImported {
		t.Errorf("history %+v, %v", h, err)
	}
}

func TestImportPeople_refusals(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Bo", "One", "shared@counter.example")
	b.Person(t, "Cy", "Two", "shared@counter.example")
	rows := []struct{ row, why string }{
		{"a@b@c,x,,,,", `person.email: "a@b@c" is not an email address`},
		{"shared@counter.example,x,,,,", "belongs to 2 people, Bo One and Cy Two"},
		{"twice@firm.example,x,,,,", ""},
		{"Twice@firm.example,y,,,,", "stands in line 4 already"},
		{"e@firm.example,\"two\nlines\",,,,", "person.last_name: holds a line break"},
		{"f@firm.example,x,robot,,,", `"robot" is neither lead nor contact`},
		{"g@firm.example,x,lead,Leeds,,", "company.city: belongs to a company; a lead has only company.name"},
		{"h@firm.example,x,contact,Leeds,,", "company.city: cannot be stored without company.name"},
		{"i@firm.example,x,contact,,,2026-02-30", "contact.since: \"2026-02-30\" is not a date"},
		{"j@firm.example,x,lead,,,2026-02-03", "contact.since: belongs to a contact; this is a lead"},
		{"k@firm.example,x,lead,,swimming,", `lead.status: "swimming" is not one of new`},
		{",,,,,", "row: is empty"},
		{",,lead,,new,", "has neither a name nor an address"},
	}
	csv := "Email,Last name,Kind,company.city,lead.status,contact.since\n"
	for _, row := range rows {
		csv += row.row + "\n"
	}
	before := total(t, b)
	r, err := importCSV(t, b, csv, app.ImportOptions{})
	if err != nil || r.Done || total(t, b) != before {
		t.Fatalf("%s, %v", counts(r), err)
	}
	k := 0
	for _, row := range rows {
		if row.why == "" {
			continue
		}
		if k >= len(r.Refusals) || !strings.Contains(r.Refusals[k].Why, row.why) {
			t.Fatalf("%q: refusals %+v", row.row, r.Refusals[min(k, len(r.Refusals)-1):])
		}
		k++
	}
	if k != r.Refused {
		t.Errorf("%d refused, %d expected: %+v", r.Refused, k, r.Refusals)
	}
	if r.Refusals[0].Line != 2 || r.Refusals[len(r.Refusals)-1].Line != 15 {
		t.Errorf("lines %+v", r.Refusals)
	}
	if r, err = importCSV(t, b, csv, app.ImportOptions{SkipRefused: true}); err != nil || !r.Done || total(t, b) != before+1 {
		t.Errorf("skip: %s, %v", counts(r), err)
	}
}

func TestImportPeople_columns(t *testing.T) {
	b := testbed.New(t)
	for _, row := range []struct {
		header  string
		columns map[string]string
		why     string
	}{
		{"Email,Shoe size", nil, `column Shoe size: is not a field`},
		{"Email,company.nam", nil, "map it to company.name"},
		{"Email,Mail", nil, "goes to person.email, and so does Email"},
		{"Town", nil, "has no column for a name or an email"},
		{"Email,deal.amount", nil, "cannot be imported with people"},
		{"Email,X", map[string]string{"X": "person.nose"}, "goes to person.nose, which is not a field"},
		{"Email,X", map[string]string{"X": "-"}, "file: has a header and no rows"},
	} {
		_, err := importCSV(t, b, row.header+"\n", app.ImportOptions{Columns: row.columns})
		var bad *app.InvalidError
		if !errors.As(err, &bad) || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v, want %q", row.header, err, row.why)
		}
	}
}

func TestImportPeople_brokenInTheMiddleKeepsNothing(t *testing.T) {
	b := testbed.New(t)
	_, err := importCSV(t, b, "Email,Name\nada@quill.example,Ada\nbo@firm.example,\"B\"o\n", app.ImportOptions{SkipRefused: true})
	if err == nil || !strings.Contains(err.Error(), "line 3") || total(t, b) != 0 {
		t.Errorf("%v, %d people", err, total(t, b))
	}
}

// 100,000 rows in one transaction; the rows are made as they are read.
func BenchmarkImportPeople(b *testing.B) {
	const rows = 100_000
	for b.Loop() {
		bed := testbed.New(b)
		table := app.Table{Header: []string{"Email", "Name", "Company"}, Rows: func(yield func(app.TableRow, error) bool) {
			for i := range rows {
				cells := []string{fmt.Sprintf("p%d@firm.example", i), fmt.Sprintf("Ada Quill%d", i), "Firm"}
				if !yield(app.TableRow{Line: i + 2, Cells: cells}, nil) {
					return
				}
			}
		}}
		if r, err := bed.App.ImportPeople(context.Background(), bed.Rep, table, app.ImportOptions{}); err != nil || r.Created != rows {
			b.Fatal(counts(r), err)
		}
	}
}
