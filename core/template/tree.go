package template

import (
	"strconv"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

// treeBlock is one block of a formatted body made ready: the node without what
// it holds, and either words or further blocks.
type treeBlock struct {
	node      document.Node
	when      *condition // of an only-when
	href      *address   // of a button or an image, when it holds fields
	src       *address   // of an image, when it holds fields
	words     bool
	row       row // of a block with words
	in        []treeBlock
	ready     *document.Node // of a block without fields, the node of every letter
	segmented segmented      // of a block of words and fields that always stand
}

// tree compiles the blocks of a formatted body.
func (c *compiler) tree(nodes []document.Node, where string) []treeBlock {
	out := make([]treeBlock, 0, len(nodes))
	for i, n := range nodes {
		at := where + "content[" + strconv.Itoa(i) + "]"
		c.where = at
		b := treeBlock{node: document.Node{Type: n.Type, Attrs: n.Attrs}}
		switch {
		case n.Type == document.OnlyWhen:
			b.when = c.condition(n)
		case document.HoldsWords(n.Type):
			b.words, b.row = true, row{steps: c.steps(n.Content), plain: true}
			for i := range b.row.steps {
				s := &b.row.steps[i]
				b.row.tidy = b.row.tidy || leaves(*s)
				b.row.plain = b.row.plain && s.kind != whenStep && s.kind != blankStep && s.missing != document.Leave
				s.merged = withMerged(s.marks, s.path, "")
				s.ready = &prerendered{html: string(safehtml.AppendEscaped(nil, s.words))}
			}
		}
		if n.Attrs != nil {
			if n.Attrs.Href != "" {
				b.href = c.address(n.Attrs.Href, n.At)
			}
			if n.Attrs.Src != "" {
				b.src = c.address(n.Attrs.Src, n.At)
				c.checkPicture(n)
			}
		}
		if !b.words {
			b.in = c.tree(n.Content, at+".")
		}
		if c.settle(&b); b.words && b.row.plain && b.ready == nil {
			c.p.nodes += len(b.row.steps)
		}
		out = append(out, b)
	}
	return out
}

func withMerged(marks []document.Mark, path, place string) []document.Mark {
	return append(marks[:len(marks):len(marks)], document.Mark{Type: document.Merged, Attrs: &document.MarkAttrs{Path: path, Place: place}})
}

// checkPicture notes a picture without words in its place, which some recipients
// see instead of it (HTML standard, section 4.8.4.4).
func (c *compiler) checkPicture(n document.Node) {
	if n.Attrs.Alt == "" {
		c.note(document.Advises, "alt", n.At, 4, "<img", "The picture has no words in its place; say in alt what it shows.")
	}
}

// keepsPlace tells whether a block stays when everything inside was left out,
// since those beside it would move.
func keepsPlace(t document.NodeType) bool {
	return t == document.TableCell || t == document.TableHeading || t == document.Column
}

// formatted merges a formatted body.
func (m *merger) formatted(p *Program) document.Document {
	m.oneLine, m.removed = false, false
	m.segments, m.shared = make([]withValues, 0, p.Segmented), make([]document.Node, 0, p.nodes)
	d := document.Document{Type: document.Doc, Attrs: p.sheet, Content: m.tree(p.tree)}
	if len(d.Content) == 0 {
		d.Content = []document.Node{document.NewParagraph()}
	}
	return d
}

// tree merges blocks. What was emptied by leaving out goes, and of two empty
// paragraphs around it one goes, too.
func (m *merger) tree(blocks []treeBlock) []document.Node {
	out := make([]document.Node, 0, len(blocks))
	removed := false
	for i := range blocks {
		b := &blocks[i]
		if b.when != nil {
			if why := b.when.undecided(m.v); why != "" {
				out = append(out, document.NewParagraph(document.Node{Type: document.GapNode, Attrs: b.when.openGap(why)}))
			} else if b.when.holds(m.v) {
				out = append(out, m.tree(b.in)...)
			}
			continue
		}
		k := len(out)
		out = append(out, b.node)
		if !m.block(b, &out[k]) {
			out, removed = out[:k], true
			if at := announcing(out); at > 0 && (b.node.Type == document.BulletList || b.node.Type == document.OrderedList) {
				openListIn(&out[at-1])
			}
			continue
		}
		if removed && emptyParagraph(&out[k]) && (k == 0 || emptyParagraph(&out[k-1])) {
			out = out[:k]
			continue
		}
		removed = false
	}
	return out
}

func emptyParagraph(n *document.Node) bool {
	return n.Type == document.Paragraph && document.HasNoWords(*n)
}

// block merges one block into a copy of its node; false when it is to go.
func (m *merger) block(b *treeBlock, n *document.Node) bool {
	if b.ready != nil {
		*n = *b.ready
		return true
	}
	keep := true
	if b.href != nil || b.src != nil {
		n.Attrs, keep = m.addresses(b)
	}
	switch {
	case b.words:
		var kept bool
		n.Content, kept = m.rowInside(&b.row)
		keep = keep && kept
	case n.Type == document.TableRow:
		return m.tableRow(b, n)
	case len(b.in) > 0:
		if n.Content = m.tree(b.in); len(n.Content) == 0 {
			n.Content = []document.Node{document.NewParagraph()}
			return keepsPlace(n.Type)
		}
	}
	if b.segmented.html != nil {
		n.Prerendered = m.written(&b.segmented)
	}
	return keep
}

// rowInside merges the words of one block. Lines that have nothing left to say
// go; false when all of them do.
func (m *merger) rowInside(r *row) ([]document.Node, bool) {
	if r.plain {
		return m.plainInside(r), true
	}
	pieces := m.fill(make([]Piece, 0, len(r.steps)), r.steps)
	if !r.tidy {
		return Lines(pieces, false, true)[0].Content, true
	}
	var out []Piece
	start, lines := 0, 0
	for i := range len(pieces) + 1 {
		if i < len(pieces) && !pieces[i].Brk {
			continue
		}
		if line, keep := tidy(pieces[start:i]); keep {
			if lines++; lines > 1 {
				out = append(out, Piece{Brk: true})
			}
			out = append(out, line...)
		}
		start = i + 1
	}
	return Lines(out, false, true)[0].Content, lines > 0
}

// tableRow merges a row of a table. It goes when something was left out and
// nothing stands behind its first cell, which is then only a label.
func (m *merger) tableRow(b *treeBlock, n *document.Node) bool {
	n.Content = make([]document.Node, len(b.in))
	emptied, said := false, false
	for i := range b.in {
		n.Content[i] = b.in[i].node
		m.block(&b.in[i], &n.Content[i]) // a cell stays
		empty := blockEmpty(&n.Content[i])
		emptied = emptied || empty && !templateEmpty(&b.in[i])
		said = said || !empty && (i > 0 || len(b.in) == 1)
	}
	return said || !emptied
}

func blockEmpty(n *document.Node) bool {
	for i := range n.Content {
		if c := &n.Content[i]; c.Type != document.Spacer && !emptyParagraph(c) {
			return false
		}
	}
	return true
}

// templateEmpty tells whether a cell of the template holds nothing at all.
func templateEmpty(b *treeBlock) bool {
	for i := range b.in {
		if in := &b.in[i]; !in.words || len(in.row.steps) > 0 {
			return false
		}
	}
	return true
}

// addresses merges the addresses of a button or a picture. A button that leads
// nowhere and a picture without a source go; a picture without a link stays.
func (m *merger) addresses(b *treeBlock) (*document.Attrs, bool) {
	a := *b.node.Attrs
	keep := true
	if b.href != nil {
		var gaps []document.Attrs
		a.Href, gaps = m.address(b.href)
		a.Gaps = append(a.Gaps, gaps...)
		keep = a.Href != "" || b.node.Type != document.Button
	}
	if b.src != nil {
		var gaps []document.Attrs
		a.Src, gaps = m.address(b.src)
		a.Gaps = append(a.Gaps, gaps...)
		keep = keep && a.Src != ""
	}
	return &a, keep
}
