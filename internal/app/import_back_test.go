package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func otherRep(t *testing.T, b *testbed.Bed) domain.User {
	t.Helper()
	id, err := b.Store.AddUser(context.Background(), domain.User{Email: "celia@fernhollow.example", FirstName: "Celia", Role: "representative", PasswordHash: "-"})
	if err != nil {
		t.Fatal(err)
	}
	celia, err := b.Store.User(context.Background(), id)
	if err != nil {
		t.Fatal(err)
	}
	return celia
}

// things counts everything that an import can make.
func things(t *testing.T, b *testbed.Bed) string {
	t.Helper()
	_, firms, _, err1 := b.App.Records.Companies(context.Background(), records.Asked{}, domain.RecordsQuery{Limit: 1})
	_, deals, _, err2 := b.App.Records.Deals(context.Background(), records.Asked{}, domain.RecordsQuery{Limit: 1})
	if err1 != nil || err2 != nil {
		t.Fatal(err1, err2)
	}
	return fmt.Sprintf("%d people %d companies %d deals", total(t, b), firms, deals)
}

// People, companies and deals of one file: each is made once, found again, updated by what is
// filled, and taken back with its history; what was worked on since stays.
func TestImportPeople_companiesAndDeals(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	file := "First,Last,Email,Company,Industry,Deal,Value,Stage\n" +
		"Ada,Quill,ada@quill.example,Quill Bakery,bakery,Room one,12500 EUR,quoted\n" +
		"Bo,Stone,bo@quill.example,quill  bakery,,Room two,,\n" +
		",,,Harrow Dairy,dairy,,,\n" +
		",,,Harrow Dairy,,Room three,900,\n"
	o := transfer.ImportOptions{Kind: field.Contact, File: "three.csv"}
	o.Check = true
	r, err := importCSV(t, b, file, o)
	if err != nil || r.Created != 2 || r.Companies.Created != 2 || r.Deals.Created != 3 || things(t, b) != "0 people 0 companies 0 deals" {
		t.Fatalf("%+v, %v, %s", r, err, things(t, b))
	}
	o.Check = false
	if r, err = importCSV(t, b, file, o); err != nil || !r.Done || r.ID == 0 || r.Created != 2 || r.Companies.Created != 2 || r.Deals.Created != 3 || things(t, b) != "2 people 2 companies 3 deals" {
		t.Fatalf("%+v, %v, %s", r, err, things(t, b))
	}
	deals, err := b.Store.DealsNamed(ctx, "ROOM ONE")
	if err != nil || len(deals) != 1 || deals[0].AmountMinor != 1250000 || deals[0].Stage != "quoted" || deals[0].MainContactID == nil || deals[0].CompanyID == nil {
		t.Fatalf("%+v, %v", deals, err)
	}
	if r, err = importCSV(t, b, file, o); err != nil || r.Created+r.Updated+r.Companies.Created+r.Companies.Updated+r.Deals.Created+r.Deals.Updated != 0 {
		t.Fatalf("again: %+v, %v", r, err)
	}
	changed := strings.NewReplacer("12500 EUR", "14000 EUR", "bakery,Room one", "Konditorei,Room one", "Bo,", "Bob,").Replace(file)
	o.Check = true
	before, err := importCSV(t, b, changed, o)
	if err != nil {
		t.Fatal(err)
	}
	o.Check = false
	second, err := importCSV(t, b, changed, o)
	if before.Created != second.Created || before.Updated != second.Updated || before.Same != second.Same || before.Companies != second.Companies || before.Deals != second.Deals {
		t.Errorf("told before: %+v\ndone: %+v", before, second)
	}
	if err != nil || second.Updated != 1 || second.Companies.Updated != 1 || second.Deals.Updated != 1 {
		t.Fatalf("%+v, %v", second, err)
	}
	// Somebody corrects a value meanwhile, and another.
	if _, err := b.App.Records.ChangePerson(ctx, b.Rep, *deals[0].MainContactID, 1, map[string]string{"person.city": "York"}); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, deals[0].ID, "deal.amount", "14000.00 EUR", "15000 EUR"); err != nil {
		t.Fatal(err)
	}
	back, err := b.App.Transfer.TakeBack(ctx, b.Rep, second.ID)
	if err != nil || back.TakenBack != 2 || back.KeptAll != 1 || !strings.Contains(back.Kept[0].Why, "Room one: Amount was changed since") {
		t.Fatalf("%+v, %v", back, err)
	}
	if bo, err := b.Store.PeopleByEmail(ctx, "bo@quill.example"); err != nil || bo[0].FirstName != "Bo" {
		t.Errorf("%+v, %v", bo, err)
	}
	if c, err := b.Store.CompanyByName(ctx, "Quill Bakery"); err != nil || c.Industry != "bakery" {
		t.Errorf("%+v, %v", c, err)
	}
	lines, err := b.App.Transfer.Imports(ctx, b.Lead)
	if err != nil || len(lines) != 3 || lines[0].State != domain.ImportTakenBack || lines[0].MayUndo || lines[1].MayUndo || !lines[2].MayUndo || lines[2].File != "three.csv" || lines[2].Mine {
		t.Fatalf("%+v, %v", lines, err)
	}
	// The first one: Ada was changed and has the deal that was changed, so that they stay with their company.
	back, err = b.App.Transfer.TakeBack(ctx, b.Lead, lines[2].ID)
	if err != nil || back.KeptAll != 3 || things(t, b) != "1 people 1 companies 1 deals" {
		t.Fatalf("%+v, %v, %s", back, err, things(t, b))
	}
	if _, err = b.App.Transfer.TakeBack(ctx, b.Rep, lines[2].ID); err == nil {
		t.Error("taken back twice")
	}
}

