package library_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/sentence"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
)

// The letters of the shelf read well whatever is left out of them, so that every note on them
// is a false alarm: no more than 2 of 100 places.
func TestShelf_readsWhenEmpty(t *testing.T) {
	items, err := library.ShelfItems()
	if err != nil {
		t.Fatal(err)
	}
	cat := field.New(nil)
	places, alarms := 0, 0
	check := func(name, subject, body, kind string) {
		d := markup.Parse(body)
		switch kind {
		case document.BodyHTML:
			d = markup.ParseHTML(body)
		case document.BodyFormatted:
			if d, err = markup.ParseMarkup(body); err != nil {
				t.Fatal(name, err)
			}
		}
		p, _ := template.Compile(template.Template{Subject: markup.Parse(subject), Body: d}, cat)
		places += max(1, len(p.MayLack()))
		for _, n := range sentence.WhenEmpty(p, cat) {
			alarms++
			t.Log(name, n.Message)
		}
	}
	for _, item := range items {
		check(item.Name, item.Subject, item.Body, item.Kind)
		for _, w := range item.Wordings {
			check(item.Name+" "+w.Language, w.Subject, w.Body, item.Kind)
		}
	}
	t.Logf("%d places of %d letters, %d alarms", places, len(items), alarms)
	if alarms*100 > places*2 || places < 40 {
		t.Errorf("%d alarms at %d places", alarms, places)
	}
}

func TestWhenEmpty(t *testing.T) {
	cat := field.New(nil)
	for body, want := range map[string]string{
		"Thank you for the time that you took.\n\nWe met in {{person.city|}}, near {{company.name|}}.":           "in, near|near.",
		"Thank you for the time that you took.\n\nWe met{{#person.city}} in {{person.city}}{{/person.city}}.":    "",
		"Thank you for the time that you took.\n\nThe price is{{#deal.amount}} {{deal.amount}}{{/deal.amount}}.": "price is.",
	} {
		p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.Parse(body)}, cat)
		var got []string
		notes := sentence.WhenEmpty(p, cat)
		for _, n := range notes {
			got = append(got, n.Message)
			if n.Severity != document.Advises || n.Line != 3 || n.Column < 5 {
				t.Errorf("%q: %+v", body, n)
			}
		}
		parts := strings.Split(want, "|")
		if want == "" {
			parts = nil
		}
		if len(got) != len(parts) {
			t.Errorf("%q: %q", body, got)
			continue
		}
		for i, part := range parts {
			if !strings.Contains(got[i], part) {
				t.Errorf("%q: %q, want %q", body, got[i], part)
			}
		}
	}
}

// A note stands at the place that breaks, not at the first one of its field.
func TestWhenEmpty_itsPlace(t *testing.T) {
	p, _ := template.Compile(template.Template{
		Subject: markup.Parse("Your room {{person.city|}}"),
		Body:    markup.Parse("Your room {{person.city|}}\n\nNext week I am in {{person.city|}} to see a customer."),
	}, field.New(nil))
	notes := sentence.WhenEmpty(p, field.New(nil))
	if len(notes) != 1 || notes[0].Part != document.Body || notes[0].Line != 3 {
		t.Errorf("%+v", notes)
	}
}
