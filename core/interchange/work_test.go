package interchange_test

import (
	"errors"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/safehtml"
)

// Whatever the size, either the work that libraries would have is refused, or it is below
// the limit. The shapes are those for which they take time that grows faster than the
// text: seconds at 64 KB, minutes at 256.
func TestImport_boundedWork(t *testing.T) {
	style := func(rules, page string) string { return "<style>" + rules + "</style>" + page }
	pages := map[string]func(n int) string{
		"places among others": func(n int) string {
			return style(strings.Repeat("p:nth-child(2n){color:red}", n/52), strings.Repeat("<p>x", n/8))
		},
		"selectors of one rule": func(n int) string {
			return style(strings.Repeat("p,", n/4)+"p{color:red}", strings.Repeat("<p>x</p>", n/16))
		},
		"rules": func(n int) string {
			return style(strings.Repeat("p{color:red}", n/24), strings.Repeat("<p>x</p>", n/16))
		},
		"those beside": func(n int) string {
			return style(strings.Repeat("p~i{color:red}", n/28), strings.Repeat("<p>x</p>", n/16))
		},
		"holding something": func(n int) string {
			return style(strings.Repeat("p:has(b){color:red}", n/38), strings.Repeat("<p>x</p>", n/16))
		},
		"ways up": func(n int) string {
			d := min(90, n>>7)
			return style("b"+strings.Repeat(" div", n>>11)+"{color:red}", strings.Repeat("<div>", d)+"x"+strings.Repeat("</div>", d))
		},
	}
	for name, page := range pages {
		refused := false
		for n := 4 << 10; n <= 512<<10; n *= 2 {
			src := page(n)
			var bad *document.FormError
			_, _, err := interchange.ImportHTML(src)
			refused = refused || errors.As(err, &bad)
			if work, _, _ := safehtml.StyleWork(safehtml.Sanitize(src)); err == nil && work > safehtml.MaxStyleWork {
				t.Errorf("%s, %d bytes: %.0f looks, and not refused", name, n, work)
			}
		}
		if !refused {
			t.Errorf("%s: nothing was refused up to 512 KB", name)
		}
	}
	for name, piece := range map[string]string{
		"links": "[a](", "links with an end": "[a](b", "pictures": "![a](", "references": "[a]:", "definitions": "[a]:x\n", "emphasis": "*a_", "mixed emphasis": "a**b_c* ",
		"under": "_a*b", "all signs": "**a *b _c __d ~~e", "quotes": ">", "quotes with spaces": "> > ", "lists and quotes": "- > ", "numbers": "1. ",
	} {
		for n := 64 << 10; n <= 512<<10; n *= 2 {
			var bad *document.FormError
			if _, err := interchange.FromMarkdown(strings.Repeat(piece, n/len(piece))); !errors.As(err, &bad) {
				t.Errorf("%s, %d bytes: %v", name, n, err)
			}
		}
	}
}

// What people write is far below the limits.
func TestImport_usualWork(t *testing.T) {
	var rules, rows strings.Builder
	for i := range 150 {
		rules.WriteString("table.body td p.x" + string(rune('a'+i%26)) + ", .wrap > div:first-child a { color: #333; font-size: 14px }\n")
		rows.WriteString("<table class=body><tr><td><p class=xa>Words <b>and</b> <a href=https://fernhollow.example>links</a></p></td></tr></table>")
	}
	if _, _, err := interchange.ImportHTML("<style>" + rules.String() + "</style><div class=wrap>" + rows.String() + "</div>"); err != nil {
		t.Error(err)
	}
	md := strings.Repeat("A paragraph with *emphasis*, **more of it**, a [link](https://fernhollow.example) and a list:\n\n- one\n- two\n  > a quote\n\n---\n\n***\n\n- - - - - - - - - - - - - - - - - - - - -\n\n", 300)
	if _, err := interchange.FromMarkdown(md); err != nil {
		t.Error(err)
	}
}
