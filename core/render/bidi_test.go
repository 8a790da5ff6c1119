package render

import (
	"strings"
	"testing"

	"lucidletter/core/markup"
)

func TestRenderHTML_turned(t *testing.T) {
	for _, c := range []struct{ name, lang, markup, want, never string }{
		{"a line from the right in a letter from the left", "en", "<p>שלום Ada</p><p>Hello</p>", `<p dir="rtl" style="margin:0 0 16px;text-align:right">שלום Ada</p>`, `dir="ltr" style`},
		{"its own side is kept", "en", `<p align="center">שלום</p>`, `<p dir="rtl" style="margin:0 0 16px;text-align:center">`, "text-align:right"},
		{"a letter from the right", "he", "<p>שלום</p><p>Hello</p><ul><li><p>ש</p></li></ul>", `<p style="margin:0 0 16px">שלום</p>`, "26px\">\n<li"},
		{"a line from the left in it", "he", "<p>Hello</p>", `<p dir="ltr" style="margin:0 0 16px;text-align:left">Hello</p>`, ""},
		{"a heading", "en", "<h2>مرحبا</h2>", `<h2 dir="rtl" style="`, ""},
	} {
		d, err := markup.ParseMarkup(c.markup)
		if err != nil {
			t.Fatal(err)
		}
		d.Attrs.Lang = c.lang
		got := RenderHTML(d, "s")
		if !strings.Contains(got, c.want) || c.never != "" && strings.Contains(got, c.never) {
			t.Errorf("%s: %q is not in, or %q is in %s", c.name, c.want, c.never, got)
		}
	}
}
