package files

import (
	"cmp"
	"encoding/csv"
	"io"
	"regexp"
	"strings"
	"time"

	"github.com/emersion/go-vcard"

	"lucidletter/core/field"
	"lucidletter/internal/app/transfer"
)

// runs tells what a spreadsheet would run when it opens a file (common practice, no source);
// a number or a telephone number that begins with a sign is none.
var runs, figure = regexp.MustCompile("^[=+\\-@\t\r＝＋－＠]"), regexp.MustCompile(`^[+-][0-9 ().,/-]*$`)

// MadeSafe puts an apostrophe before what a spreadsheet would run as a formula.
func MadeSafe(cell string) string {
	if runs.MatchString(cell) && !figure.MatchString(cell) {
		return "'" + cell
	}
	return cell
}

// EachPerson gives people one after another to f, until it gives an error.
type EachPerson = func(f func(*transfer.ExportedPerson) error) error

// PeopleCSV writes people as CSV (RFC 4180) in UTF-8 with a byte order mark, that this
// program reads again: a row of names, then one for each person. Safe counts the cells that
// a spreadsheet would run as a formula, before which an apostrophe was put.
func PeopleCSV(out io.Writer, columns []transfer.ExportColumn, each EachPerson) (safe int, err error) {
	if _, err := io.WriteString(out, "\uFEFF"); err != nil {
		return 0, err
	}
	w := csv.NewWriter(out)
	w.UseCRLF = true
	header := []string{"Kind"}
	for _, c := range columns {
		header = append(header, c.Name)
	}
	if err := w.Write(append(header, "Owner")); err != nil {
		return 0, err
	}
	err = each(func(p *transfer.ExportedPerson) error {
		row := []string{string(p.Person.Kind)}
		for _, c := range columns {
			row = append(row, p.Values[c.Path])
		}
		row = append(row, p.Owner)
		for i, cell := range row {
			if row[i] = MadeSafe(cell); row[i] != cell {
				safe++
			}
		}
		return w.Write(row)
	})
	w.Flush()
	return safe, cmp.Or(err, w.Error())
}

// withoutSign takes the apostrophe away that PeopleCSV puts before what would be run.
func withoutSign(cell string) string {
	if rest, ok := strings.CutPrefix(cell, "'"); ok && runs.MatchString(rest) {
		return rest
	}
	return cell
}

// PeopleVCard writes people as vCards of version 4.0 (RFC 6350).
func PeopleVCard(out io.Writer, each EachPerson, now time.Time) error {
	w := vcard.NewEncoder(out)
	return each(func(p *transfer.ExportedPerson) error { return w.Encode(cardOf(p, now)) })
}

func cardOf(e *transfer.ExportedPerson, now time.Time) vcard.Card {
	p := &e.Person
	c := vcard.Card{}
	c.SetValue(vcard.FieldVersion, "4.0")
	c.SetValue(vcard.FieldFormattedName, oneLine(p.Name()))
	c.AddName(&vcard.Name{FamilyName: onePart(p.LastName), GivenName: onePart(p.FirstName), HonorificPrefix: onePart(p.Honorific)})
	for name, value := range map[string]string{
		vcard.FieldEmail: p.Email, vcard.FieldTelephone: p.Phone, vcard.FieldTitle: p.JobTitle, vcard.FieldOrganization: onePart(e.Values["company.name"]),
		vcard.FieldLanguage: p.Language, vcard.FieldTimezone: p.TimeZone, vcard.FieldRevision: now.UTC().Format("20060102T150405Z"),
	} {
		if value != "" {
			c.AddValue(name, oneLine(value))
		}
	}
	if p.City != "" || p.Country != "" {
		c.AddAddress(&vcard.Address{Locality: onePart(p.City), Country: onePart(p.Country)})
	}
	for _, path := range []string{"lead.status", "lead.source"} {
		if v := e.Values[path]; v != "" && p.Kind == field.Lead {
			c.AddValue(vcard.FieldCategories, oneLine(v))
		}
	}
	return c
}

func oneLine(s string) string { return strings.Join(strings.Fields(s), " ") }

// onePart is a part of a value of several (RFC 6350 section 3.4), which a semicolon would end.
func onePart(s string) string { return strings.ReplaceAll(oneLine(s), ";", ",") }