// A long import is taken back in steps, also by a program that is ended between them.
func TestTakeBack_long(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	b.Person(t, "Ada", "Quill", "bo0@quill.example")
	r, err := importCSV(t, b, manyRows(450, "Adah"), transfer.ImportOptions{Kind: "lead"})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Transfer.TakeBack(ctx, b.Rep, r.ID); err == nil {
		t.Error("an import that is being written was taken back")
	}
	if err := b.App.Transfer.WriteImports(ctx); err != nil {
		t.Fatal(err)
	}
	if r, err = b.App.Transfer.TakeBack(ctx, b.Rep, r.ID); err != nil || !r.Running || total(t, b) != 450 {
		t.Fatalf("%+v, %v", r, err)
	}
	for steps := 1; ; steps++ {
		ended := &endsAfter{Context: ctx}
		ended.left.Store(2)
		if err := b.App.Transfer.WriteImports(ended); err == nil {
			break
		} else if !errors.Is(err, context.Canceled) || steps > 10 {
			t.Fatal(steps, err)
		}
	}
	if r, err = b.App.Transfer.Import(ctx, b.Rep, r.ID); err != nil || !r.Done || r.TakenBack != 450 || r.KeptAll != 0 || total(t, b) != 1 {
		t.Fatalf("%+v, %v, %d people", r, err, total(t, b))
	}
	if ada, err := b.Store.PeopleByEmail(ctx, "bo0@quill.example"); err != nil || ada[0].FirstName != "Ada" || ada[0].CompanyName != "" || ada[0].City != "" {
		t.Errorf("%+v, %v", ada, err)
	}
}

