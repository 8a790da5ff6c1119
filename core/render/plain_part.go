package render

import (
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// PlainPart gives the plain-text part of a template in the text form, as it is
// made by itself: what RenderText writes, with the marks in their places.
func PlainPart(d document.Document) string {
	switch d.Attrs.Body {
	case document.BodyFormatted:
		return textOf(coded(document.Clone(d.Content)))
	case document.BodyHTML:
		m := markup.Mask(markup.Print(d))
		return m.Give(PageText(m.Held), func(mark string) string { return mark })
	}
	return markup.Print(d)
}

// coded puts the marks of the text form for fields, blanks and conditions.
func coded(nodes []document.Node) []document.Node {
	out := make([]document.Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		switch n.Type {
		case document.Text:
			var b strings.Builder
			markup.PrintText(&b, markup.LiteralBefore(n.Text, true))
			n.Text = b.String()
		case document.Field, document.Blank, document.Passage, document.Malformed:
			n = document.Node{Type: document.Text, Text: markup.CodeOf(n), Marks: n.Marks}
		case document.Comment:
			continue
		case document.When, document.FixedText:
			open, end := markup.PrintPair(n)
			out = append(out, document.Node{Type: document.Text, Text: open})
			out = append(out, coded(n.Content)...)
			n = document.Node{Type: document.Text, Text: end}
		case document.OnlyWhen, document.Fixed:
			open, end := markup.PrintPair(n)
			out = append(out, document.NewParagraph(document.Node{Type: document.Text, Text: open}))
			out = append(out, coded(n.Content)...)
			n = document.NewParagraph(document.Node{Type: document.Text, Text: end})
		default:
			n.Content = coded(n.Content)
		}
		out = append(out, n)
	}
	return out
}
