package interchange_test

import (
	"strings"
	"testing"

	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

// A part that is set changes nothing else of a page as designers make them.
func TestSetPagePart_layouts(t *testing.T) {
	for _, name := range []string{"workshop.html", "offer.html", "season.html"} {
		d, _ := layout(t, name)
		if again, _, err := interchange.ImportHTML(markup.Print(d)); err != nil || markup.Print(again) != markup.Print(d) {
			t.Errorf("%s: another page when it is imported again: %v", name, err)
		}
		parts := interchange.PageParts(d)
		if len(parts) < 8 {
			t.Fatalf("%s: only %d parts", name, len(parts))
		}
		for i, p := range parts {
			changed, err := interchange.SetPagePart(d, i, p.Text+" & {{person.city|x}}")
			if err != nil {
				t.Fatal(err)
			}
			got := interchange.PageParts(changed)
			if len(got) != len(parts) {
				t.Fatalf("%s: %d parts, want %d", name, len(got), len(parts))
			}
			for k := range got {
				want := parts[k].Text
				if k == i {
					want += " & {{person.city|x}}"
				}
				if got[k].Text != want || got[k].Kind != parts[k].Kind || got[k].Link != parts[k].Link {
					t.Errorf("%s: part %d after %d: %+v, want %q", name, k, i, got[k], want)
				}
			}
			if tagsOf(markup.Print(changed)) != tagsOf(markup.Print(d)) {
				t.Errorf("%s: part %d changed the build", name, i)
			}
		}
		shown := interchange.ShowParts(d, func(path string) string { return "<" + path + ">" })
		if strings.Count(shown, `data-part="`)+strings.Count(shown, `data-link="`)+strings.Count(shown, `data-picture="`) != len(parts)-structural(parts) {
			t.Errorf("%s: not every part is named", name)
		}
		if render.PageText(shown) != render.PageText(strings.ReplaceAll(shown, ` data-mark=""`, "")) || strings.Contains(shown, "<person.") {
			t.Errorf("%s: shown other than it is", name)
		}
	}
}

// structural counts the parts that only open or close something.
func structural(parts []interchange.PagePart) int {
	n := 0
	for _, p := range parts {
		if p.Kind == interchange.PageWords && strings.Trim(p.Text, "{}") != p.Text && strings.Count(p.Text, "{{") == 1 && strings.ContainsAny(p.Text[2:3], "#/^") {
			n++
		}
	}
	return n
}

// tagsOf gives the names of the tags of a page.
func tagsOf(page string) string {
	var names []string
	for _, part := range strings.Split(page, "<")[1:] {
		names = append(names, strings.FieldsFunc(part, func(r rune) bool { return r == ' ' || r == '>' || r == '\n' })[0])
	}
	return strings.Join(names, " ")
}

func TestSetPagePart(t *testing.T) {
	page := `<p>Dear {{person.first_name|you}}, <a href="https://x.example/?a=1&amp;b=2"><b>look</b></a></p><!--[if mso]><v:roundrect href="https://x.example/?a=1&amp;b=2"></v:roundrect><![endif]--><img src="https://x.example/a.png" alt="A room">`
	d := markup.ParseHTML(page)
	var got []string
	for _, p := range interchange.PageParts(d) {
		got = append(got, string(p.Kind)+" "+p.Text)
	}
	if want := `words Dear {{person.first_name|you}},|link https://x.example/?a=1&b=2|words look|picture A room`; strings.Join(got, "|") != want {
		t.Fatalf("%q, want %q", strings.Join(got, "|"), want)
	}
	for _, row := range []struct {
		part       int
		text, want string
	}{
		{0, "Hello <b> {{#deal.amount < 5}}x{{/deal.amount}}", `<p>Hello &lt;b&gt; {{#deal.amount < 5}}x{{/deal.amount}} <a`},
		{0, "  ", `<p>  <a`},
		{1, `https://y.example/"{{person.city}}&c`, `<a href="https://y.example/&#34;{{person.city}}&amp;c"><b>look</b></a></p><!--[if mso]><v:roundrect href="https://y.example/&#34;{{person.city}}&amp;c">`},
		{2, "see\nthis", `<b>see this</b>`},
		{3, `A "cold" room`, `alt="A &#34;cold&#34; room"`},
	} {
		changed, err := interchange.SetPagePart(d, row.part, row.text)
		if err != nil || !strings.Contains(markup.Print(changed), row.want) {
			t.Errorf("%+v: %s, %v", row, markup.Print(changed), err)
		}
	}
	if _, err := interchange.SetPagePart(d, 4, "x"); err == nil {
		t.Error("a part that is none was set")
	}
	if got := interchange.ShownText("Dear {{person.city|}}, {{?why_now}} {{#deal.amount}}{{^deal.amount}}{{#deal.amount > 5}}{{/deal.amount}} {{#x y z}}", func(string) string { return "City" }); got != "Dear ‹City›, ‹why now› ‹only when City›‹only when no City›‹only when City > 5›‹end› {{#x y z}}" {
		t.Error(got)
	}
}