// Where somebody put a column they find it the next time; others do not. Columns of unknown
// names are told by what stands in them, and two of one name apart.
func TestImportPeople_columnsRemembered(t *testing.T) {
	b := testbed.New(t)
	file := "Kontakt X,Wer,Weg,Wer\nada@quill.example,Ada Quill,Phone,x\nbo@quill.example,Bo Stone,Letter,y\n"
	r, err := importCSV(t, b, file, transfer.ImportOptions{Check: true})
	if err != nil || r.Columns[0].Path != "person.email" || r.Columns[0].How != "contents" || r.Columns[1].Problem == "" || r.Columns[3].Header != "Wer (2)" || r.Columns[0].Example != "ada@quill.example" {
		t.Fatalf("%+v, %v", r.Columns, err)
	}
	o := transfer.ImportOptions{Columns: map[string]string{"Wer": "person.full_name", "Weg": "lead.source", "Wer (2)": "-"}}
	if r, err = importCSV(t, b, file, o); err != nil || r.Created != 2 {
		t.Fatalf("%+v, %v", r, err)
	}
	r, err = importCSV(t, b, "WEG,Email,Wer\nPost,cy@quill.example,Cy Reed\n", transfer.ImportOptions{Check: true})
	if err != nil || r.Columns[0].Path != "lead.source" || r.Columns[0].How != "before" || r.Columns[2].Path != "-" && r.Columns[2].Path != "" {
		t.Errorf("%+v, %v", r.Columns, err)
	}
	b.Rep = otherRep(t, b)
	if r, err = importCSV(t, b, "WEG,Email\nPost,cy@quill.example\n", transfer.ImportOptions{Check: true}); err != nil || r.Columns[0].Problem == "" {
		t.Errorf("another one’s columns: %+v, %v", r.Columns, err)
	}
}

// What is untidy is told with examples, and tidied only when somebody says so.
func TestImportPeople_tidied(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	file := "First,Last,Email,Phone,Country,Job title\nADA,QUILL,ada@quill.example,020 7946 0018,UK,n/a\nBo,Stone ,bo@quill.example,,Germany,Head  of   cold\n"
	r, err := importCSV(t, b, file, transfer.ImportOptions{Check: true})
	counts := map[field.Tidying]int{}
	for _, one := range r.Tidyings {
		counts[one.How] = one.Count
	}
	if err != nil || counts[field.TidyCapitals] != 2 || counts[field.TidyPhones] != 1 || counts[field.TidyCountry] != 1 || counts[field.TidyJunk] != 1 || counts[field.TidySpaces] != 1 {
		t.Fatalf("%v, %v", counts, err)
	}
	if r.Tidyings[0].Examples[0] != (domain.TidiedValue{Line: 2, Label: "First name", Was: "ADA", Now: "Ada"}) {
		t.Errorf("%+v", r.Tidyings[0])
	}
	if _, err = importCSV(t, b, file, transfer.ImportOptions{Tidy: []field.Tidying{field.TidyCapitals, field.TidyCountry, field.TidySpaces, field.TidyPhones}}); err != nil {
		t.Fatal(err)
	}
	ada, err := b.Store.PeopleByEmail(ctx, "ada@quill.example")
	if err != nil || ada[0].FirstName != "Ada" || ada[0].Country != "United Kingdom" || ada[0].Phone != "+44 20 7946 0018" || ada[0].JobTitle != "n/a" {
		t.Errorf("%+v, %v", ada, err)
	}
	if bo, err := b.Store.PeopleByEmail(ctx, "bo@quill.example"); err != nil || bo[0].JobTitle != "Head of cold" || bo[0].LastName != "Stone" {
		t.Errorf("%+v, %v", bo, err)
	}
}

// Who got a letter since is not taken away with the import that brought them.
func TestTakeBack_writtenTo(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	r, err := importCSV(t, b, "First,Last,Email\nAda,Quill,ada@quill.example\nBo,Stone,bo@quill.example\n", transfer.ImportOptions{})
	if err != nil {
		t.Fatal(err)
	}
	ada, err := b.Store.PeopleByEmail(ctx, "ada@quill.example")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.StartLetter(ctx, b.Rep, ada[0].ID, nil, nil); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	if r, err = b.App.Transfer.TakeBack(ctx, b.Rep, r.ID); err != nil || r.TakenBack != 1 || r.KeptAll != 1 || !strings.HasPrefix(r.Kept[0].Why, "Ada Quill has a letter") || total(t, b) != 1 {
		t.Errorf("%+v, %v", r, err)
	}
}

