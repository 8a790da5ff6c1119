package interchange_test

import (
	"strings"
	"testing"

	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

const tenLines = "Line {{person.first_name}}, of {{company.name}}: a cold room that holds three degrees through a whole night means that the first shift can start two hours later.\n"

func BenchmarkAppendBody_text(b *testing.B) { benchmarkAppend(b, safehtml.AsText) }

func BenchmarkAppendBody_html(b *testing.B) { benchmarkAppend(b, safehtml.AsHTML) }

func benchmarkAppend(b *testing.B, e safehtml.Escape) {
	cat := lettertest.Catalogue()
	p, v, r := lettertest.Compiled(b, cat, "s", strings.Repeat(tenLines, 10)), lettertest.Ada(b, cat), field.NewReader("en-GB")
	buf := make([]byte, 0, 8192)
	b.ReportAllocs()
	for b.Loop() {
		buf, _ = p.AppendBody(buf[:0], v, nil, r, e)
	}
}

// The formatted letter of every block, merged and written as HTML and as text.
func BenchmarkFormatted(b *testing.B) {
	cat := lettertest.Catalogue()
	p, v, r := lettertest.CompileMarkup(b, cat, lettertest.Everything+strings.Repeat("<p>Line <b>{{person.first_name}}</b>, a cold room that holds three degrees <a href=\"https://x.example/\">see</a>.</p>", 16)), lettertest.Ada(b, cat), field.NewReader("en-GB")
	buf := make([]byte, 0, 1<<16)
	b.ReportAllocs()
	for b.Loop() {
		l := p.Merge(v, nil, r)
		buf = render.AppendHTML(buf[:0], l.Body, "s")
		buf = render.AppendText(buf, l.Body)
	}
}

func BenchmarkCompile(b *testing.B) {
	cat := lettertest.Catalogue()
	t := template.Template{Subject: markup.Parse("s"), Body: markup.Parse(strings.Repeat(tenLines, 10))}
	b.ReportAllocs()
	for b.Loop() {
		template.Compile(t, cat)
	}
}

func BenchmarkImportHTML(b *testing.B) {
	page := strings.Repeat("<p class=\"a\">Dear {{person.first_name|there}}, <a href=\"https://x.example/\">go</a></p>\n", 100)
	for b.Loop() {
		if _, _, err := interchange.ImportHTML("<style>.a{color:red}</style>" + page); err != nil {
			b.Fatal(err)
		}
	}
}
