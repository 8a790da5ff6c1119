package letter_test

import (
	"slices"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

func TestRefill(t *testing.T) {
	ada := map[string]string{
		"person.first_name": "Ada", "person.city": "Leeds", "company.name": "Quill Flowers", "deal.amount": "12500.00 EUR",
		"deal.close_date": "2026-12-01", "sender.first_name": "Nora", "today": "2026-11-25",
	}
	bo := map[string]string{
		"person.first_name": "Bo", "company.name": "Rye & Sons", "deal.amount": "900.00 EUR", "deal.close_date": "2026-11-26",
		"sender.first_name": "Nora", "today": "2026-11-25",
	}
	const template = "Dear {{person.first_name|there}},\n\nabout {{company.name}}: {{deal.amount as plain}}.\n\n" +
		"{{#person.city}}We are near {{person.city}}.\n\n{{/person.city}}It is due {{deal.close_date as relative}}.\n\n{{?reason}}\n\n{{sender.first_name}}"
	type kept struct{ path, words string }
	for _, c := range []struct {
		name string
		body string
		from map[string]string
		to   map[string]string
		edit func(d document.Document) document.Document
		want string
		kept []kept
	}{
		{
			name: "nobody changed anything: as if it had been begun for the other", body: template, from: ada, to: bo,
			want: "Dear Bo,\n\nabout Rye & Sons: 900.00 EUR.\n\nIt is due tomorrow.\n\n{{?reason}}\n\nNora",
		},
		{
			name: "a passage that appears only for the other", body: template, from: bo, to: ada,
			want: "Dear Ada,\n\nabout Quill Flowers: 12500.00 EUR.\n\nWe are near Leeds.\n\nIt is due in 6 days.\n\n{{?reason}}\n\nNora",
		},
		{
			name: "a filled blank and words around fields stay", body: template, from: ada, to: bo,
			edit: func(d document.Document) document.Document {
				d = letter.Fill(d, "?reason", "It is cold.")
				d = appendWordsTo(d, 2, " Really!")
				return appendWordsTo(d, 6, " So soon.")
			},
			want: "Dear Bo,\n\nabout Rye & Sons: 900.00 EUR. Really!\n\nIt is due tomorrow. So soon.\n\nIt is cold.\n\nNora",
		},
		{
			name: "what is said instead of a name gives way to a name", body: template, from: map[string]string{"company.name": "X"}, to: map[string]string{"person.first_name": "Bo", "company.name": "Y"},
			edit: func(d document.Document) document.Document { return appendWordsTo(d, 0, " good day") },
			want: "Dear Bo, good day\n\nabout Y: {{deal.amount}}.\n\nIt is due {{deal.close_date}}.\n\n{{?reason}}\n\n{{sender.first_name}}",
		},
		{
			name: "what is said instead stays for another without a name", body: template, from: map[string]string{"company.name": "X"}, to: map[string]string{"company.name": "Y"},
			edit: func(d document.Document) document.Document { return appendWordsTo(d, 0, " good day") },
			want: "Dear there, good day\n\nabout Y: {{deal.amount}}.\n\nIt is due {{deal.close_date}}.\n\n{{?reason}}\n\n{{sender.first_name}}",
		},
		{
			name: "a value typed for one letter is not the other person's", body: "Dear {{person.first_name}},", from: map[string]string{"company.name": "X"}, to: map[string]string{"company.name": "Y"},
			edit: func(d document.Document) document.Document { return letter.Fill(d, "person.first_name", "Ada") },
			want: "Dear {{person.first_name}},",
		},
		{
			name: "a value that the other does not have is a gap", body: "In {{person.city}} and more", from: ada, to: bo,
			edit: func(d document.Document) document.Document { return appendWordsTo(d, 0, "!") }, want: "In {{person.city}} and more!",
		},
		{
			name: "words that the writer made of a value stay and are told", body: "It costs {{deal.amount}} in all", from: ada, to: bo,
			edit: func(d document.Document) document.Document {
				return letter.Correct(d, "deal.amount", "about 12,000 EUR")
			},
			want: "It costs about 12,000 EUR in all", kept: []kept{{path: "deal.amount", words: "about 12,000 EUR"}},
		},
		{
			name: "capitals that were set right are the value all the same", body: "Dear {{person.first_name}},", from: map[string]string{"person.first_name": "ADA"}, to: bo,
			edit: func(d document.Document) document.Document { return letter.Correct(d, "person.first_name", "Ada") }, want: "Dear Bo,",
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			old, now := lettertest.RecordOf(t, c.from), lettertest.RecordOf(t, c.to)
			base, theirs := lettertest.MergedFor(t, "", c.body, old).Body, lettertest.MergedFor(t, "", c.body, now).Body
			mine := base
			if c.edit != nil {
				mine = c.edit(base)
			}
			got, words := letter.Remerge(mine, base, theirs, old, now)
			if text := markup.Print(got); text != c.want {
				t.Errorf("got  %q\nwant %q", text, c.want)
			}
			var told []kept
			for _, k := range words {
				told = append(told, kept{path: k.Path, words: k.Words})
			}
			if !slices.Equal(told, c.kept) {
				t.Errorf("told %v, want %v", told, c.kept)
			}
		})
	}
}