// What a whole file or a column can have wrong is said, and nothing is stored of it.
func TestImportPeople_badFiles(t *testing.T) {
	b := testbed.New(t)
	if err := b.App.Records.NewOwnField(context.Background(), b.Lead, field.Def{Path: "person.own.seen", Label: "Seen", Type: field.Date}); err != nil {
		t.Fatal(err)
	}
	for _, row := range []struct {
		file, want string
		columns    map[string]string
	}{
		{"Email,Seen\nada@quill.example,blue\n", "Seen", nil},                                                                     // a value of another type
		{"Email,Colour\nada@quill.example,blue\n", "Colour", map[string]string{"Colour": "person.own.seen"}},                      // a column that was put on a wrong field
		{"Email,Seen\nada@quill.example,2026-02-30\n", "Seen", nil},                                                               // a day that there is not
		{"Email,Last\nada@quill.example,x\x00y\n", "not a text file", nil},                                                        // a zero
		{"Email,Last\nada@quill.example," + strings.Repeat("ä", 600) + "\n", "Last", nil},                                         // too long by its bytes
		{"Email,Email\nada@quill.example,bo@quill.example\n", "goes to person.email, and so does Email", nil},                     // a header twice
		{"Email,Last\n", "has a header and no rows", nil},                                                                         // no rows
		{"Email,Gone\nada@quill.example,1\n", "not a field", map[string]string{"Gone": "person.own.gone"}},                        // a field that was deleted
		{"Email,Last\n\"ada@quill.example,x\n", "a quote is not closed", nil},                                                     // broken
		{"Company,City\n,York\n", "has no name", map[string]string{"City": "company.city"}},                                       // nothing to call it by
		{"Deal,Company,Value\nRoom,Quill,1\nroom,QUILL,2\n", "stands in a row before", nil},                                       // a deal twice
		{"Email,Website,Company,Kind\nada@quill.example,x.example,Q,lead\n", "", map[string]string{"Website": "company.website"}}, // of a lead
	} {
		r, err := importCSV(t, b, row.file, transfer.ImportOptions{Columns: row.columns})
		got := ""
		if err != nil {
			got = err.Error()
		} else if len(r.Refusals) > 0 {
			got = fmt.Sprintf("line %d %s", r.Refusals[0].Line, r.Refusals[0].Why)
		}
		if got == "" || !strings.Contains(got, row.want) || r.Done || things(t, b) != "0 people 0 companies 0 deals" {
			t.Errorf("%.40q: %q, want %q; %s", row.file, got, row.want, things(t, b))
		}
	}
	if lines, err := b.App.Transfer.Imports(context.Background(), b.Rep); err != nil || len(lines) != 0 {
		t.Errorf("%+v, %v", lines, err)
	}
}

// An import of an earlier version is listed, with nothing to take back.
func TestImports_ofBefore(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	if _, err := b.Store.DB().Exec(`INSERT INTO imports (user_id, state, report, created_at) VALUES (?, 'done', '{"created":2,"done":true}', ?)`, b.Rep.ID, b.Now()); err != nil {
		t.Fatal(err)
	}
	lines, err := b.App.Transfer.Imports(ctx, b.Rep)
	if err != nil || len(lines) != 1 || lines[0].MayUndo || lines[0].Report.Created != 2 || lines[0].Report.Kept == nil || lines[0].Report.Tidyings == nil || lines[0].Report.Refusals == nil {
		t.Fatalf("%+v, %v", lines, err)
	}
	if _, err := b.App.Transfer.TakeBack(ctx, b.Rep, lines[0].ID); !errors.Is(err, domain.ErrState) {
		t.Errorf("it was taken back: %v", err)
	}
}

