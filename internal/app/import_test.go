package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
	"lucidletter/internal/files"
	"lucidletter/internal/testbed"
)

func importCSV(t *testing.T, b *testbed.Bed, csv string, o transfer.ImportOptions) (domain.ImportReport, error) {
	t.Helper()
	table, err := files.OpenCSV(strings.NewReader(csv))
	if err != nil {
		return domain.ImportReport{}, err
	}
	return b.App.Transfer.ImportPeople(context.Background(), b.Rep, table, o)
}

func counts(r domain.ImportReport) string {
	return fmt.Sprintf("%d rows %d created %d updated %d same %d refused done %v", r.Rows, r.Created, r.Updated, r.Same, r.Refused, r.Done)
}

func total(t *testing.T, b *testbed.Bed) int {
	t.Helper()
	_, n, err := people(b, context.Background(), domain.PeopleQuery{Limit: 1})
	if err != nil {
		t.Fatal(err)
	}
	return n
}

func TestImportPeople(t *testing.T) {
	b := testbed.New(t)
	ctx := context.Background()
	first := "Name,E-Mail,Position,Company,Town\nAda Quill,ada@quill.example,Owner,Quill Bakery,Harrowmere\nPlato,plato@one.example,,,\n,only@mail.example,,,\n"
	r, err := importCSV(t, b, first, transfer.ImportOptions{Check: true})
	if got := counts(r); err != nil || got != "3 rows 3 created 0 updated 0 same 0 refused done false" || total(t, b) != 0 {
		t.Fatalf("check: %s, %v, %d people", got, err, total(t, b))
	}
	if r, err = importCSV(t, b, first, transfer.ImportOptions{}); err != nil || counts(r) != "3 rows 3 created 0 updated 0 same 0 refused done true" {
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
	r, err = importCSV(t, b, strings.Replace(first, "Plato,plato@one.example,,,", "Plato,PLATO@one.example,Thinker,,", 1), transfer.ImportOptions{})
	if err != nil || counts(r) != "3 rows 0 created 1 updated 2 same 0 refused done true" {
		t.Errorf("again: %s, %v", counts(r), err)
	}
	if h, err := b.History(ctx, p.ID, 10, 0); err != nil || len(h) != 1 || h[0].Kind != domain.EntryImported {
		t.Errorf("history %+v, %v", h, err)
	}
}

func TestImportPeople_refusals(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Bo", "One", "shared@counter.example")
	b.Person(t, "Cy", "Two", "shared@counter.example")
	rows := []struct{ row, why string }{
		{"a@b@c,x,,,,", `Email: "a@b@c" is not an email address`},
		{"twice@firm.example,x,,,,", ""},
		{"Twice@firm.example,x,,,,", "stands in line 3 already, with the same name"},
		{"e@firm.example,\"two\nlines\",,,,", "Last name: holds a line break"},
		{"f@firm.example,x,robot,,,", `"robot" is neither lead nor contact`},
		{"g@firm.example,x,lead,Leeds,,", "company.city: belongs to a company; a lead has only company.name"},
		{"h@firm.example,x,contact,Leeds,,", "company.city: belongs to a company, and the row names none"},
		{"i@firm.example,x,contact,,,2026-02-30", "contact.since: \"2026-02-30\" is not a date"},
		{"j@firm.example,x,lead,,,2026-02-03", "contact.since: belongs to a contact; this is a lead"},
		{"k@firm.example,x,lead,,swimming,", `lead.status: "swimming" is not one of new`},
		{",,,,,", ""},
		{",,lead,,new,", "has neither a name nor an address"},
	}
	csv := "Email,Last name,Kind,company.city,lead.status,contact.since\n"
	for _, row := range rows {
		csv += row.row + "\n"
	}
	before := total(t, b)
	r, err := importCSV(t, b, csv, transfer.ImportOptions{})
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
	if r.Refusals[0].Line != 2 || r.Refusals[len(r.Refusals)-1].Line != 14 {
		t.Errorf("lines %+v", r.Refusals)
	}
	if r, err = importCSV(t, b, csv, transfer.ImportOptions{SkipRefused: true}); err != nil || !r.Done || total(t, b) != before+1 {
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
		{"Email,sender.email", nil, "cannot be imported with people"},
		{"Email,X", map[string]string{"X": "person.nose"}, "goes to person.nose, which is not a field"},
		{"Email,X", map[string]string{"X": "-"}, "file: has a header and no rows"},
	} {
		_, err := importCSV(t, b, row.header+"\n", transfer.ImportOptions{Columns: row.columns})
		var bad *domain.InvalidError
		if !errors.As(err, &bad) || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v, want %q", row.header, err, row.why)
		}
	}
}