// appendWordsTo has the writer add words to a line.
func appendWordsTo(d document.Document, line int, words string) document.Document {
	d.Content = document.Clone(d.Content)
	d.Content[line].Content = append(d.Content[line].Content, document.TextNode(words, 0)...)
	return d
}

// Without a template the words of fields are all that is known.
func TestRefillWithoutTemplate(t *testing.T) {
	old := lettertest.RecordOf(t, map[string]string{"person.first_name": "Ada", "company.phone": "0113 496 0000"})
	now := lettertest.RecordOf(t, map[string]string{"person.first_name": "Bo"})
	mine := lettertest.MergedFor(t, "", "Hello {{person.first_name}}, {{company.phone}} is yours.", old).Body
	got, kept := letter.Remerge(mine, document.Document{}, document.Document{}, old, now)
	if text := markup.Print(got); text != "Hello Bo, {{company.phone}} is yours." || len(kept) > 0 {
		t.Errorf("got %q, told %v", text, kept)
	}
	if back, _ := letter.Remerge(got, document.Document{}, document.Document{}, now, old); markup.Print(back) != markup.Print(mine) {
		t.Errorf("there and back gives %q", markup.Print(back))
	}
}

// In a formatted letter looks stay, and links lead where the new records say.
func TestRefillFormatted(t *testing.T) {
	old := lettertest.RecordOf(t, map[string]string{"person.first_name": "Ada", "company.name": "Quill", "company.website": "https://quill.example"})
	now := lettertest.RecordOf(t, map[string]string{"person.first_name": "Bo", "company.name": "Rye", "company.website": "https://rye.example"})
	body, err := markup.ParseMarkup("<p>Dear <b>{{person.first_name}}</b>, see <a href=\"{{company.website}}\">your page</a></p>")
	if err != nil {
		t.Fatal(err)
	}
	p, _ := template.Compile(template.Template{Subject: markup.Parse("x"), Body: body}, field.New(nil))
	base, theirs := p.Merge(old.Values, nil, old.Reader).Body, p.Merge(now.Values, nil, now.Reader).Body
	mine := appendWordsTo(base, 0, " soon")
	got, _ := letter.Remerge(mine, base, theirs, old, now)
	want := appendWordsTo(theirs, 0, " soon")
	if markup.Print(got) != markup.Print(want) {
		t.Errorf("got  %q\nwant %q", markup.Print(got), markup.Print(want))
	}
}

func TestEdited(t *testing.T) {
	r := lettertest.RecordOf(t, map[string]string{"person.first_name": "Ada", "deal.amount": "12500.00 EUR"})
	l := lettertest.MergedFor(t, "{{person.first_name}}", "Dear {{person.first_name}}, {{deal.amount as plain}}, {{person.city}}", r)
	body := letter.Fill(l.Body, "person.city", "Leeds")
	if got := letter.Edited(r, l.Subject, body); len(got) != 0 {
		t.Errorf("untouched, but %v", got)
	}
	want := []letter.Kept{{Path: "person.first_name", Words: "Adda"}}
	if got := letter.Edited(r, l.Subject, letter.Correct(body, "person.first_name", "Adda")); !slices.Equal(got, want) {
		t.Errorf("%v", got)
	}
}
