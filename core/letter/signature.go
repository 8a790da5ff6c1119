package letter

import "slices"

const signaturePath = "sender.signature"

// IsBlank tells whether a document has nothing to show.
func IsBlank(d Document) bool {
	return !slices.ContainsFunc(d.Content, func(n Node) bool { return !blankNode(&n) })
}

func blankNode(n *Node) bool {
	switch {
	case holdsWords(n.Type):
		return isEmpty(*n)
	case n.Type == Image || n.Type == Button || n.Type == Divider:
		return false
	}
	return !slices.ContainsFunc(n.Content, func(n Node) bool { return !blankNode(&n) })
}

// PlaceSignature puts the blocks of a signature where a letter has the words of the
// field sender.signature on lines of their own, and tells whether there are any;
// words within other lines stay as they are. Further places lose theirs: a letter is
// signed once.
func PlaceSignature(d, signature Document) (out Document, placed bool) {
	d.Content, placed = placeIn(clone(d.Content), signature, false)
	return Canonical(d), placed
}

func placeIn(nodes []Node, signature Document, placed bool) ([]Node, bool) {
	var out []Node
	within := false // the line before holds the first line of the signature
	for _, n := range nodes {
		switch {
		case within && signed(&n):
		case !holdsWords(n.Type):
			within = false
			n.Content, placed = placeIn(n.Content, signature, placed)
		case signed(&n):
			if !placed {
				out = append(out, clone(signature.Content)...)
			}
			placed = true
			continue
		case slices.ContainsFunc(n.Content, func(w Node) bool { return pathOf(&w) == signaturePath }):
			placed, within = true, true
		default:
			within = false
		}
		out = append(out, n)
	}
	return out, placed
}

// signed tells whether a line holds the words of the signature alone.
func signed(line *Node) bool {
	return len(line.Content) > 0 && !slices.ContainsFunc(line.Content, func(w Node) bool { return w.Type != Break && pathOf(&w) != signaturePath })
}

// pathOf is the field that words came from or that a gap waits for.
func pathOf(n *Node) string {
	if n.Type == GapNode {
		return n.Attrs.Path
	}
	if m := mergedMark(n); m != nil {
		return m.Path
	}
	return ""
}

// AppendSignature puts a signature at the end of a letter, in a plain one behind an
// empty line.
func AppendSignature(d, signature Document) Document {
	d.Content = clone(d.Content)
	if k := len(d.Content) - 1; d.Attrs.Body == BodyPlain && (k < 1 || !isEmpty(d.Content[k])) {
		d.Content = append(d.Content, paragraph())
	}
	d.Content = append(d.Content, clone(signature.Content)...)
	return Canonical(d)
}
