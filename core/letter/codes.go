package letter

import "strings"

// WithCodes gives a formatted body or a subject in which what was typed or pasted as
// {{…}} is the field, the blank, the only-when or the malformed mark that it says, so
// that it is never mistaken for words. The input is left as it is.
func WithCodes(d Document) Document {
	if d.Attrs.Body == BodyHTML {
		return d
	}
	d.Content = withCodes(clone(d.Content))
	return d
}

func withCodes(nodes []Node) []Node {
	for i := range nodes {
		n := &nodes[i]
		if !holdsWords(n.Type) && n.Type != When && n.Type != FixedText {
			n.Content = withCodes(n.Content)
			continue
		}
		var out []Node
		for _, w := range n.Content {
			switch {
			case w.Type == Text && strings.Contains(w.Text, "{{"):
				out = append(out, inlineOf(w)...)
			case w.Type == When || w.Type == FixedText:
				out = append(out, withCodes([]Node{w})...)
			default:
				out = append(out, w)
			}
		}
		n.Content = out
	}
	return nodes
}

// inlineOf reads the marks in a text; what does not stand within one line stays words.
func inlineOf(w Node) []Node {
	parsed := Parse(w.Text)
	if len(parsed.Content) != 1 || parsed.Content[0].Type != Paragraph {
		return []Node{w}
	}
	nodes := parsed.Content[0].Content
	looked(nodes, w.Marks)
	return nodes
}

// looked gives nodes the look of the words that they were read from.
func looked(nodes []Node, marks []Mark) {
	for i := range nodes {
		nodes[i].Marks = marks
		looked(nodes[i].Content, marks)
	}
}
