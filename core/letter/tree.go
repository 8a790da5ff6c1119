package letter

import "strconv"

// treeBlock is one block of a formatted body made ready: the node without what
// it holds, and either words or further blocks.
type treeBlock struct {
	node  Node
	when  *condition // of an only-when
	href  *address   // of a button or an image, when it holds fields
	src   *address   // of an image, when it holds fields
	words bool
	row   row // of a block with words
	in    []treeBlock
}

// tree compiles the blocks of a formatted body.
func (c *compiler) tree(nodes []Node, where string) []treeBlock {
	out := make([]treeBlock, 0, len(nodes))
	for i, n := range nodes {
		at := where + "content[" + strconv.Itoa(i) + "]"
		c.where = at
		b := treeBlock{node: Node{Type: n.Type, Attrs: n.Attrs}}
		switch {
		case n.Type == OnlyWhen:
			b.when = c.condition(n)
		case holdsWords(n.Type):
			b.words, b.row = true, row{steps: c.steps(n.Content)}
			for _, s := range b.row.steps {
				b.row.tidy = b.row.tidy || leaves(s)
			}
		}
		if n.Attrs != nil {
			if n.Attrs.Href != "" {
				b.href = c.address(n.Attrs.Href, n.at)
			}
			if n.Attrs.Src != "" {
				b.src = c.address(n.Attrs.Src, n.at)
				c.checkPicture(n)
			}
		}
		if !b.words {
			b.in = c.tree(n.Content, at+".")
		}
		out = append(out, b)
	}
	return out
}

// holdsWords tells whether a block holds words and not blocks.
func holdsWords(t NodeType) bool { return t == Paragraph || t == Heading || t == Button }

// checkPicture notes a picture without words in its place, which some recipients
// see instead of it (HTML standard, section 4.8.4.4).
func (c *compiler) checkPicture(n Node) {
	if n.Attrs.Alt == "" {
		c.note(Advises, "alt", n.at, 4, "<img", "The picture has no words in its place; say in alt what it shows.")
	}
}

// keepsPlace tells whether a block stays when everything inside was left out,
// since those beside it would move.
func keepsPlace(t NodeType) bool { return t == TableCell || t == TableHeading || t == Column }

// formatted merges a formatted body.
func (m *merger) formatted(p *Program) Document {
	m.oneLine, m.removed = false, false
	d := Document{Type: Doc, Attrs: p.sheet, Content: m.tree(p.tree)}
	if len(d.Content) == 0 {
		d.Content = []Node{paragraph()}
	}
	return d
}

// tree merges blocks. What was emptied by leaving out goes, and of two empty
// paragraphs around it one goes, too.
func (m *merger) tree(blocks []treeBlock) []Node {
	out := make([]Node, 0, len(blocks))
	removed := false
	for i := range blocks {
		b := &blocks[i]
		if b.when != nil {
			if b.when.holds(m.v) {
				out = append(out, m.tree(b.in)...)
			}
			continue
		}
		n, keep := m.block(b)
		if !keep {
			removed = true
			continue
		}
		if removed && n.Type == Paragraph && isEmpty(n) && (len(out) == 0 || out[len(out)-1].Type == Paragraph && isEmpty(out[len(out)-1])) {
			continue
		}
		removed = false
		out = append(out, n)
	}
	return out
}

// block merges one block; false when it is to go.
func (m *merger) block(b *treeBlock) (Node, bool) {
	n := b.node
	keep := true
	if b.href != nil || b.src != nil {
		n.Attrs, keep = m.addresses(b)
	}
	switch {
	case b.words:
		var kept bool
		n.Content, kept = m.rowInside(&b.row)
		return n, keep && kept
	case n.Type == TableRow:
		return m.tableRow(b)
	case len(b.in) == 0:
		return n, keep
	}
	n.Content = m.tree(b.in)
	if len(n.Content) > 0 {
		return n, keep
	}
	if keepsPlace(n.Type) {
		n.Content = []Node{paragraph()}
		return n, true
	}
	return n, false
}

// rowInside merges the words of one block. Lines that have nothing left to say
// go; false when all of them do.
func (m *merger) rowInside(r *row) ([]Node, bool) {
	pieces := m.fill(make([]filled, 0, len(r.steps)), r.steps)
	if !r.tidy {
		return toLines(pieces, false, true)[0].Content, true
	}
	var out []filled
	start, lines := 0, 0
	for i := range len(pieces) + 1 {
		if i < len(pieces) && !pieces[i].brk {
			continue
		}
		if line, keep := tidy(pieces[start:i]); keep {
			if lines++; lines > 1 {
				out = append(out, filled{brk: true})
			}
			out = append(out, line...)
		}
		start = i + 1
	}
	return toLines(out, false, true)[0].Content, lines > 0
}

// tableRow merges a row of a table. It goes when something was left out and
// nothing stands behind its first cell, which is then only a label.
func (m *merger) tableRow(b *treeBlock) (Node, bool) {
	n := b.node
	emptied, said := false, false
	for i := range b.in {
		cell, _ := m.block(&b.in[i])
		n.Content = append(n.Content, cell)
		empty := blockEmpty(cell)
		emptied = emptied || empty && !templateEmpty(&b.in[i])
		said = said || !empty && (i > 0 || len(b.in) == 1)
	}
	return n, said || !emptied
}

func blockEmpty(n Node) bool {
	for _, c := range n.Content {
		switch {
		case c.Type == Paragraph && isEmpty(c):
		case c.Type == Spacer:
		default:
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
func (m *merger) addresses(b *treeBlock) (*Attrs, bool) {
	a := *b.node.Attrs
	keep := true
	if b.href != nil {
		var gaps []Attrs
		a.Href, gaps = m.address(b.href)
		a.Gaps = append(a.Gaps, gaps...)
		keep = a.Href != "" || b.node.Type != Button
	}
	if b.src != nil {
		var gaps []Attrs
		a.Src, gaps = m.address(b.src)
		a.Gaps = append(a.Gaps, gaps...)
		keep = keep && a.Src != ""
	}
	return &a, keep
}
