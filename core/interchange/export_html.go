package interchange

import (
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

// ExportHTML gives a template as a page with its marks, which ImportHTML reads: a
// page as it is, of a formatted or a plain body what is sent.
func ExportHTML(d document.Document, title string) string {
	if d.Attrs.Body == document.BodyHTML {
		return markup.Print(d)
	}
	h := holder{}
	out := render.Formatted(d)
	out.Content = h.nodes(document.Clone(out.Content))
	return h.Give(render.RenderHTML(out, title), func(mark string) string { return mark })
}

// holder puts words for the marks of a tree, so that what writes the tree cannot
// change them.
type holder struct{ markup.Masked }

func (h *holder) nodes(nodes []document.Node) []document.Node {
	out := make([]document.Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		n.Marks = h.links(n.Marks)
		if n.Attrs != nil && (n.Attrs.Href != "" || n.Attrs.Src != "") {
			a := *n.Attrs
			a.Href, a.Src = h.address(a.Href), h.address(a.Src)
			n.Attrs = &a
		}
		switch n.Type {
		case document.Text:
			n.Text = strings.ReplaceAll(n.Text, markup.MarkName, "")
			if strings.Contains(n.Text, "{{") {
				n.Text = h.literal(n.Text)
			}
		case document.Field, document.Blank, document.Passage, document.Malformed:
			n = document.Node{Type: document.Text, Text: h.Hold(markup.CodeOf(n)), Marks: n.Marks}
		case document.Comment:
			continue
		case document.When, document.FixedText:
			open, end := markup.PrintPair(n)
			out = append(out, document.Node{Type: document.Text, Text: h.Hold(open)})
			out = append(out, h.nodes(n.Content)...)
			n = document.Node{Type: document.Text, Text: h.Hold(end)}
		case document.OnlyWhen, document.Fixed:
			open, end := markup.PrintPair(n)
			out = append(out, document.NewParagraph(document.Node{Type: document.Text, Text: h.Hold(open)}))
			out = append(out, h.nodes(n.Content)...)
			n = document.NewParagraph(document.Node{Type: document.Text, Text: h.Hold(end)})
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
			b.WriteString(h.Hold(`\{{`))
		}
		b.WriteString(part)
	}
	return b.String()
}

func (h *holder) links(marks []document.Mark) []document.Mark {
	out := make([]document.Mark, len(marks))
	for i, m := range marks {
		if m.Type == document.Link && m.Attrs != nil {
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
	for _, p := range markup.Scan(src) {
		if p.Tag {
			b.WriteString(h.Hold(p.Raw))
		} else {
			b.WriteString(p.Raw)
		}
	}
	return b.String()
}
