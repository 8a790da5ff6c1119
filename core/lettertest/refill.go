package lettertest

import (
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// RecordOf gives the records of one person in the catalogue of the tests.
func RecordOf(t *testing.T, values map[string]string) letter.Record {
	t.Helper()
	cat := field.New(nil)
	v := cat.NewValues()
	v.Kind = field.Contact
	for path, value := range values {
		ref, ok := cat.Find(path)
		if !ok {
			t.Fatalf("no field %s", path)
		}
		parsed, err := field.Parse(ref.Def.Type, value, ref.Def.Choices)
		if err != nil {
			t.Fatal(err)
		}
		v.Set(path, parsed)
	}
	return letter.Record{Values: v, Reader: field.NewReader("en-GB")}
}

// MergedFor merges a template for a record.
func MergedFor(t *testing.T, subject, body string, r letter.Record) template.Letter {
	t.Helper()
	p, notes := template.Compile(template.Template{Subject: markup.Parse(subject), Body: markup.Parse(body)}, field.New(nil))
	if document.Stopping(notes) {
		t.Fatal(notes)
	}
	return p.Merge(r.Values, nil, r.Reader)
}