func TestImportPeople_brokenInTheMiddleKeepsNothing(t *testing.T) {
	b := testbed.New(t)
	_, err := importCSV(t, b, "Email,Name\nada@quill.example,Ada\nbo@firm.example,\"B\"o\n", transfer.ImportOptions{SkipRefused: true})
	if err == nil || !strings.Contains(err.Error(), "line 3") || total(t, b) != 0 {
		t.Errorf("%v, %d people", err, total(t, b))
	}
}

// 100,000 rows in one transaction; the rows are made as they are read.
func BenchmarkImportPeople(b *testing.B) {
	const rows = 100_000
	for b.Loop() {
		bed := testbed.New(b)
		table := transfer.Table{Header: []string{"Email", "Name", "Company"}, Rows: func(yield func(transfer.TableRow, error) bool) {
			for i := range rows {
				cells := []string{fmt.Sprintf("p%d@firm.example", i), fmt.Sprintf("Ada Quill%d", i), "Firm"}
				if !yield(transfer.TableRow{Line: i + 2, Cells: cells}, nil) {
					return
				}
			}
		}}
		if r, err := bed.App.Transfer.ImportPeople(context.Background(), bed.Rep, table, transfer.ImportOptions{}); err != nil || r.Created != rows {
			b.Fatal(counts(r), err)
		}
	}
}

// The file that people really have: headers as other programs and other languages write
// them, empty columns and rows at the end, decimal commas, days first.
func TestImportPeople_asPeopleHaveIt(t *testing.T) {
	for header, want := range map[string]string{
		"First;Last;E-mail address;Job":                        "person.first_name person.last_name person.email person.job_title",
		"First Name,Last Name,E-mail 1 - Value,Work phone":     "person.first_name person.last_name person.email person.phone",
		"Vorname;Nachname;E-Mail-Adresse;Firma;Ort;PLZ":        "person.first_name person.last_name person.email company.name person.city company.postal_code",
		"Prénom;Nom;Courriel;Société;Ville;Téléphone":          "person.first_name person.last_name person.email company.name person.city person.phone",
		"Nom;Adresse e-mail":                                   "person.full_name person.email",
		"Nombre;Apellidos;Correo electrónico;Empresa;País":     "person.first_name person.last_name person.email company.name person.country",
		"Nome;Cognome;Indirizzo email;Azienda;Ruolo":           "person.first_name person.last_name person.email company.name person.job_title",
		"Nome;Sobrenome;E-mail;Empresa;Cargo":                  "person.first_name person.last_name person.email company.name person.job_title",
		"Voornaam;Achternaam;E-mailadres;Bedrijf;Plaats":       "person.first_name person.last_name person.email company.name person.city",
		"Förnamn;Efternamn;E-post;Företag;Ort":                 "person.first_name person.last_name person.email company.name person.city",
		"Imię;Nazwisko;Adres e-mail;Firma;Stanowisko":          "person.first_name person.last_name person.email company.name person.job_title",
		"Křestní jméno;Příjmení;E-mail;Společnost;Město":       "person.first_name person.last_name person.email company.name person.city",
		"Ad;Soyad;E-posta;Şirket;Şehir":                        "person.first_name person.last_name person.email company.name person.city",
		"Имя;Фамилия;Электронная почта;Компания;Город":         "person.first_name person.last_name person.email company.name person.city",
		"Όνομα;Επώνυμο;Email;Εταιρεία;Πόλη":                    "person.first_name person.last_name person.email company.name person.city",
		"名,姓,メールアドレス,会社名,電話番号":                                 "person.first_name person.last_name person.email company.name person.phone",
		"الاسم الأول,اسم العائلة,البريد الإلكتروني,الشركة":     "person.first_name person.last_name person.email company.name",
		"Contact First Name,Contact Last Name,Work Email,Firm": "person.first_name person.last_name person.email company.name",
	} {
		b := testbed.New(t)
		sep := ","
		if strings.Contains(header, ";") {
			sep = ";"
		}
		row := strings.Repeat("x"+sep, strings.Count(header, sep)+1)
		r, err := importCSV(t, b, header+sep+sep+"\n"+row+sep+"\n"+strings.Repeat(sep, 8)+"\n", transfer.ImportOptions{Check: true})
		var got []string
		for _, c := range r.Columns {
			got = append(got, c.Path+c.Problem)
		}
		if strings.Join(got, " ") != want || err != nil || r.Rows != 1 {
			t.Errorf("%s:\n%s, %d rows, %v", header, strings.Join(got, " "), r.Rows, err)
		}
	}
}

