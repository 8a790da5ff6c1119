package letter

import (
	"strings"
)

// ExportHTML gives a template as a page with its marks, which ImportHTML reads: a
// page as it is, of a formatted or a plain body what is sent.
func ExportHTML(d Document, title string) string {
	if d.Attrs.Body == BodyHTML {
		return Print(d)
	}
	h := holder{}
	out := Formatted(d)
	out.Content = h.nodes(clone(out.Content))
	return h.give(RenderHTML(out, title), func(mark string) string { return mark })
}

// holder puts words for the marks of a tree, so that what writes the tree cannot
// change them.
type holder struct{ masked }

func (h *holder) nodes(nodes []Node) []Node {
	out := make([]Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		n.Marks = h.links(n.Marks)
		if n.Attrs != nil && (n.Attrs.Href != "" || n.Attrs.Src != "") {
			a := *n.Attrs
			a.Href, a.Src = h.address(a.Href), h.address(a.Src)
			n.Attrs = &a
		}
		switch n.Type {
		case Text:
			n.Text = strings.ReplaceAll(n.Text, markName, "")
			if strings.Contains(n.Text, "{{") {
				n.Text = h.literal(n.Text)
			}
		case Field, Blank, Passage, Malformed:
			n = Node{Type: Text, Text: h.hold(codeOf(n)), Marks: n.Marks}
		case Comment:
			continue
		case When, FixedText:
			open, end := printPair(n)
			out = append(out, Node{Type: Text, Text: h.hold(open)})
			out = append(out, h.nodes(n.Content)...)
			n = Node{Type: Text, Text: h.hold(end)}
		case OnlyWhen, Fixed:
			open, end := printPair(n)
			out = append(out, paragraph(Node{Type: Text, Text: h.hold(open)}))
			out = append(out, h.nodes(n.Content)...)
			n = paragraph(Node{Type: Text, Text: h.hold(end)})
		default:
			n.Content = h.nodes(n.Content)
		}
		out = append(out, n)
	}
	return out
}

// literal holds braces that are words, in their escaped form.
func (h *holder) literal(words string) string {
	var b strings.Builder
	for i, part := range strings.Split(words, "{{") {
		if i > 0 {
			b.WriteString(h.hold(`\{{`))
		}
		b.WriteString(part)
	}
	return b.String()
}

func (h *holder) links(marks []Mark) []Mark {
	out := make([]Mark, len(marks))
	for i, m := range marks {
		if m.Type == Link && m.Attrs != nil {
			a := *m.Attrs
			a.Href = h.address(a.Href)
			m.Attrs = &a
		}
		out[i] = m
	}
	return out
}

// address holds the marks of an address.
func (h *holder) address(src string) string {
	if !strings.Contains(src, "{{") {
		return src
	}
	var b strings.Builder
	for _, p := range scan(src) {
		if p.tag {
			b.WriteString(h.hold(p.raw))
		} else {
			b.WriteString(p.raw)
		}
	}
	return b.String()
}
