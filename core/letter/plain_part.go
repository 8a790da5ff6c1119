package letter

import "strings"

// PlainPart gives the plain-text part of a template in the text form, as it is
// made by itself: what RenderText writes, with the marks in their places.
func PlainPart(d Document) string {
	switch d.Attrs.Body {
	case BodyFormatted:
		return textOf(coded(clone(d.Content)))
	case BodyHTML:
		m := mask(Print(d))
		return m.give(PageText(m.held), func(mark string) string { return mark })
	}
	return Print(d)
}

// coded puts the marks of the text form for fields, blanks and conditions.
func coded(nodes []Node) []Node {
	out := make([]Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		switch n.Type {
		case Text:
			var b strings.Builder
			printText(&b, literalBefore(n.Text, true))
			n.Text = b.String()
		case Field, Blank, Passage, Malformed:
			n = Node{Type: Text, Text: codeOf(n), Marks: n.Marks}
		case Comment:
			continue
		case When, FixedText:
			open, end := printPair(n)
			out = append(out, Node{Type: Text, Text: open})
			out = append(out, coded(n.Content)...)
			n = Node{Type: Text, Text: end}
		case OnlyWhen, Fixed:
			open, end := printPair(n)
			out = append(out, paragraph(Node{Type: Text, Text: open}))
			out = append(out, coded(n.Content)...)
			n = paragraph(Node{Type: Text, Text: end})
		default:
			n.Content = coded(n.Content)
		}
		out = append(out, n)
	}
	return out
}
