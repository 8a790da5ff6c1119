package document

import (
	"slices"
)

// Gaps lists what is open in a letter, in the order of the eye, a path once; last
// in a plain-text part that was written by hand. Type and Choices of fields are
// left to the caller's catalogue.
func Gaps(subject, body Document, text ...Document) []Gap {
	gaps := []Gap{}
	at := map[string]int{}
	type partOf struct {
		part Part
		d    Document
	}
	parts := []partOf{{Subject, subject}, {Body, body}}
	for _, d := range text {
		parts = append(parts, partOf{TextPart, d})
	}
	for _, of := range parts {
		for i := range of.d.Content {
			OpenGaps(&of.d.Content[i], func(a *Attrs) {
				if k, seen := at[a.Path]; seen {
					gaps[k].Count++
					return
				}
				at[a.Path] = len(gaps)
				gaps = append(gaps, Gap{
					Path: a.Path, Label: a.Label, Kind: a.Kind, Hint: a.Hint, Choices: a.Choices, Part: of.part, Line: i + 1, Count: 1,
					Type: (&BlankDef{Kind: a.Kind}).Type(),
				})
			})
		}
	}
	return gaps
}

// OpenGaps calls open for every gap in a node: as words and in addresses. The
// address of a link over several neighbouring nodes is one place.
func OpenGaps(n *Node, open func(*Attrs)) {
	if n.Prerendered != nil {
		return
	}
	if n.Attrs != nil {
		if n.Type == GapNode {
			open(n.Attrs)
		}
		for i := range n.Attrs.Gaps {
			open(&n.Attrs.Gaps[i])
		}
	}
	for i := range n.Content {
		if link := LinkOf(&n.Content[i]); link != nil && (i == 0 || !SameLink(LinkOf(&n.Content[i-1]), link)) {
			for k := range link.Gaps {
				open(&link.Gaps[k])
			}
		}
		OpenGaps(&n.Content[i], open)
	}
}

// LinkOf gives the link that words stand in, or nil.
func LinkOf(n *Node) *MarkAttrs {
	for _, m := range n.Marks {
		if m.Type == Link {
			return m.Attrs
		}
	}
	return nil
}

// SameLink tells whether two links lead to the same address.
func SameLink(a, b *MarkAttrs) bool { return a != nil && b != nil && a.Href == b.Href }

// MergedMark gives what words were merged from, or nil.
func MergedMark(n *Node) *MarkAttrs {
	for _, m := range n.Marks {
		if m.Type == Merged && m.Attrs != nil {
			return m.Attrs
		}
	}
	return nil
}

// Clone copies nodes with what is in them, so that they can be changed.
func Clone(nodes []Node) []Node {
	out := slices.Clone(nodes)
	for i := range out {
		out[i].Prerendered = nil // its words will change
		if out[i].Content != nil {
			out[i].Content = Clone(out[i].Content)
		}
	}
	return out
}
