package letter

import (
	"strings"

	"lucidletter/core/field"
)

// Letter is a template merged with one record: the subject and body with every
// merged word marked by its field, and what is missing.
type Letter struct {
	Subject Document
	Body    Document
	Gaps    []Gap
}

// Gap is a value that the letter needs and does not have. One gap stands for
// every place of the same field; Part and Line are those of the first.
type Gap struct {
	Path    string
	Label   string
	Type    field.Type
	Choices []string
	Part    Part
	Line    int // from 1, in the merged letter
	Count   int
}

// Merge fills the program with values for a reader. Values are put in as they
// are and never read for marks again; in the subject their line breaks become
// spaces.
func (p *Program) Merge(v *field.Values, r *field.Reader) Letter {
	l := Letter{Subject: mergeRows(p.subject, v, r, true), Body: mergeRows(p.body, v, r, false)}
	l.Gaps = Gaps(l.Subject, l.Body)
	return l
}

func mergeRows(rows []row, v *field.Values, r *field.Reader, oneLine bool) Document {
	d := plainDoc()
	removed := false // a line before this one was removed by tidying
	for _, row := range rows {
		if row.drop {
			continue
		}
		pieces := fillRow(row, v, r)
		if row.leave {
			var keep bool
			if pieces, keep = tidy(pieces); !keep {
				removed = true
				continue
			}
		}
		lines := toLines(pieces, oneLine)
		// Where a paragraph went as a whole, one of the two empty lines
		// around it goes too.
		if removed && isEmpty(lines[0]) && (len(d.Content) == 0 || isEmpty(d.Content[len(d.Content)-1])) {
			continue
		}
		removed = false
		d.Content = append(d.Content, lines...)
	}
	if len(d.Content) == 0 {
		d.Content = append(d.Content, paragraph())
	}
	return d
}

func isEmpty(p Node) bool {
	for _, n := range p.Content {
		if n.Type != Text || strings.TrimSpace(n.Text) != "" {
			return false
		}
	}
	return true
}

// filled is one piece of a merged line.
type filled struct {
	text string
	path string // of merged words and of a gap
	gap  string // the label of a gap
	left bool   // a value that was left out stood here
}

func fillRow(r row, v *field.Values, reader *field.Reader) []filled {
	out := make([]filled, 0, len(r.steps))
	for _, s := range r.steps {
		out = append(out, s.fill(v, reader))
	}
	return out
}

func (s *step) fill(v *field.Values, r *field.Reader) filled {
	if s.slot == -1 {
		return filled{text: s.words}
	}
	if s.slot >= 0 && v.Serves(s.names) {
		if value := v.At(s.slot); value.Filled() || value.Type == field.YesNo {
			return filled{text: string(r.Append(nil, value, s.as)), path: s.path}
		}
	}
	switch s.missing {
	case Instead:
		return filled{text: s.fallback, path: s.path}
	case Leave:
		return filled{left: true}
	}
	label := s.def.Label
	if label == "" {
		label = s.path
	}
	return filled{path: s.path, gap: label}
}

// toLines turns the pieces of a line into paragraphs: a long value may bring
// line breaks of its own.
func toLines(pieces []filled, oneLine bool) []Node {
	lines := []Node{paragraph()}
	for _, p := range pieces {
		last := &lines[len(lines)-1]
		if p.gap != "" {
			last.Content = append(last.Content, Node{Type: GapNode, Attrs: &Attrs{Path: p.path, Label: p.gap}})
			continue
		}
		text := p.text
		if oneLine {
			text = strings.ReplaceAll(normal(text), "\n", " ")
		}
		for i, words := range strings.Split(normal(text), "\n") {
			if i > 0 {
				lines = append(lines, paragraph())
				last = &lines[len(lines)-1]
			}
			last.Content = appendWords(last.Content, words, p.path)
		}
	}
	return lines
}

func appendWords(content []Node, words, path string) []Node {
	if words == "" {
		return content
	}
	n := Node{Type: Text, Text: words}
	if path != "" {
		n.Marks = []Mark{{Type: Merged, Attrs: &MarkAttrs{Path: path}}}
	} else if k := len(content) - 1; k >= 0 && content[k].Type == Text && len(content[k].Marks) == 0 {
		content[k].Text += words
		return content
	}
	return append(content, n)
}

// Gaps lists what is open in a letter, in the order of the eye, a field once.
// Type and Choices are left to the caller's catalogue.
func Gaps(subject, body Document) []Gap {
	gaps := []Gap{}
	at := map[string]int{}
	collect := func(part Part, d Document) {
		for i, p := range d.Content {
			for _, n := range p.Content {
				if n.Type != GapNode {
					continue
				}
				if k, seen := at[n.Attrs.Path]; seen {
					gaps[k].Count++
					continue
				}
				at[n.Attrs.Path] = len(gaps)
				gaps = append(gaps, Gap{Path: n.Attrs.Path, Label: n.Attrs.Label, Part: part, Line: i + 1, Count: 1})
			}
		}
	}
	collect(Subject, subject)
	collect(Body, body)
	return gaps
}

// Fill puts words into every gap of a field and marks them as merged from it.
// Nothing else in the document changes; the input is left as it is.
func Fill(d Document, path, words string) Document {
	out := d
	out.Content = make([]Node, 0, len(d.Content))
	for _, p := range d.Content {
		var pieces []filled
		hit := false
		for _, n := range p.Content {
			if n.Type == GapNode && n.Attrs.Path == path {
				pieces, hit = append(pieces, filled{text: words, path: path}), true
				continue
			}
			pieces = append(pieces, asPiece(n))
		}
		if !hit {
			out.Content = append(out.Content, p)
			continue
		}
		out.Content = append(out.Content, toLines(pieces, false)...)
	}
	return out
}

func asPiece(n Node) filled {
	f := filled{text: n.Text}
	if n.Type == GapNode {
		f.path, f.gap = n.Attrs.Path, n.Attrs.Label
	}
	for _, m := range n.Marks {
		if m.Type == Merged && m.Attrs != nil {
			f.path = m.Attrs.Path
		}
	}
	return f
}
