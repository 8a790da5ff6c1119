package letter

import (
	"slices"
	"testing"

	"lucidletter/core/field"
)

// A letter that was merged and not changed is the template again, but for what
// only-when and fallbacks settled.
func TestToTemplate_isTheTemplateAgain(t *testing.T) {
	cat := catalogue()
	values := cat.NewValues()
	values.Set("person.first_name", field.Of("Ada"))
	values.Set("person.last_name", field.Of("Quill"))
	of := func(path, words string) (Attrs, bool) {
		switch {
		case path == "person.first_name" && words == "Ada", path == "person.last_name" && words == "Quill":
			return Attrs{Path: path, Missing: MustBe}, true
		case path == "person.city":
			return Attrs{Path: path, Missing: Instead, Fallback: words}, true
		}
		return Attrs{}, false
	}
	for _, src := range []string{
		"Dear {{person.first_name}} {{person.last_name}},\n\nin {{person.city|your town}} {{?when: date}} or {{?who: colleague}}, {{person.phone}}.",
		"No fields [x] and 3 < 4",
	} {
		program, _ := Compile(Template{Subject: NewPlain(""), Body: Parse(src)}, cat)
		l := program.Merge(values, nil, field.NewReader("en-GB"))
		if got := Print(ToTemplate(l.Body, of, nil)); got != src {
			t.Errorf("%s\nis\n%s", src, got)
		}
	}
}

func TestToTemplate_changedWordsStay(t *testing.T) {
	d := NewPlain("")
	d.Content = []Node{paragraph(
		Node{Type: Text, Text: "Dear "},
		Node{Type: Text, Text: "Lady A", Marks: []Mark{{Type: Merged, Attrs: &MarkAttrs{Path: "person.first_name"}}}},
		Node{Type: Text, Text: "da", Marks: []Mark{{Type: Bold}, {Type: Merged, Attrs: &MarkAttrs{Path: "person.first_name"}}}},
	)}
	var asked []string
	got := ToTemplate(d, func(path, words string) (Attrs, bool) { asked = append(asked, path+"="+words); return Attrs{}, false }, nil)
	if !slices.Equal(asked, []string{"person.first_name=Lady Ada"}) || Print(got) != "Dear Lady Ada" {
		t.Errorf("%q %q", asked, Print(got))
	}
}

func TestFieldsIn(t *testing.T) {
	known := []FieldWords{{Path: "person.first_name", Words: "Ada"}, {Path: "person.full_name", Words: "Ada Quill"}, {Path: "person.city", Words: "Ada's Town"}, {Path: "company.name", Words: "Müller"}}
	d := NewPlain("Ada Quill and Ada, not Adam or AdaX.\nMüllerin, Müller-Bau; Müller.")
	found := FieldsIn(known, d)
	want := []FieldWords{{"person.full_name", "", "Ada Quill", 1}, {"company.name", "", "Müller", 2}, {"person.first_name", "", "Ada", 1}}
	if !slices.Equal(found, want) {
		t.Fatalf("%+v", found)
	}
	got := Print(ToTemplate(d, nil, found))
	if got != "{{person.full_name}} and {{person.first_name}}, not Adam or AdaX.\nMüllerin, {{company.name}}-Bau; {{company.name}}." {
		t.Error(got)
	}
}
