package render_test

import (
	"strings"
	"testing"

	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func TestFormatted(t *testing.T) {
	for _, row := range []struct{ plain, want string }{
		{"", "<p></p>"},
		{"Dear {{person.first_name}},\n\na\nb\n\n\nc", "<p>Dear {{person.first_name}},</p>\n<p>a<br>b</p>\n<p>c</p>"},
		{"a\n{{#person.city}}\nb\n\nc\n{{/person.city}}\nd", "<p>a</p>\n{{#person.city}}\n<p>b</p>\n<p>c</p>\n{{/person.city}}\n<p>d</p>"},
		{"{{fixed}}\n\n{{/fixed}}\na < b", "<p>a &lt; b</p>"},
		{"{{person.city|}}", "<p>{{person.city|}}</p>"},
	} {
		d := render.Formatted(markup.Parse(row.plain))
		if got := strings.TrimSuffix(markup.Print(d), "\n"); got != row.want || d.Check() != nil {
			t.Errorf("%q: %s, want %s (%v)", row.plain, got, row.want, d.Check())
		}
	}
}

func TestDocument_Blank(t *testing.T) {
	for src, want := range map[string]bool{
		"": true, "<p></p>": true, "<p> <br></p><spacer>": true, "<p>{{! note}}</p>": true, "<ul><li><p></p></li></ul>": true,
		"<p>a</p>": false, "<p>{{person.city|}}</p>": false, "<p>{{?x: text}}</p>": false, "<hr>": false, "<img src=\"https://x.example/a.png\">": false,
		"{{#person.city}}<p></p>{{/person.city}}": true, "<table><tr><td><p>a</p></td></tr></table>": false,
	} {
		d := lettertest.Markup(t, src)
		if got := d.Blank(); got != want {
			t.Errorf("%s: %v", src, got)
		}
	}
}
