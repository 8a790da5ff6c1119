package template

import (
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// Most of a formatted letter is the same for everybody. What a block without fields is
// written as is made once, when the template is compiled; of a block of words and fields
// that always stand, what is between the fields is. The node of a merged letter carries
// this, and the writers of HTML and of text copy it.

// prerendered is a block that is the same in every letter, or words, of which the HTML
// alone is used.
type prerendered struct {
	html string
	text []string
}

func (p *prerendered) AppendHTML(dst []byte) []byte { return append(dst, p.html...) }

func (p *prerendered) AppendText(dst []byte) []byte {
	for i, line := range p.text {
		if i > 0 {
			dst = append(dst, '\n')
		}
		dst = append(dst, line...)
	}
	return dst
}

func (p *prerendered) Lines() []string { return p.text }

func (p *prerendered) Silent() bool { return p.text == nil }

// withValues is a segmented block with the values of one letter, which do not change any
// more.
type withValues struct {
	*segmented
	v *field.Values
}

func (w *withValues) AppendHTML(dst []byte) []byte {
	for i, part := range w.html {
		dst = append(dst, part...)
		if i == len(w.steps) {
			break
		}
		if words, safe := w.v.Ready(w.steps[i].slot); safe {
			dst = append(dst, words...)
		} else {
			dst = safehtml.AppendEscaped(dst, words)
		}
	}
	return dst
}

func (w *withValues) AppendText(dst []byte) []byte {
	for i, part := range w.text {
		dst = append(dst, part...)
		if i < len(w.steps) {
			words, _ := w.v.Ready(w.steps[i].slot)
			dst = append(dst, words...)
		}
	}
	return dst
}

func (w *withValues) Lines() []string { return strings.Split(string(w.AppendText(nil)), "\n") }

func (w *withValues) Silent() bool { return false }

// settle makes what can be made beforehand.
func (c *compiler) settle(b *treeBlock) {
	if b.when != nil || b.href != nil || b.src != nil || b.row.tidy {
		return
	}
	fields := 0
	for i := range b.row.steps {
		s := &b.row.steps[i]
		switch {
		case s.link != nil || s.kind == whenStep || s.kind == blankStep || s.kind == fieldStep && (s.slot < 0 || document.LinkOf(&document.Node{Marks: s.marks}) != nil):
			return
		case s.kind == fieldStep:
			fields++
		}
	}
	for i := range b.in {
		in := &b.in[i]
		// How wide the columns of a table are in text depends on the values.
		if in.ready == nil && (in.segmented.html == nil || b.node.Type == document.TableRow || b.node.Type == document.TableCell || b.node.Type == document.TableHeading) {
			return
		}
		fields += len(in.segmented.steps)
	}
	if fields > 0 {
		b.segmented = c.segmentedOf(b)
		c.p.Segmented++
		return
	}
	n := b.node
	if !new(merger).block(b, &n) {
		return
	}
	n.Prerendered = &prerendered{html: render.BlockHTML(c.p.sheet, &n), text: render.TextBlock(&n)}
	b.ready = &n
}

// segmented is a block of words and fields, cut at its fields.
type segmented struct {
	html, text []string
	steps      []*step // the fields, in order
}

const cutHere = "\x01"

func (c *compiler) segmentedOf(b *treeBlock) segmented {
	var q segmented
	n := q.cut(b)
	q.html, q.text = strings.Split(render.BlockHTML(c.p.sheet, &n), cutHere), strings.Split(strings.Join(render.TextBlock(&n), "\n"), cutHere)
	if len(q.html) != len(q.steps)+1 || len(q.text) != len(q.steps)+1 {
		return segmented{} // the words hold the sign
	}
	return q
}

// cut gives the node of a block with the sign for every field.
func (q *segmented) cut(b *treeBlock) document.Node {
	if b.ready != nil {
		return *b.ready
	}
	n := b.node
	for i := range b.row.steps {
		switch s := &b.row.steps[i]; s.kind {
		case fieldStep:
			q.steps = append(q.steps, s)
			n.Content = append(n.Content, document.Node{Type: document.Text, Text: cutHere, Marks: s.marks})
		case breakStep:
			n.Content = append(n.Content, document.Node{Type: document.Break, Marks: s.marks})
		default:
			n.Content = append(n.Content, document.Node{Type: document.Text, Text: s.words, Marks: s.marks})
		}
	}
	for i := range b.in {
		n.Content = append(n.Content, q.cut(&b.in[i]))
	}
	return n
}

// written gives what a segmented block is written as, or nil when a value has no words to
// be copied.
func (m *merger) written(q *segmented) document.Prerendered {
	for _, s := range q.steps {
		if words, _ := m.v.Ready(s.slot); words == "" || !m.v.Serves(s.names) {
			return nil
		}
	}
	m.segments = append(m.segments, withValues{q, m.v})
	return &m.segments[len(m.segments)-1]
}

// room gives an empty list for n nodes out of what all blocks share.
func (m *merger) room(n int) []document.Node {
	if len(m.shared)+n > cap(m.shared) {
		return make([]document.Node, 0, n)
	}
	from := len(m.shared)
	m.shared = m.shared[:from+n]
	return m.shared[from : from : from+n]
}

// plainInside is the short way for words and fields of which none is left out.
func (m *merger) plainInside(r *row) []document.Node {
	out := m.room(len(r.steps))
	for i := range r.steps {
		s := &r.steps[i]
		if s.kind == fieldStep && s.link == nil && s.slot >= 0 && m.v.Serves(s.names) {
			if words, _ := m.v.Ready(s.slot); words != "" {
				out = append(out, document.Node{Type: document.Text, Text: words, Marks: s.merged})
				continue
			}
		}
		switch s.kind {
		case wordsStep:
			out = append(out, document.Node{Type: document.Text, Text: s.words, Marks: m.marks(s), Prerendered: s.ready})
		case breakStep:
			out = append(out, document.Node{Type: document.Break, Marks: m.marks(s)})
		default:
			out = appendPiece(out, m.piece(s))
		}
	}
	return out
}
