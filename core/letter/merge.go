package letter

import (
	"slices"
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

// Blanks holds what the writer filled in, by the name of the blank. A
// colleague's blank has one value a key: "host" (the full name) and
// "host.email". Nil means that nothing was filled in.
type Blanks map[string]field.Value

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

// Merge fills the program with values for a reader. Values are put in as they
// are and never read for marks again; in the subject their line breaks become
// spaces.
func (p *Program) Merge(v *field.Values, b Blanks, r *field.Reader) Letter {
	m := merger{v: v, b: b, r: r}
	l := Letter{Subject: m.document(p.subject, true), Body: m.document(p.body, false)}
	l.Gaps = Gaps(l.Subject, l.Body)
	return l
}

type merger struct {
	v       *field.Values
	b       Blanks
	r       *field.Reader
	oneLine bool
	out     []Node
	removed bool // a line before this one was removed by tidying
}

func (m *merger) document(blocks []block, oneLine bool) Document {
	m.oneLine, m.removed, m.out = oneLine, false, nil
	m.blocks(blocks)
	d := plainDoc()
	d.Content = m.out
	if len(d.Content) == 0 {
		d.Content = []Node{paragraph()}
	}
	return d
}

func (m *merger) blocks(blocks []block) {
	for i := range blocks {
		switch b := &blocks[i]; {
		case b.when != nil:
			if b.when.holds(m.v) {
				m.blocks(b.in)
			}
		case !b.row.drop:
			m.row(&b.row)
		}
	}
}

func (m *merger) row(r *row) {
	pieces := m.fill(make([]filled, 0, len(r.steps)), r.steps)
	start := 0
	for i := range len(pieces) + 1 {
		if i == len(pieces) || pieces[i].brk {
			m.line(pieces[start:i], r.tidy)
			start = i + 1
		}
	}
}

// line adds one line of the letter, tidied; it goes when nothing is left to
// say, and one of two empty lines around it goes, too.
func (m *merger) line(pieces []filled, tidied bool) {
	if tidied {
		var keep bool
		if pieces, keep = tidy(pieces); !keep {
			m.removed = true
			return
		}
	}
	lines := toLines(pieces, m.oneLine)
	if m.removed && isEmpty(lines[0]) && (len(m.out) == 0 || isEmpty(m.out[len(m.out)-1])) {
		return
	}
	m.removed = false
	m.out = append(m.out, lines...)
}

func isEmpty(p Node) bool {
	return !slices.ContainsFunc(p.Content, func(n Node) bool { return n.Type != Text || strings.TrimSpace(n.Text) != "" })
}

// filled is one piece of a merged line.
type filled struct {
	text string
	path string // of merged words
	gap  *Attrs // a gap stands here
	left bool   // a value that was left out stood here
	brk  bool   // the line ends here
	in   htmlPlace
}

func (m *merger) fill(out []filled, steps []step) []filled {
	for i := range steps {
		switch s := &steps[i]; s.kind {
		case wordsStep:
			out = append(out, filled{text: s.words})
		case breakStep:
			out = append(out, filled{brk: true})
		case whenStep:
			if s.when.holds(m.v) {
				out = m.fill(out, s.in)
			}
		case blankStep:
			out = append(out, m.blank(s))
		default:
			out = append(out, m.field(s))
		}
	}
	return out
}

// value gives the value of a field step, and whether there is one to write. A
// yes/no that is no is written, though it counts as empty.
func (s *step) value(v *field.Values) (field.Value, bool) {
	if s.slot < 0 || !v.Serves(s.names) {
		return field.Value{}, false
	}
	value := v.At(s.slot)
	return value, value.Filled() || value.Type == field.YesNo
}

// write appends a value in the form of this occurrence.
func (s *step) write(dst []byte, value field.Value, v *field.Values, r *field.Reader) []byte {
	if s.as == field.Relative {
		return r.AppendRelative(dst, value, v.Get("today"))
	}
	return r.Append(dst, value, s.as)
}

func (m *merger) field(s *step) filled {
	if value, ok := s.value(m.v); ok {
		return filled{text: string(s.write(nil, value, m.v, m.r)), path: s.path, in: s.place}
	}
	switch s.missing {
	case Instead:
		return filled{text: s.fallback, path: s.path, in: s.place}
	case Leave:
		return filled{left: true}
	}
	label := s.def.Label
	if label == "" {
		label = s.path
	}
	return filled{gap: &Attrs{Path: s.path, Label: label}}
}

func (m *merger) blank(s *step) filled {
	if value, ok := s.blankValue(m.b); ok {
		return filled{text: string(m.r.Append(nil, value, "")), path: s.path, in: s.place}
	}
	if s.blank.Optional {
		return filled{left: true}
	}
	d := s.blank
	return filled{gap: &Attrs{Path: s.path, Label: d.Label(), Kind: d.Kind, Hint: d.Hint, Choices: d.Choices}}
}

// blankValue gives what was filled in, or the default.
func (s *step) blankValue(b Blanks) (field.Value, bool) {
	if value := b[s.path[1:]]; value.Filled() {
		return value, true
	}
	if s.blank.Default == "" {
		return field.Value{}, false
	}
	value, err := field.Parse(s.blank.Type(), s.blank.Default, s.blank.Choices)
	return value, err == nil && value.Filled()
}

// toLines turns the pieces of a line into paragraphs: a long value may bring
// line breaks of its own.
func toLines(pieces []filled, oneLine bool) []Node {
	lines := []Node{paragraph()}
	for _, p := range pieces {
		last := &lines[len(lines)-1]
		if p.gap != nil {
			last.Content = append(last.Content, Node{Type: GapNode, Attrs: p.gap})
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
			last.Content = appendWords(last.Content, words, p.path, p.in)
		}
	}
	return lines
}

func appendWords(content []Node, words, path string, in htmlPlace) []Node {
	if words == "" {
		return content
	}
	n := Node{Type: Text, Text: words, place: in}
	if path != "" {
		n.Marks = []Mark{{Type: Merged, Attrs: &MarkAttrs{Path: path}}}
	} else if k := len(content) - 1; k >= 0 && content[k].Type == Text && len(content[k].Marks) == 0 {
		content[k].Text += words
		return content
	}
	return append(content, n)
}

// Gaps lists what is open in a letter, in the order of the eye, a path once.
// Type and Choices of fields are left to the caller's catalogue.
func Gaps(subject, body Document) []Gap {
	gaps := []Gap{}
	at := map[string]int{}
	collect := func(part Part, d Document) {
		for i, p := range d.Content {
			for _, n := range p.Content {
				if n.Type != GapNode {
					continue
				}
				a := n.Attrs
				if k, seen := at[a.Path]; seen {
					gaps[k].Count++
					continue
				}
				at[a.Path] = len(gaps)
				g := Gap{Path: a.Path, Label: a.Label, Kind: a.Kind, Hint: a.Hint, Choices: a.Choices, Part: part, Line: i + 1, Count: 1}
				g.Type = (&BlankDef{Kind: a.Kind}).Type()
				gaps = append(gaps, g)
			}
		}
	}
	collect(Subject, subject)
	collect(Body, body)
	return gaps
}

// Fill puts words into every gap of a path and marks them as merged from it.
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
		f.gap = n.Attrs
	}
	for _, m := range n.Marks {
		if m.Type == Merged && m.Attrs != nil {
			f.path = m.Attrs.Path
		}
	}
	return f
}

// MergedPaths gives the words that stand in a letter for each field.
func MergedPaths(docs ...Document) map[string]string {
	out := map[string]string{}
	for _, d := range docs {
		for _, p := range d.Content {
			for _, n := range p.Content {
				if path := asPiece(n).path; path != "" {
					out[path] = n.Text
				}
			}
		}
	}
	return out
}

// Correct puts other words in place of those that were merged from a field. The
// input is left as it is.
func Correct(d Document, path, words string) Document {
	out := d
	out.Content = make([]Node, len(d.Content))
	for i, p := range d.Content {
		out.Content[i] = p
		out.Content[i].Content = slices.Clone(p.Content)
		for k, n := range p.Content {
			if n.Type == Text && asPiece(n).path == path {
				out.Content[i].Content[k].Text = words
			}
		}
	}
	return out
}