// Somebody new at a company whose deal has the same name gets a deal of their own: it is not
// taken for the one of a colleague, and not lost.
func TestImportPeople_dealOfAColleague(t *testing.T) {
	b := testbed.New(t)
	o := transfer.ImportOptions{Kind: field.Contact}
	for i, name := range []string{"Ada", "Bo"} {
		r, err := importCSV(t, b, fmt.Sprintf("First,Email,Company,Deal,Value\n%s,%s@quill.example,Quill,Room,900 EUR\n", name, name), o)
		if err != nil || r.Created != 1 || r.Deals.Created != 1 || things(t, b) != fmt.Sprintf("%d people 1 companies %d deals", i+1, i+1) {
			t.Errorf("%+v, %v, %s", r, err, things(t, b))
		}
	}
}

// A row that is refused for its deal counts for nothing, and its company is made by the next.
func TestImportPeople_refusedRowCountsNothing(t *testing.T) {
	b := testbed.New(t)
	file := "First,Email,Company,Deal,Stage\nAda,ada@quill.example,Quill,Room,dreaming\n"
	o := transfer.ImportOptions{Kind: field.Contact, Check: true}
	if r, err := importCSV(t, b, file, o); err != nil || r.Refused != 1 || r.Companies.Created != 0 {
		t.Errorf("%+v, %v", r, err)
	}
	if r, err := importCSV(t, b, file+"Bo,bo@quill.example,Quill,Room,quoted\n", o); err != nil || r.Refused != 1 || r.Companies.Created != 1 || r.Deals.Created != 1 {
		t.Errorf("%+v, %v", r, err)
	}
}

// Undoing an import keeps whatever anybody worked on since, and names it.
func TestTakeBack_keepsWhatWasWorkedOn(t *testing.T) {
	for name, work := range map[string]func(t *testing.T, b *testbed.Bed, person, company, deal int64){
		"a stage": func(t *testing.T, b *testbed.Bed, _, _, deal int64) {
			if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Deal, deal, "deal.stage", "first talk", "quoted"); err != nil {
				t.Fatal(err)
			}
		},
		"a website": func(t *testing.T, b *testbed.Bed, _, company, _ int64) {
			if err := b.App.Records.ChangeRecord(ctx, b.Rep, field.Company, company, "company.website", "", "https://quill.example"); err != nil {
				t.Fatal(err)
			}
		},
		"a call": func(t *testing.T, b *testbed.Bed, person, _, _ int64) {
			if err := b.Store.AddEntry(ctx, domain.Entry{PersonID: &person, UserID: &b.Rep.ID, Kind: domain.EntryCall, Text: "Asked for a quote", At: b.Now()}); err != nil {
				t.Fatal(err)
			}
		},
		"a plan": func(t *testing.T, b *testbed.Bed, person, _, _ int64) {
			startPlan(t, b, readyPlan(t, b, "P", callStep(9, "Call")).ID, person)
		},
		"a round": func(t *testing.T, b *testbed.Bed, person, _, _ int64) {
			startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), person)
		},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			noGrounds(t, b)
			r, err := importCSV(t, b, "First,Last,Email,Kind,Company,Deal,Deal stage\nAda,Quill,ada@quill.example,contact,Quill Bakery,Room one,first talk", transfer.ImportOptions{})
			if err != nil || !r.Done {
				t.Fatal(r, err)
			}
			people, err := b.Store.PeopleByEmail(ctx, "ada@quill.example")
			if err != nil || len(people) != 1 || people[0].CompanyID == nil {
				t.Fatal(people, err)
			}
			deals, err := b.Store.DealsOf(ctx, people[0].ID)
			if err != nil || len(deals) != 1 {
				t.Fatal(deals, err)
			}
			b.Pass(time.Hour)
			work(t, b, people[0].ID, *people[0].CompanyID, deals[0].ID)
			back, err := b.App.Transfer.TakeBack(ctx, b.Rep, r.ID)
			if err != nil || back.KeptAll == 0 || len(back.Kept) == 0 {
				t.Errorf("%+v, %v", back, err)
			}
		})
	}
}
