package markup

import (
	"strings"

	"lucidletter/core/document"
)

// WithCodes gives a formatted body or a subject in which what was typed or pasted as
// {{…}} is the field, the blank, the only-when or the malformed mark that it says, so
// that it is never mistaken for words. The input is left as it is.
func WithCodes(d document.Document) document.Document {
	if d.Attrs.Body == document.BodyHTML {
		return d
	}
	d.Content = withCodes(document.Clone(d.Content))
	return d
}

func withCodes(nodes []document.Node) []document.Node {
	for i := range nodes {
		n := &nodes[i]
		if !document.HoldsWords(n.Type) && n.Type != document.When && n.Type != document.FixedText {
			n.Content = withCodes(n.Content)
			continue
		}
		var out []document.Node
		for _, w := range n.Content {
			switch {
			case w.Type == document.Text && strings.Contains(w.Text, "{{"):
				out = append(out, inlineOf(w)...)
			case w.Type == document.When || w.Type == document.FixedText:
				out = append(out, withCodes([]document.Node{w})...)
			default:
				out = append(out, w)
			}
		}
		n.Content = out
	}
	return nodes
}

// inlineOf reads the marks in a text; what does not stand within one line stays words.
func inlineOf(w document.Node) []document.Node {
	parsed := Parse(w.Text)
	if len(parsed.Content) != 1 || parsed.Content[0].Type != document.Paragraph {
		return []document.Node{w}
	}
	nodes := parsed.Content[0].Content
	looked(nodes, w.Marks)
	return nodes
}

// looked gives nodes the look of the words that they were read from.
func looked(nodes []document.Node, marks []document.Mark) {
	for i := range nodes {
		nodes[i].Marks = marks
		looked(nodes[i].Content, marks)
	}
}
