package letter_test

import (
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/render"
)

// An address that may not be followed is kept and told, at its line.
func TestCheckLetter_addressOfAnotherKind(t *testing.T) {
	for _, href := range []string{"file:///C:/offer.pdf", "ftp://files.example/a", "sms:+44123", "https://a.example/my offer", "javascript:alert(1)", "C:\\offer.pdf", "data:text/html,x"} {
		link := document.Node{Type: document.Text, Text: "the offer", Marks: []document.Mark{{Type: document.Link, Attrs: &document.MarkAttrs{Href: href}}}}
		d := document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: 1, Body: document.BodyFormatted}, Content: []document.Node{document.NewParagraph(), {Type: document.Paragraph, Content: []document.Node{link}}}}
		if err := document.CheckLetterForm(d); err != nil {
			t.Errorf("%s: %v", href, err)
		}
		notes := slices.DeleteFunc(letter.CheckLetter(document.NewPlain("Offer"), d), func(n document.Note) bool { return n.Code != "address" })
		if len(notes) != 1 || notes[0].Text != href || notes[0].Line != 2 || !strings.Contains(notes[0].Message, "the offer") {
			t.Errorf("%s: %+v", href, notes)
		}
		if html := render.RenderHTML(d, ""); strings.Contains(html, strings.SplitN(href, ":", 2)[0]+":") || !strings.Contains(html, "the offer") {
			t.Errorf("%s: %s", href, html)
		}
	}
}
