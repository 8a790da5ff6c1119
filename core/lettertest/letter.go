// Package lettertest holds what tests of several packages need: a catalogue, values,
// random trees.
package lettertest

import (
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// Catalogue gives a catalogue with an own field of each type that tests need.
func Catalogue() *field.Catalogue {
	return field.New([]field.Def{{Path: "deal.own.volume", Record: field.Deal, Label: "Cold-room volume", Type: field.Number}})
}

// Ada gives the values of somebody of whom much is known.
func Ada(t testing.TB, cat *field.Catalogue) *field.Values {
	t.Helper()
	v := cat.NewValues()
	v.Kind = field.Contact
	for path, s := range map[string]string{
		"person.first_name": "Ada", "person.last_name": "Quill", "company.name": "Quill & Daughters", "sender.first_name": "Imre",
		"deal.amount": "12500.00 EUR", "deal.close_date": "2026-03-02", "deal.own.volume": "1234.5", "sender.signature": "Imre\nFernhollow",
	} {
		ref, ok := cat.Find(path)
		if !ok {
			t.Fatalf("no field %s", path)
		}
		value, err := field.Parse(ref.Def.Type, s, ref.Def.Choices)
		if err != nil {
			t.Fatal(err)
		}
		v.Set(path, value)
	}
	return v
}

// Compiled compiles a plain template and fails on notes that stop.
func Compiled(t testing.TB, cat *field.Catalogue, subject, body string) *template.Program {
	t.Helper()
	p, notes := template.Compile(template.Template{Subject: markup.Parse(subject), Body: markup.Parse(body)}, cat)
	if document.Stopping(notes) {
		t.Fatalf("notes: %v", notes)
	}
	return p
}
