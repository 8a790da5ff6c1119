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
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// A value is never merged twice, in no kind of body and in no place.
func TestMerge_valuesAreNotRead(t *testing.T) {
	cat := lettertest.Catalogue()
	v := cat.NewValues()
	v.Kind = field.Lead
	evil := "{{person.last_name}} {{#person.city}}x{{/person.city}} {{{x}}} {{! c }} \\{{"
	v.Set("person.city", field.Of(evil))
	v.Set("person.last_name", field.Of("SECRET"))
	for kind, src := range map[string]string{
		document.BodyPlain:     "{{person.city}}\n({{person.city}})",
		document.BodyFormatted: `<h1>{{person.city}}</h1><p><a href="https://x.example/{{person.city}}">{{person.city}}</a></p>`,
		document.BodyHTML:      `<p title="{{person.city}}">{{person.city}}</p><a href="{{person.city}}">x</a>`,
	} {
		d, err := markup.ParseBody(src, kind)
		if err != nil {
			t.Fatal(err)
		}
		p, notes := template.Compile(template.Template{Subject: markup.Parse("{{person.city}}"), Body: d}, cat)
		if document.Stopping(notes) {
			t.Fatal(notes)
		}
		l := p.Merge(v, nil, field.NewReader("en"))
		text, _ := p.AppendBody(nil, v, nil, field.NewReader("en"), safehtml.AsHTML)
		all := render.RenderText(l.Subject) + render.RenderText(l.Body) + render.RenderHTML(l.Body, render.RenderText(l.Subject)) + string(text)
		if strings.Contains(all, "SECRET") || len(l.Gaps) > 0 {
			t.Errorf("%s: a value was merged again: %s", kind, all)
		}
		// And a letter with such words does not go without being looked at.
		if notes := letter.CheckLetter(document.NewPlain("s"), l.Body); kind != document.BodyHTML && !document.Stopping(notes) {
			t.Errorf("%s: braces in a letter went unnoticed", kind)
		}
	}
}
