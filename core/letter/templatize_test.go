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

// A letter that was merged and not changed is the template again, but for what
// only-when and fallbacks settled.
func TestToTemplate_isTheTemplateAgain(t *testing.T) {
	cat := lettertest.Catalogue()
	values := cat.NewValues()
	values.Set("person.first_name", field.Of("Ada"))
	values.Set("person.last_name", field.Of("Quill"))
	of := func(path, words string) (document.Attrs, bool) {
		switch {
		case path == "person.first_name" && words == "Ada", path == "person.last_name" && words == "Quill":
			return document.Attrs{Path: path, Missing: document.MustBe}, true
		case path == "person.city":
			return document.Attrs{Path: path, Missing: document.Instead, Fallback: words}, true
		}
		return document.Attrs{}, false
	}
	for _, src := range []string{
		"Dear {{person.first_name}} {{person.last_name}},\n\nin {{person.city|your town}} {{?when: date}} or {{?who: colleague}}, {{person.phone}}.",
		"No fields [x] and 3 < 4",
	} {
		program, _ := template.Compile(template.Template{Subject: document.NewPlain(""), Body: markup.Parse(src)}, cat)
		l := program.Merge(values, nil, field.NewReader("en-GB"))
		if got := markup.Print(letter.ToTemplate(l.Body, of, nil)); got != src {
			t.Errorf("%s\nis\n%s", src, got)
		}
	}
}

func TestToTemplate_changedWordsStay(t *testing.T) {
	d := document.NewPlain("")
	d.Content = []document.Node{document.NewParagraph(
		document.Node{Type: document.Text, Text: "Dear "},
		document.Node{Type: document.Text, Text: "Lady A", Marks: []document.Mark{{Type: document.Merged, Attrs: &document.MarkAttrs{Path: "person.first_name"}}}},
		document.Node{Type: document.Text, Text: "da", Marks: []document.Mark{{Type: document.Bold}, {Type: document.Merged, Attrs: &document.MarkAttrs{Path: "person.first_name"}}}},
	)}
	var asked []string
	got := letter.ToTemplate(d, func(path, words string) (document.Attrs, bool) {
		asked = append(asked, path+"="+words)
		return document.Attrs{}, false
	}, nil)
	if !slices.Equal(asked, []string{"person.first_name=Lady Ada"}) || markup.Print(got) != "Dear Lady Ada" {
		t.Errorf("%q %q", asked, markup.Print(got))
	}
}

func TestFieldsIn(t *testing.T) {
	known := []letter.FieldWords{{Path: "person.first_name", Words: "Ada"}, {Path: "person.full_name", Words: "Ada Quill"}, {Path: "person.city", Words: "Ada's Town"}, {Path: "company.name", Words: "Müller"}}
	d := document.NewPlain("Ada Quill and Ada, not Adam or AdaX.\nMüllerin, Müller-Bau; Müller.")
	found := letter.FieldsIn(known, d)
	want := []letter.FieldWords{{Path: "person.full_name", As: "", Words: "Ada Quill", Count: 1}, {Path: "company.name", As: "", Words: "Müller", Count: 2}, {Path: "person.first_name", As: "", Words: "Ada", Count: 1}}
	if !slices.Equal(found, want) {
		t.Fatalf("%+v", found)
	}
	got := markup.Print(letter.ToTemplate(d, nil, found))
	if got != "{{person.full_name}} and {{person.first_name}}, not Adam or AdaX.\nMüllerin, {{company.name}}-Bau; {{company.name}}." {
		t.Error(got)
	}
}