func TestImportPeople_numbersAndDays(t *testing.T) {
	for file, want := range map[string]string{
		"Email;Volume;Seen\na@x.example;1.250,5;3.12.2026\n":                                    "1250.5 2026-12-03",
		"Email;Volume;Seen\na@x.example;1.250;03.12.2026\n":                                     "1250 2026-12-03",
		"Email,Volume,Seen\na@x.example,\"1,250.5\",2026-12-03\n":                               "1250.5 2026-12-03",
		"Email,Volume,Seen\na@x.example,\"1,250\",12/03/2026\nb@x.example,1,12/31/2026\n":       "1250 2026-12-03",
		"Email,Volume,Seen\na@x.example,\"1,250\",03/12/2026\nb@x.example,\"2,5\",31/12/2026\n": "1.250 2026-12-03",
		"Email,Volume,Seen\na@x.example,12.5,03/12/2026\n":                                      "Seen: \"03/12/2026\" can be read as two dates",
	} {
		b := testbed.New(t)
		for _, d := range []field.Def{{Path: "person.own.volume", Label: "Volume", Type: field.Number}, {Path: "person.own.seen", Label: "Seen", Type: field.Date}} {
			if err := b.App.Records.NewOwnField(context.Background(), b.Lead, d); err != nil {
				t.Fatal(err)
			}
		}
		r, err := importCSV(t, b, file, transfer.ImportOptions{})
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		if found, err := b.Store.PeopleByEmail(context.Background(), "a@x.example"); err == nil && len(found) == 1 {
			got = found[0].Own["person.own.volume"] + " " + found[0].Own["person.own.seen"]
		} else if len(r.Refusals) > 0 {
			got = r.Refusals[0].Why
		}
		if !strings.HasPrefix(got, want) {
			t.Errorf("%q: %q, want %q", file, got, want)
		}
	}
}

