package letter

import (
	"encoding/json"
	"strings"
	"testing"

	"lucidletter/core/field"
)

// Rules P2 and P3 of Unicode Standard Annex 9: the first strong character decides,
// neutral ones and numbers before it do not.
func TestFirstStrong(t *testing.T) {
	for text, want := range map[string]string{
		"Hello": fromLeft, "שלום": fromRight, "مرحبا": fromRight, "12 – (שלום)": fromRight, "«Привет»": fromLeft,
		"123 !?": "", "": "", "\u200fHello": fromRight, "你好": fromLeft,
	} {
		if got := firstStrong(text); got != want {
			t.Errorf("%q runs %q, want %q", text, got, want)
		}
	}
}

func TestRenderHTML_turned(t *testing.T) {
	for _, c := range []struct{ name, lang, markup, want, never string }{
		{"a line from the right in a letter from the left", "en", "<p>שלום Ada</p><p>Hello</p>", `<p dir="rtl" style="margin:0 0 16px;text-align:right">שלום Ada</p>`, `dir="ltr" style`},
		{"its own side is kept", "en", `<p align="center">שלום</p>`, `<p dir="rtl" style="margin:0 0 16px;text-align:center">`, "text-align:right"},
		{"a letter from the right", "he", "<p>שלום</p><p>Hello</p><ul><li><p>ש</p></li></ul>", `<p style="margin:0 0 16px">שלום</p>`, "26px\">\n<li"},
		{"a line from the left in it", "he", "<p>Hello</p>", `<p dir="ltr" style="margin:0 0 16px;text-align:left">Hello</p>`, ""},
		{"a heading", "en", "<h2>مرحبا</h2>", `<h2 dir="rtl" style="`, ""},
	} {
		d, err := ParseMarkup(c.markup)
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

// A name from the right does not turn a letter that is written from the left.
func TestRenderHTML_valuesDoNotTurn(t *testing.T) {
	body, err := ParseMarkup("<p>{{person.first_name}}, hello</p>")
	if err != nil {
		t.Fatal(err)
	}
	r := recordOf(t, map[string]string{"person.first_name": "أحمد"})
	p, _ := Compile(Template{Subject: Parse("s"), Body: body}, field.New(nil))
	fresh := p.Merge(r.Values, nil, r.Reader).Body
	stored, err := json.Marshal(fresh)
	if err != nil {
		t.Fatal(err)
	}
	again, err := ParseJSON(stored)
	if err != nil {
		t.Fatal(err)
	}
	for name, d := range map[string]Document{"fresh": fresh, "stored": again} {
		if got := RenderHTML(d, "s"); strings.Contains(got, `dir="rtl"`) || !strings.Contains(got, "أحمد") {
			t.Errorf("%s: %s", name, got)
		}
	}
}
