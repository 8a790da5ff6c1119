package letter_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestMerge_addresses(t *testing.T) {
	cat := lettertest.Catalogue()
	values := lettertest.Ada(t, cat)
	values.Set("team.website", field.Value{Type: field.URL, Text: "fernhollow.example/a b"})
	values.Set("company.website", field.Value{Type: field.URL, Text: "javascript:alert(1)"})
	values.Set("person.email", field.Value{Type: field.Email, Text: "ada@quill.example"})
	values.Set("person.phone", field.Value{Type: field.Phone, Text: "+44 1632 960000"})
	for _, row := range []struct{ in, want string }{
		{"https://x.example/", "https://x.example/"},
		{"{{team.website}}", "fernhollow.example/a%20b"},
		{"{{company.website}}", "#"},
		{"{{person.email}}", "mailto:ada@quill.example"},
		{"mailto:{{person.email}}?subject={{company.name}}", "mailto:ada@quill.example?subject=Quill%20%26%20Daughters"},
		{"{{person.phone}}", "tel:+441632960000"},
		{"https://x.example/{{company.name}}#{{person.last_name}}", "https://x.example/Quill%20%26%20Daughters#Quill"},
		{"https://x.example/{{#person.city}}city{{/person.city}}{{^person.city}}none{{/person.city}}", "https://x.example/none"},
		{"https://{{person.city|}}", ""},
		{"https://x.example/?c={{person.city|no where}}", "https://x.example/?c=no%20where"},
		{"https://x.example/?c={{person.city}}&l={{person.last_name}}", "https://x.example/?c={{person.city}}&l=Quill"},
	} {
		p := lettertest.CompileMarkup(t, cat, `<p><a href="`+strings.ReplaceAll(row.in, "&", "&amp;")+`">x</a></p>`)
		l := p.Merge(values, nil, field.NewReader("en-GB"))
		got := ""
		if a := document.LinkOf(&l.Body.Content[0].Content[0]); a != nil {
			got = a.Href
		}
		if got != row.want {
			t.Errorf("%s: %q, want %q", row.in, got, row.want)
		}
	}
	// A gap in an address is filled safely for its place.
	p := lettertest.CompileMarkup(t, cat, `<p><a href="https://x.example/?c={{person.city}}">a <b>b</b></a></p><button href="https://x.example/{{person.city}}">c</button>`)
	l := p.Merge(values, nil, field.NewReader("en"))
	if len(l.Gaps) != 1 || l.Gaps[0].Path != "person.city" || l.Gaps[0].Count != 2 {
		t.Errorf("gaps %+v", l.Gaps)
	}
	filled := letter.Fill(l.Body, "person.city", "a/b&c")
	if got := render.RenderText(filled); got != "a b (https://x.example/?c=a%2Fb%26c)\n\nc (https://x.example/a/b%26c)" || len(document.Gaps(document.Document{}, filled)) != 0 {
		t.Errorf("filled: %s", got)
	}
	if len(document.Gaps(document.Document{}, l.Body)) != 1 {
		t.Error("Fill changed its input")
	}
}

func TestFill_formatted(t *testing.T) {
	cat := lettertest.Catalogue()
	l := lettertest.CompileMarkup(t, cat, `<ul><li><p>in <b>{{person.city}}</b></p></li></ul><p>{{person.city}}, {{person.first_name}}</p>`).Merge(lettertest.Ada(t, cat), nil, field.NewReader("en"))
	if len(l.Gaps) != 1 || l.Gaps[0].Count != 2 || l.Gaps[0].Line != 1 {
		t.Fatalf("gaps %+v", l.Gaps)
	}
	filled := letter.Fill(l.Body, "person.city", "Leeds\nYork")
	if got := render.RenderText(filled); got != "- in Leeds\n  York\n\nLeeds\nYork, Ada" {
		t.Errorf("filled %q", got)
	}
	if got := string(render.AppendHTML(nil, filled, "")); !strings.Contains(got, "in <strong>Leeds<br>York</strong>") {
		t.Errorf("the marks were lost: %s", got)
	}
	if paths := letter.MergedPaths(filled); paths["person.city"] != "York" || paths["person.first_name"] != "Ada" {
		t.Errorf("merged %v", paths)
	}
	corrected := letter.Correct(filled, "person.first_name", "Adele")
	if got := render.RenderText(corrected); !strings.HasSuffix(got, "Adele") || strings.HasSuffix(render.RenderText(filled), "Adele") {
		t.Errorf("corrected %q", got)
	}
}

func TestCheckLetter_addresses(t *testing.T) {
	for src, want := range map[string]string{
		`<p><a href="https://x.example">a</a> <a href="mailto:a@x.example">b</a> <a href="tel:+31201234567">c</a></p>`: "",
		`<p><a href="https://">a</a></p>`:                       "leads nowhere yet",
		`<p><a href="mailto:">a</a></p>`:                        "behind mailto:",
		`<p><a href="x.example/a">a</a></p>`:                    "is not a whole address",
		`<p>a</p><button href="https://">a</button>`:            "leads nowhere yet",
		`<p>a</p><img src="https://" alt="a">`:                  "leads nowhere yet",
		`<p>a</p><img src="https://x.example/a.png" href="/a">`: "is not a whole address",
	} {
		notes := letter.CheckLetter(markup.Parse("s"), lettertest.Markup(t, src))
		if want == "" && len(notes) > 0 || want != "" && (len(notes) != 1 || notes[0].Code != "address" || !strings.Contains(notes[0].Message, want)) {
			t.Errorf("%s: %v", src, notes)
		}
	}
}
