package render

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Bare addresses of formatted letters can be followed where they go out, whole and
// without what closes the sentence around them (RFC 3986 appendix C).
func TestRenderHTML_bareAddresses(t *testing.T) {
	for words, want := range map[string]string{
		"See https://fernhollow.example/rooms.":             `See <a href="https://fernhollow.example/rooms" class="plain">https://fernhollow.example/rooms</a>.`,
		"(www.fernhollow.example)":                          `(<a href="https://www.fernhollow.example" class="plain">www.fernhollow.example</a>)`,
		"https://x.example/a_(b)!":                          `<a href="https://x.example/a_(b)" class="plain">https://x.example/a_(b)</a>!`,
		"a https://x.example?q=1&r=O'Neil, b":               `a <a href="https://x.example?q=1&amp;r=O&#39;Neil" class="plain">https://x.example?q=1&amp;r=O&#39;Neil</a>, b`,
		"<b>http</b>s://x.example/<i>b</i> c":               `c`,
		"https://, www. and http://x":                       `https://, www. and http://x`,
		"javascript://x.example and ftp://x.example":        `javascript://x.example and ftp://x.example`,
		`<a href="https://y.example">https://x.example</a>`: `<a href="https://y.example" class="plain">https://x.example</a>`,
	} {
		d, err := markup.ParseMarkup("<p>" + words + "</p>")
		if strings.Contains(words, "&r") {
			d, err = Formatted(document.NewPlain(words)), nil
		}
		if err != nil {
			t.Fatal(words, err)
		}
		if got := RenderHTML(d, ""); !strings.Contains(got, want) {
			t.Errorf("%s:\n%s\nwant %s", words, got[strings.Index(got, "<p"):], want)
		}
	}
}

// An address with a merged end is one link; one that goes on in a gap is none.
func TestRenderHTML_bareAddressOfParts(t *testing.T) {
	words := []document.Node{{Type: document.Text, Text: "Book: https://fernhollow.example/"}, {Type: document.Text, Text: "imre", Marks: []document.Mark{{Type: document.Merged, Attrs: &document.MarkAttrs{Path: "sender.first_name"}}}}, {Type: document.Text, Text: ", or call"}}
	d := Formatted(document.NewPlain(""))
	d.Content = []document.Node{document.NewParagraph(words...)}
	if got := RenderHTML(d, ""); strings.Count(got, `<a href="https://fernhollow.example/imre"`) != 1 || !strings.Contains(got, "</a>, or call") {
		t.Error(got)
	}
	d.Content = []document.Node{document.NewParagraph(words[0], document.Node{Type: document.GapNode, Attrs: &document.Attrs{Label: "First name"}})}
	if got := RenderHTML(d, ""); strings.Contains(got, "<a ") {
		t.Error(got)
	}
}

// Formatting a plain letter makes links that the writer sees; fixed wording stays.
func TestFormatted_bareAddresses(t *testing.T) {
	d := Formatted(markup.Parse("See https://x.example/a now\nhttps://y.example/{{person.city}}\n\n{{fixed}}\nhttps://z.example\n{{/fixed}}"))
	if got := markup.Print(d); !strings.Contains(got, `<a href="https://x.example/a">https://x.example/a</a> now`) || strings.Count(got, "<a ") != 1 {
		t.Error(got)
	}
}
