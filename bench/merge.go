package main

import (
	"bytes"
	htmltemplate "html/template"
	"strings"
	texttemplate "text/template"
	"time"

	"github.com/cbroglie/mustache"
	"github.com/osteele/liquid"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// The letter of the aims: ten filled text fields in 1.5 KB.
var paths = []string{
	"person.first_name", "person.last_name", "person.job_title", "person.city", "company.name",
	"company.city", "company.industry", "sender.first_name", "sender.last_name", "team.name",
}

var values = []string{"Ada", "Quill", "Owner", "Harrowmere", "Quill & Daughters", "Stonewick", "bakery", "Imre", "Falk", "Fernhollow <North>"}

const filler = "A cold room that holds three degrees through a whole night means that the first shift can start two hours later. "

// wording writes the letter with a mark for each field.
func wording(mark func(path string) string) string {
	var b strings.Builder
	for i, p := range paths {
		b.WriteString("Line " + mark(p) + ", " + filler[:len(filler)-i] + "\n")
		if i%2 == 1 {
			b.WriteString("\n")
		}
	}
	return b.String()
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func ours(body string) (*template.Program, *field.Values, *field.Reader) {
	cat := field.New(nil)
	v := cat.NewValues()
	v.Kind = field.Contact
	for i, p := range paths {
		v.Set(p, field.Of(values[i]))
	}
	program, notes := template.Compile(template.Template{Body: markup.Parse(body)}, cat)
	if document.Stopping(notes) {
		panic(notes)
	}
	return program, v, field.NewReader("en-GB")
}

// nested gives the values as the other libraries take them.
func nested() map[string]any {
	out := map[string]any{}
	for i, p := range paths {
		record, key, _ := strings.Cut(p, ".")
		if out[record] == nil {
			out[record] = map[string]any{}
		}
		out[record].(map[string]any)[key] = values[i]
	}
	return out
}

// floor writes pre-split segments with the same escaping into one buffer.
func floor(escape func(dst []byte, s string) []byte) side {
	parts := strings.Split(wording(func(string) string { return "\x00" }), "\x00")
	buf := make([]byte, 0, 4096)
	return side{"floor: segments into one buffer", func(n int) {
		for range n {
			buf = buf[:0]
			for i, p := range parts {
				buf = append(buf, p...)
				if i < len(values) {
					buf = escape(buf, values[i])
				}
			}
		}
	}}
}

func plain(dst []byte, s string) []byte { return append(dst, s...) }

// escapeHTML is the floor's: sign by sign, what is between copied whole.
func escapeHTML(dst []byte, s string) []byte {
	last := 0
	for i := range len(s) {
		var with string
		switch s[i] {
		case '&':
			with = "&amp;"
		case '<':
			with = "&lt;"
		case '>':
			with = "&gt;"
		case '"':
			with = "&#34;"
		case '\'':
			with = "&#39;"
		default:
			continue
		}
		dst = append(append(dst, s[last:i]...), with...)
		last = i + 1
	}
	return append(dst, s[last:]...)
}

func others(html bool) []side {
	data := nested()
	dotted := wording(func(p string) string { return "{{." + p + "}}" })
	braces := wording(func(p string) string { return "{{" + p + "}}" })
	var buf bytes.Buffer
	text := must(texttemplate.New("t").Parse(dotted))
	page := must(htmltemplate.New("t").Parse(dotted))
	var stache *mustache.Template
	liquidForm := braces
	if html {
		stache = must(mustache.ParseString(braces))
		liquidForm = wording(func(p string) string { return "{{ " + p + " | escape }}" })
	} else {
		stache = must(mustache.ParseStringRaw(braces, true))
	}
	fluid := must(liquid.NewEngine().ParseString(liquidForm))
	out := []side{
		{"cbroglie/mustache", func(n int) {
			for range n {
				buf.Reset()
				if err := stache.FRender(&buf, data); err != nil {
					panic(err)
				}
			}
		}},
		{"osteele/liquid", func(n int) {
			for range n {
				if _, err := fluid.Render(data); err != nil {
					panic(err)
				}
			}
		}},
	}
	run := func(name string, execute func() error) side {
		return side{name, func(n int) {
			for range n {
				buf.Reset()
				if err := execute(); err != nil {
					panic(err)
				}
			}
		}}
	}
	if html {
		return append(out, run("html/template", func() error { return page.Execute(&buf, data) }))
	}
	return append(out, run("text/template", func() error { return text.Execute(&buf, data) }))
}

func mergeAims(name string, html bool) {
	program, v, reader := ours(wording(func(p string) string { return "{{" + p + "}}" }))
	escape, how := plain, safehtml.AsText
	if html {
		escape, how = escapeHTML, safehtml.AsHTML
	}
	buf := make([]byte, 0, 4096)
	once := func() { buf, _ = program.AppendBody(buf[:0], v, nil, reader, how) }
	sides := append([]side{floor(escape), {"ours", func(n int) {
		for range n {
			once()
		}
	}}}, others(html)...)
	once()
	ratio, nanos := ratios(sides...)
	table(name+": ten filled fields in 1.5 KB, by the floor", sides, ratio, nanos)
	fastest := ratio[2]
	for _, r := range ratio[2:] {
		fastest = min(fastest, r)
	}
	aim(name+"-by-floor", ratio[1], "<=", 1.3)
	aim(name+"-fastest-other-by-ours", fastest/ratio[1], ">=", 3)
	aim(name+"-allocations", allocs(once), "<=", 3)
}

func mergeText() { mergeAims("merge-text", false) }
func mergeHTML() { mergeAims("merge-html", true) }

// mergeValues measures dates and amounts beside the same formatting by hand.
func mergeValues() {
	cat := field.New(nil)
	v := cat.NewValues()
	v.Kind = field.Contact
	day := field.DateOf(time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC))
	sum := field.MoneyOf(1250000, "EUR")
	v.Set("deal.close_date", day)
	v.Set("deal.amount", sum)
	program, _ := template.Compile(template.Template{Body: markup.Parse("Until {{deal.close_date}}: {{deal.amount}}.")}, cat)
	reader := field.NewReader("en-GB")
	buf := make([]byte, 0, 256)
	sides := []side{
		{"by hand: the same formatting", func(n int) {
			for range n {
				buf = append(buf[:0], "Until "...)
				buf = reader.Append(buf, day, "")
				buf = append(buf, ": "...)
				buf = reader.Append(buf, sum, "")
				buf = append(buf, '.')
			}
		}},
		{"ours", func(n int) {
			for range n {
				buf, _ = program.AppendBody(buf[:0], v, nil, reader, safehtml.AsText)
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table("merge-values: one date and one amount", sides, ratio, nanos)
	aim("merge-values-by-hand", ratio[1], "<=", 1.3)
}
