package letter

import (
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// Fill puts words into every gap of a path and marks them as merged from it; in
// addresses they are made safe for their place. Nothing else in the document
// changes; the input is left as it is.
func Fill(d document.Document, path, words string) document.Document {
	out := d
	f := filler{path: path, words: words, body: d.Attrs.Body}
	out.Content = f.blocks(d.Content)
	return out
}

type filler struct {
	path, words, body string
}

func (f *filler) blocks(nodes []document.Node) []document.Node {
	out := make([]document.Node, 0, len(nodes))
	for _, n := range nodes {
		hit := false
		document.OpenGaps(&n, func(a *document.Attrs) { hit = hit || a.Path == f.path })
		switch {
		case !hit:
			out = append(out, n)
			continue
		case n.Attrs != nil && len(n.Attrs.Gaps) > 0:
			n.Attrs = f.attrs(*n.Attrs)
		}
		if !document.HoldsWords(n.Type) {
			n.Content = f.blocks(n.Content)
			out = append(out, n)
			continue
		}
		var pieces []template.Piece
		for _, w := range n.Content {
			pieces = append(pieces, f.piece(w))
		}
		lines := template.Lines(pieces, false, f.body != document.BodyPlain)
		if f.body == document.BodyFormatted {
			n.Content = lines[0].Content
			lines = []document.Node{n}
		}
		out = append(out, lines...)
	}
	return out
}

// attrs fills the addresses of a button or a picture.
func (f *filler) attrs(a document.Attrs) *document.Attrs {
	gaps := a.Gaps
	a.Href, _ = template.FillAddress(a.Href, gaps, f.path, f.words)
	a.Src, a.Gaps = template.FillAddress(a.Src, gaps, f.path, f.words)
	return &a
}

func (f *filler) piece(n document.Node) template.Piece {
	p := asPiece(n)
	for i, m := range p.Marks {
		if m.Type == document.Link && m.Attrs != nil && len(m.Attrs.Gaps) > 0 {
			a := *m.Attrs
			a.Href, a.Gaps = template.FillAddress(a.Href, a.Gaps, f.path, f.words)
			p.Marks = slices.Clone(p.Marks)
			p.Marks[i].Attrs = &a
		}
	}
	if p.Gap != nil && p.Gap.Path == f.path {
		p.Text, p.Path, p.In, p.Gap = f.words, f.path, safehtml.PlaceNamed(p.Gap.Place), nil
	}
	return p
}

// asPiece gives a node of a letter's line as a piece again.
func asPiece(n document.Node) template.Piece {
	f := template.Piece{Text: n.Text, Brk: n.Type == document.Break}
	if n.Type == document.GapNode {
		f.Gap = n.Attrs
	}
	for _, m := range n.Marks {
		if m.Type == document.Merged && m.Attrs != nil {
			f.Path, f.In = m.Attrs.Path, safehtml.PlaceNamed(m.Attrs.Place)
		} else {
			f.Marks = append(f.Marks, m)
		}
	}
	return f
}

// eachWord calls f for every node within the lines of a letter.
func eachWord(nodes []document.Node, f func(*document.Node)) {
	for i := range nodes {
		n := &nodes[i]
		if !document.HoldsWords(n.Type) {
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
func runsIn(line []document.Node) []mergedRun {
	var out []mergedRun
	for i := range line {
		m := document.MergedMark(&line[i])
		if m == nil || line[i].Type != document.Text {
			continue
		}
		if k := len(out) - 1; k >= 0 && out[k].to == i && sameSource(document.MergedMark(&line[i-1]), m) {
			out[k].words, out[k].to = out[k].words+line[i].Text, i+1
			continue
		}
		out = append(out, mergedRun{m.Path, line[i].Text, i, i + 1})
	}
	return out
}

// MergedPaths gives the words that stand in a letter for each field.
func MergedPaths(docs ...document.Document) map[string]string {
	out := map[string]string{}
	for _, d := range docs {
		document.EachLine(d.Content, func(line *document.Node) {
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
func Correct(d document.Document, path, words string) document.Document {
	d.Content = document.Clone(d.Content)
	document.EachLine(d.Content, func(line *document.Node) {
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
func Reopen(d document.Document, path, words, label string) document.Document {
	d.Content = document.Clone(d.Content)
	document.EachLine(d.Content, func(line *document.Node) {
		runs := runsIn(line.Content)
		for i := len(runs) - 1; i >= 0; i-- {
			r := runs[i]
			if r.path != path || r.words != words {
				continue
			}
			n := &line.Content[r.from]
			place := document.MergedMark(n).Place
			*n = document.Node{Type: document.GapNode, Attrs: &document.Attrs{Path: path, Label: label, Place: place}, Marks: slices.DeleteFunc(slices.Clone(n.Marks), func(m document.Mark) bool { return m.Type == document.Merged })}
			line.Content = slices.Delete(line.Content, r.from+1, r.to)
		}
	})
	return d
}

// typedWords gives the words of a letter that did not come from fields, each of
// those standing as one sign, so that a company called XYZ is no left-over.
// BlockOf tells for every line the block, from 1, that it stands in.
func typedWords(d document.Document) (words string, blockOf []int) {
	var b strings.Builder
	if d.Attrs.Body == document.BodyHTML {
		d.Content = document.Clone(d.Content)
		eachWord(d.Content, func(n *document.Node) {
			if document.MergedMark(n) != nil {
				n.Text = "\uFFFC"
			}
		})
		words = render.PageText(render.PageSource(d))
		return words, slices.Repeat([]int{1}, strings.Count(words, "\n")+1)
	}
	for i := range d.Content {
		lines := []*document.Node{&d.Content[i]}
		if !document.HoldsWords(lines[0].Type) {
			lines = wordBlocks(lines[0])
		}
		for _, p := range lines {
			if len(blockOf) > 0 {
				b.WriteByte('\n')
			}
			blockOf = append(blockOf, i+1)
			for k := range p.Content {
				switch n := &p.Content[k]; {
				case n.Type == document.Break:
					b.WriteByte('\n')
					blockOf = append(blockOf, i+1)
				case n.Type != document.Text || document.MergedMark(n) != nil:
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
func wordBlocks(n *document.Node) []*document.Node {
	var out []*document.Node
	for i := range n.Content {
		if c := &n.Content[i]; document.HoldsWords(c.Type) {
			out = append(out, c)
		} else {
			out = append(out, wordBlocks(c)...)
		}
	}
	return out
}
