package letter

import "strings"

// Formatted gives a plain body as a formatted one: lines with an empty line
// between them are paragraphs, lines without one stand under each other. Other
// bodies are given back as they are.
func Formatted(d Document) Document {
	if d.Attrs.Body != BodyPlain {
		return d
	}
	out := Document{Type: Doc, Attrs: DocAttrs{Version: FormatVersion, Body: BodyFormatted, Lang: d.Attrs.Lang}}
	out.Content = formattedLines(d.Content)
	linkBlocks(out.Content)
	if len(out.Content) == 0 {
		out.Content = []Node{paragraph()}
	}
	return Canonical(out)
}

func formattedLines(lines []Node) []Node {
	var out []Node
	open := false // the last paragraph goes on
	for _, n := range lines {
		switch {
		case n.Type == OnlyWhen || n.Type == Fixed:
			if n.Content = formattedLines(n.Content); len(n.Content) > 0 {
				out = append(out, n)
			}
			open = false
		case isEmpty(n):
			open = false
		case open:
			last := &out[len(out)-1]
			last.Content = append(append(last.Content, Node{Type: Break}), n.Content...)
		default:
			out = append(out, paragraph(clone(n.Content)...))
			open = true
		}
	}
	return out
}

// Blank tells whether a document says nothing: no words but space, no fields, no
// pictures.
func (d *Document) Blank() bool { return blank(d.Content) }

func blank(nodes []Node) bool {
	for i := range nodes {
		switch n := &nodes[i]; n.Type {
		case Text:
			if strings.TrimSpace(n.Text) != "" {
				return false
			}
		case Field, Blank, Passage, Malformed, GapNode, Image, Divider:
			return false
		default:
			if !blank(n.Content) {
				return false
			}
		}
	}
	return true
}

// Readable gives the wording of a template for people: of a plain body and of a
// page the text form, of a formatted body its text with labels in ‹ › for fields
// and blanks.
func Readable(d Document, labelOf func(path string) string) string {
	if d.Attrs.Body != BodyFormatted {
		return Print(d)
	}
	return textOf(labelled(clone(d.Content), labelOf))
}

func labelled(nodes []Node, labelOf func(path string) string) []Node {
	for i := range nodes {
		n := &nodes[i]
		n.Prerendered = nil
		switch n.Type {
		case Field:
			*n = Node{Type: GapNode, Attrs: &Attrs{Label: labelOf(n.Attrs.Path)}, Marks: n.Marks}
		case Blank:
			*n = Node{Type: GapNode, Attrs: &Attrs{Label: strings.ReplaceAll(n.Attrs.Name, "_", " ")}, Marks: n.Marks}
		case Comment, Passage, Malformed:
			*n = Node{Type: Text, Text: codeOf(*n), Marks: n.Marks}
		case OnlyWhen:
			n.Content = append([]Node{paragraph(Node{Type: Text, Text: "(only when " + labelOf(n.Attrs.Path) + whenTail(n.Attrs) + ")"})}, labelled(n.Content, labelOf)...)
			n.Type = Fixed
		default:
			labelled(n.Content, labelOf)
		}
	}
	return nodes
}

func whenTail(a *Attrs) string {
	switch {
	case a.Op == "" && a.Not:
		return " is empty"
	case a.Op == "":
		return ""
	}
	return strings.TrimPrefix(printCondition(a), a.Path)
}

// Words gives what a template says as text to be searched, with … for its fields
// and blanks.
func Words(d Document) string {
	d.Content = onlyWords(clone(d.Content))
	return RenderText(d)
}

func onlyWords(nodes []Node) []Node {
	out := make([]Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		switch n.Type {
		case Text, Break:
			out = append(out, n)
		case Field, Blank, Passage, GapNode:
			out = append(out, Node{Type: Text, Text: "…"})
		case Comment, Malformed:
		case When, FixedText, OnlyWhen, Fixed:
			out = append(out, onlyWords(n.Content)...)
		default:
			n.Content = onlyWords(n.Content)
			out = append(out, n)
		}
	}
	return out
}
