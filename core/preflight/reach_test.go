package preflight

import (
	"fmt"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

func program(t *testing.T, cat *field.Catalogue, body string) *template.Program {
	t.Helper()
	p, notes := template.Compile(template.Template{Body: markup.Parse(body)}, cat)
	if document.Stopping(notes) {
		t.Fatal(notes)
	}
	return p
}

func values(cat *field.Catalogue, kind field.Record, pairs ...string) *field.Values {
	v := cat.NewValues()
	v.Kind = kind
	for i := 0; i+1 < len(pairs); i += 2 {
		v.Set(pairs[i], field.Of(pairs[i+1]))
	}
	return v
}

func TestReach_counts(t *testing.T) {
	cat := field.New(nil)
	r := Reach{Program: program(t, cat, "{{person.first_name}} {{person.city}} {{person.phone|}} {{?why}}{{#person.country}}{{person.job_title}}{{/person.country}}")}
	r.Add(1, values(cat, field.Lead, "person.first_name", "Ada", "person.city", "Leeds"), false)
	r.Add(2, values(cat, field.Lead, "person.city", "Leeds"), false)
	r.Add(3, values(cat, field.Contact), false)
	r.Add(4, values(cat, field.Contact, "person.first_name", "Bo", "person.city", "York", "person.country", "UK"), false)
	got := fmt.Sprint(r.Records, r.Complete, r.Unfit, r.MissingFields(), r.WithGaps())
	want := "4 1 0 [{person.first_name 2} {person.city 1} {person.job_title 1}] [{2 [person.first_name]} {3 [person.first_name person.city]} {4 [person.job_title]}]"
	if got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestReach_unfitAndBounded(t *testing.T) {
	cat := field.New(nil)
	r := Reach{Program: program(t, cat, "{{deal.name}}")}
	for i := range int64(3 * MaxListed) {
		r.Add(i, values(cat, field.Contact), i%3 != 0)
	}
	if r.Unfit != MaxListed || r.Complete != 0 || len(r.WithGaps()) != MaxListed || r.MissingFields()[0].Count != 2*MaxListed {
		t.Errorf("%d unfit, %d listed, %v", r.Unfit, len(r.WithGaps()), r.MissingFields())
	}
	for _, row := range []struct {
		body string
		kind field.Record
		deal bool
		want bool
	}{
		{"{{lead.status}}", field.Lead, false, true}, {"{{lead.status}}", field.Contact, true, false}, {"{{contact.since}}", field.Contact, false, true},
		{"{{deal.name}}", field.Contact, true, true}, {"{{deal.name}}", field.Lead, false, false}, {"x", field.Lead, false, true},
	} {
		if got := Serves(program(t, cat, row.body), row.kind, row.deal); got != row.want {
			t.Errorf("%s on a %s: %v", row.body, row.kind, got)
		}
	}
}

func TestHardest(t *testing.T) {
	cat := field.New(nil)
	p := program(t, cat, "{{person.first_name}} {{person.city|}}")
	reader := field.NewReader("en")
	var h Hardest
	if h.Found() {
		t.Error("found among none")
	}
	h.Add(1, p, values(cat, field.Lead, "person.first_name", "Ada"), reader)
	h.Add(2, p, values(cat, field.Lead, "person.first_name", "Adalberta"), reader)
	h.Add(3, p, values(cat, field.Lead, "person.first_name", "Ada"), reader)
	if h.ID != 2 {
		t.Errorf("the longest is %d", h.ID)
	}
	h.Add(4, p, values(cat, field.Lead), reader)
	h.Add(5, p, values(cat, field.Lead, "person.first_name", "Adalberta Wilhelmina"), reader)
	if h.ID != 4 || !h.Found() {
		t.Errorf("the one with a gap is not the hardest: %d", h.ID)
	}
}
