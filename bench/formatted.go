package main

import (
	"fmt"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

// formattedWording is a letter of 30 blocks with the ten fields of the aims: a
// heading, paragraphs with marks and links, a list, a table, columns, a button.
func formattedWording() string {
	mark := func(i int) string { return "{{" + paths[i] + "}}" }
	var b strings.Builder
	b.WriteString("<h1>A cold room for " + mark(4) + "</h1>")
	for i := range 14 {
		fmt.Fprintf(&b, `<p>Line %d for <b>%s</b>, %s<a href="https://fernhollow.example/rooms/%d">see the room</a>.</p>`, i, mark(i%4), filler, i)
	}
	b.WriteString("<ul><li><p>" + mark(5) + "</p></li><li><p>three degrees</p></li><li><p><i>quiet</i></p></li></ul>")
	b.WriteString("<table><tr><td><p>Trade</p></td><td><p>" + mark(6) + "</p></td></tr><tr><td><p>Team</p></td><td><p>" + mark(9) + "</p></td></tr></table>")
	b.WriteString("<columns><column><p>left</p></column><column><p>right</p></column></columns>")
	b.WriteString(`<hr><button href="https://fernhollow.example/book?for=` + mark(1) + `">Book</button>`)
	for range 9 {
		b.WriteString("<p>" + filler + "</p>")
	}
	b.WriteString("<p>" + mark(7) + " " + mark(8) + "</p>")
	return b.String()
}

// formatted measures a formatted document merged and written as HTML and text,
// beside the floor: the segments between the values of the same two results,
// written with the same escaping into one buffer.
func formatted() {
	cat := field.New(nil)
	body := must(markup.ParseMarkup(formattedWording()))
	if len(body.Content) != 30 {
		panic(fmt.Sprint(len(body.Content), " blocks"))
	}
	program, notes := template.Compile(template.Template{Subject: markup.Parse("Cold"), Body: body}, cat)
	if document.Stopping(notes) {
		panic(notes)
	}
	fill := func(value func(i int) string) *field.Values {
		v := cat.NewValues()
		v.Kind = field.Contact
		for i, p := range paths {
			v.Set(p, field.Of(value(i)))
		}
		return v
	}
	reader := field.NewReader("en-GB")
	// The results with signs for values, cut there.
	sign := func(i int) string { return fmt.Sprintf("VALUE%dEND", i) }
	l := program.Merge(fill(sign), nil, reader)
	page, text := cut(render.RenderHTML(l.Body, "Cold")), cut(render.RenderText(l.Body))
	v := fill(func(i int) string { return values[i] })
	buf := make([]byte, 0, 64<<10)
	out := make([]byte, 0, 64<<10)
	once := func() {
		l := program.Merge(v, nil, reader)
		out = render.AppendHTML(out[:0], l.Body, "Cold")
		out = render.AppendText(out, l.Body)
	}
	once()
	want := string(page.write(text.write(nil, plain), escapeHTML))
	if len(want) != len(out) {
		panic(fmt.Sprintf("the floor writes %d bytes, the letter has %d", len(want), len(out)))
	}
	sides := []side{
		{"floor: segments of both into one buffer", func(n int) {
			for range n {
				buf = page.write(buf[:0], escapeHTML)
				buf = text.write(buf, plain)
			}
		}},
		{"ours: merged, HTML and text", func(n int) {
			for range n {
				once()
			}
		}},
	}
	ratio, nanos := ratios(sides...)
	table(fmt.Sprintf("formatted: 30 blocks, %d bytes of HTML and text", len(out)), sides, ratio, nanos)
	fmt.Printf("  %.0f allocations\n", allocs(once))
	aim("formatted-by-floor", ratio[1], "<=", 15)
}

// segmented is a text cut at its values.
type segmented struct {
	parts []string
	which []int
}

func cut(s string) segmented {
	var out segmented
	for {
		before, rest, found := strings.Cut(s, "VALUE")
		out.parts = append(out.parts, before)
		if !found {
			return out
		}
		out.which = append(out.which, int(rest[0]-'0'))
		s = rest[len("0END"):]
	}
}

func (s *segmented) write(dst []byte, escape func([]byte, string) []byte) []byte {
	for i, p := range s.parts {
		dst = append(dst, p...)
		if i < len(s.which) {
			dst = escape(dst, values[s.which[i]])
		}
	}
	return dst
}
