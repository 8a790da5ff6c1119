package letter

import (
	"runtime"
	"strings"
	"testing"

	"lucidletter/core/field"
)

// Work grows with the size of what is read and not with its square: the bytes
// that are allocated are counted for a text and for one twice as long. What is
// only looked at again and again shows in the test's time limit.
func TestWork_growsWithTheSize(t *testing.T) {
	cat := catalogue()
	values, reader := ada(t, cat), field.NewReader("en")
	merge := func(d Document) {
		p, _ := Compile(Template{Body: d}, cat)
		l := p.Merge(values, nil, reader)
		RenderHTML(l.Body, "s")
		RenderText(l.Body)
		CheckLetter(l.Subject, l.Body)
		p.AppendBody(nil, values, nil, reader, AsHTML)
	}
	plain := func(s string) { merge(Parse(s)) }
	formatted := func(s string) {
		if d, err := ParseMarkup(s); err == nil {
			Print(d)
			merge(d)
		}
	}
	page := func(s string) {
		if d, _, err := ImportHTML(s); err == nil {
			merge(d)
		}
	}
	for _, row := range []struct {
		name string
		run  func(string)
		unit string
		size int
	}{
		{"plain words", plain, "a word, ", 1 << 16},
		{"plain fields", plain, "{{person.first_name}} ", 1 << 16},
		{"plain left out", plain, "({{person.city|}}) ", 1 << 15},
		{"plain unknown", plain, "{{person.cty}} ", 1 << 13},
		{"plain sections", plain, "{{#person.city}}\na\n{{/person.city}}\n", 1 << 15},
		{"plain braces", plain, "{{", 1 << 17},
		{"plain left-overs", plain, "[First name] ", 1 << 15},
		{"formatted words", formatted, "<p>a word</p>", 1 << 16},
		{"formatted marks", formatted, "<p>a<b>b<i>c</i></b>{{person.first_name}}</p>", 1 << 15},
		{"formatted links", formatted, `<p><a href="https://x.example/{{person.city|}}">a</a> <a href="https://x.example/">b</a></p>`, 1 << 15},
		{"formatted list", func(s string) { formatted("<ul>" + s + "</ul>") }, "<li><p>{{person.city|}}</p></li>", 1 << 15},
		{"formatted table", func(s string) { formatted("<table>" + s + "</table>") }, "<tr><td><p>a</p></td><td><p>{{deal.amount}}</p></td></tr>", 1 << 15},
		{"one formatted line", func(s string) { formatted("<p>" + s + "</p>") }, `a <a href="https://x.example/">b</a><br>{{person.city|}}`, 1 << 14},
		{"never closed", formatted, "<p><b>", 1 << 15},
		{"page words", page, "<p>a word</p>\n", 1 << 15},
		{"page fields", page, "<td title=\"{{person.city|}}\">{{person.first_name}}, {{person.city|}}</td>\n", 1 << 15},
		{"page styles", func(s string) { page("<style>" + s + "</style><p>x") }, ".a{color:red}\n", 1 << 13},
		{"page comments", page, "<!--[if mso]><p>x</p><![endif]-->", 1 << 15},
		{"page half tags", page, "<", 1 << 15},
		{"page attributes", func(s string) { page("<p " + s + ">") }, "a=b ", 1 << 14},
	} {
		work := func(n int) uint64 {
			text := strings.Repeat(row.unit, n/len(row.unit))
			var before, after runtime.MemStats
			runtime.ReadMemStats(&before)
			row.run(text)
			runtime.ReadMemStats(&after)
			return after.TotalAlloc - before.TotalAlloc
		}
		work(row.size) // what is made once
		once, twice := work(row.size), work(2*row.size)
		if twice > 3*once+1<<20 {
			t.Errorf("%s: %d bytes of work, %d for twice as much", row.name, once, twice)
		}
	}
}
