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
