package template

import (
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
)

// Template is the wording to start from: an optional subject of one line and a
// body. Text is the plain-text part of a formatted body or a page when it was
// written by hand; nil when it is made by itself. Passages finds the passages in
// it; nil knows none.
type Template struct {
	Subject  document.Document
	Body     document.Document
	Text     *document.Document
	Passages Passages
}

// Program is a checked and flattened template. It is safe for concurrent use.
type Program struct {
	subject, body    []block
	sheet            document.DocAttrs // of the body
	tree             []treeBlock       // of a formatted body, instead of body
	Segmented, nodes int               // how many of its blocks are segmented, and how many words and fields are in plain ones
	subjectRuns      []stretch
	bodyRuns         []stretch
	text             []block // the plain-text part, when it was written by hand
	needs            []need
	fits             []field.Record
	needsDeal        bool
	blanks           []document.BlankDef
	lacks            []Lack
}

// Lack is a place of a template where something may be left out: a field or a blank that
// may be empty, or the words of an only-when. At is a note without words at its place.
type Lack struct {
	Path    string
	Label   string
	Passage bool // the words of an only-when
	At      document.Note
}

// MayLack gives the places of a template where something may be left out, in its order.
func (p *Program) MayLack() []Lack { return p.lacks }

// mayLack keeps the place of a step that may be left out.
func (c *compiler) mayLack(s *step, n document.Node) {
	if !leaves(*s) {
		return
	}
	l := Lack{Path: s.path, Label: s.def.Label, At: c.placed(n.At)}
	switch {
	case s.kind == blankStep:
		l.Label = s.blank.Label()
	case s.kind == whenStep:
		l.Path, l.Label, l.Passage = s.when.path, s.when.path, true
		if ref, ok := c.cat.Find(l.Path); ok {
			l.Label = ref.Def.Label
		}
		l.At.Text, l.At.Length = l.Path, 0
	default:
		l.At.Text = markup.CodeOf(n)
		l.At.Length = len(l.At.Text)
	}
	if l.Label == "" {
		l.Label = l.Path
	}
	c.p.lacks = append(c.p.lacks, l)
}
