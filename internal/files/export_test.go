package files

import (
	"bytes"
	"encoding/csv"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-vcard"

	"lucidletter/core/field"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
)

func exported(values map[string]string, p domain.Person) transfer.ExportedPerson {
	return transfer.ExportedPerson{Person: p, Owner: "Imre Falk", Values: values}
}

// What is written is read as it was, also by a reader of RFC 4180 that is not ours; what a
// spreadsheet would run stands behind an apostrophe.
func TestPeopleCSV(t *testing.T) {
	columns := []transfer.ExportColumn{{Path: "person.last_name", Name: "Last name"}, {Path: "person.phone", Name: "Phone"}, {Path: "person.own.note", Name: "Note"}}
	var people []transfer.ExportedPerson
	cells := []string{"=HYPERLINK(\"http://x.example\")", "+44 20 7946 0155", "-5.5", "@SUM(1)", "-cmd|' /C calc'!A0", "O'Neil, \"the\" room", "line\nbreak", "'tis", "\tx", "Zoë 👩‍🚀", "+1+cmd", "＝SUM(1)", "＠x"}
	for _, c := range cells {
		people = append(people, exported(map[string]string{"person.last_name": c, "person.phone": "+44", "person.own.note": ""}, domain.Person{Kind: field.Lead}))
	}
	var out bytes.Buffer
	safe, err := PeopleCSV(&out, columns, eachOf(people))
	raw := out.Bytes()
	if err != nil || safe != 7 {
		t.Fatalf("%d made safe, %v", safe, err)
	}
	rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(raw, []byte("\uFEFF")))).ReadAll()
	if err != nil || len(rows) != len(cells)+1 || strings.Join(rows[0], "|") != "Kind|Last name|Phone|Note|Owner" {
		t.Fatalf("%v, %v", rows, err)
	}
	table, err := OpenCSV(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	i := 0
	for row, err := range table.Rows {
		if err != nil || row.Err != nil {
			t.Fatal(err, row.Err)
		}
		if row.Cells[1] != cells[i] {
			t.Errorf("%q came back as %q", cells[i], row.Cells[1])
		}
		if raw := rows[i+1][1]; runs.MatchString(raw) && !figure.MatchString(raw) {
			t.Errorf("%q would be run", raw)
		}
		i++
	}
}

func eachOf(people []transfer.ExportedPerson) EachPerson {
	return func(f func(*transfer.ExportedPerson) error) error {
		for i := range people {
			if err := f(&people[i]); err != nil {
				return err
			}
		}
		return nil
	}
}

func TestPeopleVCard(t *testing.T) {
	now := time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)
	people := []transfer.ExportedPerson{
		exported(map[string]string{"company.name": "Quill; Sons, Ltd\r\nBCC:x"}, domain.Person{Kind: field.Contact, Honorific: "Ms", FirstName: "Ada", LastName: "Qu;ill", Email: "ada@quill.example", Phone: "+44 20 7946 0155", JobTitle: "Owner, \\ founder", City: "York", Country: "GB", Language: "en-GB", TimeZone: "Europe/London"}),
		exported(map[string]string{"lead.status": "new"}, domain.Person{Kind: field.Lead, Email: "bo@stone.example"}),
	}
	var out bytes.Buffer
	if err := PeopleVCard(&out, eachOf(people), now); err != nil {
		t.Fatal(err)
	}
	dec := vcard.NewDecoder(&out)
	one, err := dec.Decode()
	if err != nil || one.Value(vcard.FieldVersion) != "4.0" || one.Value(vcard.FieldFormattedName) != "Ada Qu;ill" || one.Name().FamilyName != "Qu,ill" || one.Name().GivenName != "Ada" || one.Value(vcard.FieldOrganization) != "Quill, Sons, Ltd BCC:x" ||
		one.Value(vcard.FieldTitle) != "Owner, \\ founder" || one.Address().Locality != "York" || one.Value(vcard.FieldEmail) != "ada@quill.example" {
		t.Errorf("%v, %v", one, err)
	}
	two, err := dec.Decode()
	// RFC 6350 section 6.2.1: FN must stand in every card.
	if err != nil || two.Value(vcard.FieldFormattedName) != "bo@stone.example" || two.Value(vcard.FieldCategories) != "new" {
		t.Errorf("%v, %v", two, err)
	}
}