// An address of two people, or of two rows, is asked about; the name settles it where
// it can.
func TestImportPeople_sharedAddress(t *testing.T) {
	b := testbed.New(t)
	bo, cy := b.Person(t, "Bo", "One", "shared@counter.example"), b.Person(t, "Cy", "Two", "shared@counter.example")
	csv := "Email,First name,Last name,Town\nshared@counter.example,Cy,Two,Leeds\nshared@counter.example,Di,Three,Ely\ninfo@firm.example,Ed,Four,\ninfo@firm.example,Flo,Five,\n"
	r, err := importCSV(t, b, csv, transfer.ImportOptions{})
	if err != nil || r.Done || r.Asked != 2 || len(r.Asks) != 2 || r.Updated != 1 || r.Created != 1 {
		t.Fatalf("%s: %+v, %v", counts(r), r.Asks, err)
	}
	if a := r.Asks[0]; a.Line != 3 || a.Who != "Di Three" || len(a.People) != 2 || a.People[0].ID != bo {
		t.Errorf("%+v", a)
	}
	if a := r.Asks[1]; a.Line != 5 || len(a.People) != 0 || !strings.Contains(a.Why, "line 4") {
		t.Errorf("%+v", a)
	}
	answers := map[string]string{r.Asks[0].Key: fmt.Sprint(bo), r.Asks[1].Key: transfer.AsNew}
	if r, err = importCSV(t, b, csv, transfer.ImportOptions{Answers: answers}); err != nil || !r.Done || r.Asked != 0 || counts(r) != "4 rows 2 created 2 updated 0 same 0 refused done true" {
		t.Fatalf("%s: %+v, %v", counts(r), r, err)
	}
	for id, want := range map[int64]string{bo: "Di Three Ely", cy: "Cy Two Leeds"} {
		p, err := b.Store.Person(context.Background(), id)
		if got := p.Name() + " " + p.City; err != nil || got != want {
			t.Errorf("%d is %q, want %q, %v", id, got, want, err)
		}
	}
	again := "Email,Last name\nshared@counter.example,Nobody\n"
	if r, err = importCSV(t, b, again, transfer.ImportOptions{Answers: map[string]string{"shared@counter.example": transfer.LeaveOut}}); err != nil || r.Skipped != 1 || !r.Done {
		t.Errorf("left out: %+v, %v", r, err)
	}
	if r, err = importCSV(t, b, again, transfer.ImportOptions{Answers: map[string]string{"shared@counter.example": "99999"}}); err != nil || r.Refused != 1 || r.Done {
		t.Errorf("somebody else's number: %+v, %v", r, err)
	}
}

// A street in a file of leads is left out, and that is said.
func TestImportPeople_leadsHaveNoStreet(t *testing.T) {
	b := testbed.New(t)
	r, err := importCSV(t, b, "Email,Address\na@x.example,1 Mill Lane\n", transfer.ImportOptions{})
	if err != nil || !r.Done || r.Columns[1].Left != 1 {
		t.Errorf("%+v, %v", r, err)
	}
}

// A row with the address of somebody who has another name asks; the history names what a file
// changed, with what it was.
func TestImport_neverAnotherPerson(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for row, asked := range map[string]int{
		"Bruno,Stone,ada@quill.example,Hull":     1,
		"ADA,quill,ada@quill.example,Hull":       0,
		"Ada,Stone-Quill,ada@quill.example,Hull": 0, // married
		"A.,Quill,ada@quill.example,Hull":        0,
		",,ada@quill.example,Hull":               0,
		"n/a,n/a,ada@quill.example,Hull":         0,
		"Bruno,,ada@quill.example,Hull":          1,
		"Quill,Ada,ada@quill.example,Hull":       0, // the columns were swapped
	} {
		r, err := importCSV(t, b, "First,Last,Email,City\n"+row, transfer.ImportOptions{Check: true})
		if err != nil || r.Asked != asked {
			t.Errorf("%s: %d asked, %v", row, r.Asked, err)
		}
	}
	put(t, b, ada, "person.city", "York")
	if _, err := importCSV(t, b, "First,Last,Email,City\nAda,Quill,ada@quill.example,Hull", transfer.ImportOptions{}); err != nil {
		t.Fatal(err)
	}
	if got := events(t, b, ada); !strings.Contains(got, "updated from a file: City: York → Hull") {
		t.Error(got)
	}
}
