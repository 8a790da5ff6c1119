package template_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

func mergeHTML(t testing.TB, source, value string) (string, []document.Note) {
	t.Helper()
	cat := lettertest.Catalogue()
	p, notes := template.Compile(template.Template{Body: markup.ParseHTML(source)}, cat)
	v := cat.NewValues()
	v.Kind = field.Lead
	v.Set("person.city", field.Value{Type: field.Text, Text: value})
	out, _ := p.AppendBody(nil, v, nil, field.NewReader("en"), safehtml.AsHTML)
	return string(out), notes
}

// Contexts of the HTML standard, sections 13.1.2 (elements, attributes) and
// 13.1.2.3; addresses by RFC 3986.
func TestCompile_htmlPlaces(t *testing.T) {
	const x = "{{person.city}}"
	for _, row := range []struct{ in, value, want string }{
		{"<p>" + x + "</p>", "a<b>&\"'", "<p>a&lt;b&gt;&amp;&#34;&#39;</p>"},
		{`<p title="` + x + `">`, `" onclick="x`, `<p title="&#34; onclick=&#34;x">`},
		{`<p title='` + x + `'>`, `' x`, `<p title='&#39; x'>`},
		{`<title>` + x + `</title>`, `</title><script>`, `<title>&lt;/title&gt;&lt;script&gt;</title>`},
		{`<a href="` + x + `">`, "https://x.example/a b?c=d&e", `<a href="https://x.example/a%20b?c=d&amp;e">`},
		{`<a href="` + x + `">`, "x.example/a", `<a href="x.example/a">`},
		{`<a href="` + x + `">`, "mailto:ada@quill.example", `<a href="mailto:ada@quill.example">`},
		{`<a href="https://x.example/` + x + `/">`, "a/b?c#d e", `<a href="https://x.example/a/b%3Fc%23d%20e/">`},
		{`<a href="https://x.example/?q=` + x + `&r=1">`, "a&b=c/d", `<a href="https://x.example/?q=a%26b%3Dc%2Fd&r=1">`},
		{`<a href="` + x + `/` + x + `">`, "javascript:x", `<a href="#/javascript:x">`},
		{`<a href="{{person.honorific|https://y.example/é}}">`, "", `<a href="https://y.example/%C3%A9">`},
		{"<!-- a > b --><p>" + x, "<", "<!-- a > b --><p>&lt;"},
		{"<p {{#person.city}}class=\"a\"{{/person.city}}>" + x, "<", "<p class=\"a\">&lt;"},
		{"a < b and " + x, "<i>", "a < b and &lt;i&gt;"},
		{"<p>\n{{#person.city}}\n<b>" + x + "</b>\n{{/person.city}}\n</p>", "&", "<p>\n<b>&amp;</b>\n</p>"},
	} {
		got, notes := mergeHTML(t, row.in, row.value)
		if got != row.want || document.Stopping(notes) {
			t.Errorf("%s with %q:\n got %s\nwant %s (%v)", row.in, row.value, got, row.want, notes)
		}
	}
	// javascript: in every spelling becomes harmless at the start of an address.
	for _, value := range []string{
		"javascript:alert(1)", "JaVaScRiPt:alert(1)", " javascript:alert(1)", "java\tscript:alert(1)", "java\nscript:alert(1)", "javascript\u00a0:x", "data:text/html,x",
		"vbscript:x", "\x01javascript:x", "&#106;avascript:x", "java&#115;cript:x", "file:///etc/passwd", "https&colon;//x",
	} {
		got, _ := mergeHTML(t, `<a href="`+x+`">`, value)
		lettertest.CheckAddresses(t, value, got)
	}
	for _, in := range []string{
		"<script>" + x + "</script>", "<style>" + x + "</style>", "<!-- " + x + " -->", "<" + x + ">", "<p " + x + ">", "<p title=" + x + ">",
		`<p onclick="` + x + `">`, `<p style="` + x + `">`, `<iframe srcdoc="` + x + `">`, `<img srcset="` + x + `">`, "<p {{#person.city}}title=\"{{/person.city}}\">",
		"<p>{{#person.city}}<b title='{{/person.city}}",
	} {
		got, notes := mergeHTML(t, in, "VALUE")
		if !document.Stopping(notes) {
			t.Errorf("%s was taken: %s", in, got)
		}
		if strings.Contains(in, x) && strings.Contains(got, "VALUE") {
			t.Errorf("%s: the value was written: %s", in, got)
		}
	}
}

// The property: whatever a value holds, the page keeps its elements and
// attributes, and no address gets another scheme.
func FuzzAppendBody_html(f *testing.F) {
	for _, s := range []string{"Ada", "<script>", `"><img src=x onerror=y>`, "javascript:x", "' x='", "</title>", "-->", "\x00", "{{person.city}}", "\u202e", "a&b;"} {
		f.Add(s)
	}
	const page = `<title>{{person.city}}</title><p title="{{person.city}}" lang='{{person.city|x}}'>{{person.city}}</p>` +
		`<a href="{{person.city}}">a</a><a href="https://x.example/{{person.city}}?q={{person.city}}#{{person.city}}">b</a>` +
		"\n{{#person.city}}\n<b>{{person.city|}} ({{person.city|}})</b>\n{{/person.city}}\n"
	f.Fuzz(func(t *testing.T, value string) {
		if strings.Trim(value, " \t\r\n\f\v\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u0085\u00a0") == "" {
			return // nothing is left of it
		}
		got, _ := mergeHTML(t, page, value)
		plain, _ := mergeHTML(t, page, "Ada")
		if lettertest.Shape(t, got) != lettertest.Shape(t, plain) {
			t.Fatalf("%q changed the page:\n%s", value, got)
		}
		lettertest.CheckAddresses(t, value, got)
	})
}
