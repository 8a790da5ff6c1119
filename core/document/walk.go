package document

import (
	"slices"
	"strings"

	"lucidletter/core/field"
)

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

// Gap is a value that the letter needs and does not have: of a field, or of a
// blank, whose path begins with "?". One gap stands for every place of the
// same path; Part and Line are those of the first. Optional is that of a blank.
type Gap struct {
	Path    string
	Label   string
	Type    field.Type
	Kind    string // of a blank
	Hint    string
	Choices []string
	Part    Part
	Line    int // from 1, in the merged letter
	Count   int
}

// HasNoWords tells whether a block holds no more than white space.
func HasNoWords(p Node) bool {
	return !slices.ContainsFunc(p.Content, func(n Node) bool { return n.Type != Text || strings.TrimSpace(n.Text) != "" })
}

// EachLine visits the blocks with words.
func EachLine(nodes []Node, visit func(*Node)) {
	for i := range nodes {
		if HoldsWords(nodes[i].Type) {
			visit(&nodes[i])
		} else {
			EachLine(nodes[i].Content, visit)
		}
	}
}

// HoldsWords tells whether a block holds words and not blocks.
func HoldsWords(t NodeType) bool { return t == Paragraph || t == Heading || t == Button }
