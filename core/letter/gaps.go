package letter

import (
	"slices"
	"strings"
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
			openIn(&of.d.Content[i], func(a *Attrs) {
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

// openIn calls open for every gap in a node: as words and in addresses. The
// address of a link over several neighbouring nodes is one place.
func openIn(n *Node, open func(*Attrs)) {
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
		if link := linkOf(&n.Content[i]); link != nil && (i == 0 || !sameLink(linkOf(&n.Content[i-1]), link)) {
			for k := range link.Gaps {
				open(&link.Gaps[k])
			}
		}
		openIn(&n.Content[i], open)
	}
}

func linkOf(n *Node) *MarkAttrs {
	for _, m := range n.Marks {
		if m.Type == Link {
			return m.Attrs
		}
	}
	return nil
}

func sameLink(a, b *MarkAttrs) bool { return a != nil && b != nil && a.Href == b.Href }

// Fill puts words into every gap of a path and marks them as merged from it; in
// addresses they are made safe for their place. Nothing else in the document
// changes; the input is left as it is.
func Fill(d Document, path, words string) Document {
	out := d
	f := filler{path: path, words: words, body: d.Attrs.Body}
	out.Content = f.blocks(d.Content)
	return out
}

type filler struct {
	path, words, body string
}

func (f *filler) blocks(nodes []Node) []Node {
	out := make([]Node, 0, len(nodes))
	for _, n := range nodes {
		hit := false
		openIn(&n, func(a *Attrs) { hit = hit || a.Path == f.path })
		switch {
		case !hit:
			out = append(out, n)
			continue
		case n.Attrs != nil && len(n.Attrs.Gaps) > 0:
			n.Attrs = f.attrs(*n.Attrs)
		}
		if !holdsWords(n.Type) {
			n.Content = f.blocks(n.Content)
			out = append(out, n)
			continue
		}
		var pieces []filled
		for _, w := range n.Content {
			pieces = append(pieces, f.piece(w))
		}
		lines := toLines(pieces, false, f.body != BodyPlain)
		if f.body == BodyFormatted {
			n.Content = lines[0].Content
			lines = []Node{n}
		}
		out = append(out, lines...)
	}
	return out
}

// attrs fills the addresses of a button or a picture.
func (f *filler) attrs(a Attrs) *Attrs {
	gaps := a.Gaps
	a.Href, _ = fillAddress(a.Href, gaps, f.path, f.words)
	a.Src, a.Gaps = fillAddress(a.Src, gaps, f.path, f.words)
	return &a
}

func (f *filler) piece(n Node) filled {
	p := asPiece(n)
	for i, m := range p.marks {
		if m.Type == Link && m.Attrs != nil && len(m.Attrs.Gaps) > 0 {
			a := *m.Attrs
			a.Href, a.Gaps = fillAddress(a.Href, a.Gaps, f.path, f.words)
			p.marks = slices.Clone(p.marks)
			p.marks[i].Attrs = &a
		}
	}
	if p.gap != nil && p.gap.Path == f.path {
		p.text, p.path, p.in, p.gap = f.words, f.path, placeNamed(p.gap.Place), nil
	}
	return p
}

// asPiece gives a node of a letter's line as a piece again.
func asPiece(n Node) filled {
	f := filled{text: n.Text, brk: n.Type == Break}
	if n.Type == GapNode {
		f.gap = n.Attrs
	}
	for _, m := range n.Marks {
		if m.Type == Merged && m.Attrs != nil {
			f.path, f.in = m.Attrs.Path, placeNamed(m.Attrs.Place)
		} else {
			f.marks = append(f.marks, m)
		}
	}
	return f
}

// mergedMark gives what words were merged from, or nil.
func mergedMark(n *Node) *MarkAttrs {
	for _, m := range n.Marks {
		if m.Type == Merged && m.Attrs != nil {
			return m.Attrs
		}
	}
	return nil
}

// eachWord calls f for every node within the lines of a letter.
func eachWord(nodes []Node, f func(*Node)) {
	for i := range nodes {
		n := &nodes[i]
		if !holdsWords(n.Type) {
			eachWord(n.Content, f)
			continue
		}
		for k := range n.Content {
			f(&n.Content[k])
		}
	}
}

// mergedRun is a stretch of a line that came from one field: neighbouring nodes, since some
// of its words may look different.
type mergedRun struct {
	path, words string
	from, to    int // of the line's nodes
}

// runsIn gives the stretches of a line that came from fields.
func runsIn(line []Node) []mergedRun {
	var out []mergedRun
	for i := range line {
		m := mergedMark(&line[i])
		if m == nil || line[i].Type != Text {
			continue
		}
		if k := len(out) - 1; k >= 0 && out[k].to == i && sameSource(mergedMark(&line[i-1]), m) {
			out[k].words, out[k].to = out[k].words+line[i].Text, i+1
			continue
		}
		out = append(out, mergedRun{m.Path, line[i].Text, i, i + 1})
	}
	return out
}

// MergedPaths gives the words that stand in a letter for each field.
func MergedPaths(docs ...Document) map[string]string {
	out := map[string]string{}
	for _, d := range docs {
		eachLine(d.Content, func(line *Node) {
			for _, r := range runsIn(line.Content) {
				out[r.path] = r.words
			}
		})
	}
	return out
}

// Correct puts other words in place of those that were merged from a field, by their
// provenance: the same words elsewhere stay. The input is left as it is; addresses
// stay as they were merged.
func Correct(d Document, path, words string) Document {
	d.Content = clone(d.Content)
	eachLine(d.Content, func(line *Node) {
		runs := runsIn(line.Content)
		for i := len(runs) - 1; i >= 0; i-- {
			if r := runs[i]; r.path == path {
				line.Content[r.from].Text = words
				line.Content = slices.Delete(line.Content, r.from+1, r.to)
			}
		}
	})
	return d
}

// Reopen makes gaps again of the words that filled a field's gaps. The input is left as
// it is.
func Reopen(d Document, path, words, label string) Document {
	d.Content = clone(d.Content)
	eachLine(d.Content, func(line *Node) {
		runs := runsIn(line.Content)
		for i := len(runs) - 1; i >= 0; i-- {
			r := runs[i]
			if r.path != path || r.words != words {
				continue
			}
			n := &line.Content[r.from]
			place := mergedMark(n).Place
			*n = Node{Type: GapNode, Attrs: &Attrs{Path: path, Label: label, Place: place}, Marks: slices.DeleteFunc(slices.Clone(n.Marks), func(m Mark) bool { return m.Type == Merged })}
			line.Content = slices.Delete(line.Content, r.from+1, r.to)
		}
	})
	return d
}

func clone(nodes []Node) []Node {
	out := slices.Clone(nodes)
	for i := range out {
		out[i].Prerendered = nil // its words will change
		if out[i].Content != nil {
			out[i].Content = clone(out[i].Content)
		}
	}
	return out
}

// typedWords gives the words of a letter that did not come from fields, each of
// those standing as one sign, so that a company called XYZ is no left-over.
// BlockOf tells for every line the block, from 1, that it stands in.
func typedWords(d Document) (words string, blockOf []int) {
	var b strings.Builder
	if d.Attrs.Body == BodyHTML {
		d.Content = clone(d.Content)
		eachWord(d.Content, func(n *Node) {
			if mergedMark(n) != nil {
				n.Text = "\uFFFC"
			}
		})
		words = PageText(pageSource(d))
		return words, slices.Repeat([]int{1}, strings.Count(words, "\n")+1)
	}
	for i := range d.Content {
		lines := []*Node{&d.Content[i]}
		if !holdsWords(lines[0].Type) {
			lines = wordBlocks(lines[0])
		}
		for _, p := range lines {
			if len(blockOf) > 0 {
				b.WriteByte('\n')
			}
			blockOf = append(blockOf, i+1)
			for k := range p.Content {
				switch n := &p.Content[k]; {
				case n.Type == Break:
					b.WriteByte('\n')
					blockOf = append(blockOf, i+1)
				case n.Type != Text || mergedMark(n) != nil:
					b.WriteString("\uFFFC")
				default:
					b.WriteString(n.Text)
				}
			}
		}
	}
	return b.String(), blockOf
}

// wordBlocks gives the blocks with words inside a node.
func wordBlocks(n *Node) []*Node {
	var out []*Node
	for i := range n.Content {
		if c := &n.Content[i]; holdsWords(c.Type) {
			out = append(out, c)
		} else {
			out = append(out, wordBlocks(c)...)
		}
	}
	return out
}
