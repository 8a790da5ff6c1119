package letter

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/field"
)

// Letter is a template merged with one record: the subject and body with every
// merged word marked by its field, and what is missing.
type Letter struct {
	Subject Document
	Body    Document
	Text    *Document // the plain-text part when it was written by hand
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

// variant gives the language of a letter: that of its reader, unless the words are of
// another one.
func variant(words string, r *field.Reader) string {
	if words == "" || field.SameLanguage(words, r.Locale()) {
		return r.Locale()
	}
	return words
}

// Merge fills the program with values for a reader. Values are put in as they
// are and never read for marks again; in the subject their line breaks become
// spaces.
func (p *Program) Merge(v *field.Values, b Blanks, r *field.Reader) Letter {
	m := merger{v: v, b: b, r: r}
	l := Letter{Subject: m.document(p.subject, true, false)}
	if p.sheet.Body == BodyFormatted {
		l.Body = m.formatted(p)
	} else {
		l.Body = m.document(p.body, false, p.sheet.Body == BodyHTML)
		l.Body.Attrs = p.sheet
	}
	l.Body.Attrs.Lang = variant(l.Body.Attrs.Lang, r)
	if p.text == nil {
		l.Gaps = Gaps(l.Subject, l.Body)
		return l
	}
	text := m.document(p.text, false, false)
	text.Attrs.Lang = l.Body.Attrs.Lang
	l.Text, l.Gaps = &text, Gaps(l.Subject, l.Body, text)
	return l
}

type merger struct {
	v        *field.Values
	b        Blanks
	r        *field.Reader
	oneLine  bool
	page     bool // the body is HTML
	out      []Node
	removed  bool         // a line before this one was removed by tidying
	segments []withValues // the segmented blocks of a formatted body
	awaited  int          // the line, from 1, that announces a list of which nothing has stood yet
	shared   []Node       // room for the words of its blocks
}

func (m *merger) document(blocks []block, oneLine, page bool) Document {
	m.oneLine, m.page, m.removed, m.out, m.awaited = oneLine, page, false, nil, 0
	m.blocks(blocks)
	m.openList()
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
			if why := b.when.undecided(m.v); why != "" {
				m.out = append(m.out, paragraph(Node{Type: GapNode, Attrs: b.when.openGap(why)}))
			} else if b.when.holds(m.v) {
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
	switch {
	case tidied && m.page:
		pieces = tidyPage(pieces)
	case tidied:
		var keep bool
		item := itemOf(pieces)
		if pieces, keep = tidy(pieces); !keep {
			m.removed = true
			if item && m.awaited == 0 {
				m.awaited = announcing(m.out)
			}
			return
		}
	}
	switch {
	case m.awaited == 0 || blankPieces(pieces):
	case itemOf(pieces):
		m.awaited = 0
	default:
		m.openList()
	}
	lines := toLines(pieces, m.oneLine, m.page)
	if m.removed && isEmpty(lines[0]) && (len(m.out) == 0 || isEmpty(m.out[len(m.out)-1])) {
		return
	}
	m.removed = false
	m.out = append(m.out, lines...)
}

// itemOf tells whether a line is an item of a list that was typed with signs.
func itemOf(pieces []filled) bool {
	return len(pieces) > 0 && pieces[0].path == "" && typedItem.MatchString(pieces[0].text)
}

var typedItem = regexp.MustCompile(`^\s*(?:[-–•*·]|\d{1,2}[.)])\s`)

func blankPieces(pieces []filled) bool {
	return !slices.ContainsFunc(pieces, func(p filled) bool { return p.gap != nil || strings.TrimSpace(p.text) != "" })
}

// announcing gives the last line, counted from 1, if it announces something: "Here is
// what I noted:"; 0 otherwise.
func announcing(lines []Node) int {
	k := len(lines)
	for k > 0 && isEmpty(lines[k-1]) {
		k--
	}
	if k == 0 || !announces(&lines[k-1]) {
		return 0
	}
	return k
}

func announces(line *Node) bool {
	return strings.HasSuffix(strings.TrimSpace(wordsIn(line.Content)), ":")
}

// openList has the writer say what of an announced list is nothing left of.
func (m *merger) openList() {
	if m.awaited > 0 {
		openListIn(&m.out[m.awaited-1])
	}
	m.awaited = 0
}

func openListIn(line *Node) {
	line.Content = append(slices.Clone(line.Content), Node{Type: Text, Text: " "}, Node{Type: GapNode, Attrs: &Attrs{
		Path: "?list", Label: "The list", Kind: BlankLong, Hint: "Nothing is left of the list that this line announces. Write it here, or delete the line.",
	}})
	line.Prerendered = nil
}

func isEmpty(p Node) bool {
	return !slices.ContainsFunc(p.Content, func(n Node) bool { return n.Type != Text || strings.TrimSpace(n.Text) != "" })
}

// filled is one piece of a merged line.
type filled struct {
	text  string
	path  string // of merged words
	marks []Mark // of formatted words
	gap   *Attrs // a gap stands here
	left  bool   // a value that was left out stood here
	brk   bool   // the line ends here
	raw   bool   // a piece of HTML
	wall  bool   // HTML that holds a tag of a block
	in    htmlPlace
}

func (m *merger) fill(out []filled, steps []step) []filled {
	for i := range steps {
		switch s := &steps[i]; s.kind {
		case wordsStep:
			out = append(out, filled{text: s.words, marks: m.marks(s), raw: s.markup, wall: s.wall})
		case breakStep:
			out = append(out, filled{brk: true, marks: m.marks(s)})
		case whenStep:
			if why := s.when.undecided(m.v); why != "" {
				out = append(out, filled{gap: s.when.openGap(why)})
			} else if s.when.holds(m.v) {
				out = m.fill(out, s.in)
			}
		default:
			out = append(out, m.piece(s))
		}
	}
	return out
}

// piece merges a field or a blank.
func (m *merger) piece(s *step) filled {
	if s.kind == blankStep {
		return m.blank(s)
	}
	return m.field(s)
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
		return filled{text: string(s.write(nil, value, m.v, m.r)), path: s.path, in: s.place, marks: m.marks(s)}
	}
	switch s.missing {
	case Instead:
		return filled{text: s.fallback, path: s.path, in: s.place, marks: m.marks(s)}
	case Leave:
		return m.leftOut(s)
	}
	label := s.def.Label
	if label == "" {
		label = s.path
	}
	return filled{gap: &Attrs{Path: s.path, Label: label, Place: placeNames[s.place]}, marks: m.marks(s)}
}

func (m *merger) blank(s *step) filled {
	if value, ok := s.blankValue(m.b); ok {
		return filled{text: string(m.r.Append(nil, value, s.as)), path: s.path, in: s.place, marks: m.marks(s)}
	}
	if s.blank.Optional {
		return m.leftOut(s)
	}
	d := s.blank
	gap := &Attrs{Path: s.path, Label: d.Label(), Kind: d.Kind, Hint: d.Hint, Choices: d.Choices, Place: placeNames[s.place]}
	return filled{gap: gap, marks: m.marks(s)}
}

// leftOut marks the place of what was left out. In an attribute of an HTML body
// nothing is tidied.
func (m *merger) leftOut(s *step) filled {
	return filled{left: !m.page || s.place == inText, raw: m.page && s.place != inText}
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
// line breaks of its own, which are breaks within the paragraph if so wanted.
func toLines(pieces []filled, oneLine, breaks bool) []Node {
	lines := []Node{paragraph()}
	for _, p := range joined(pieces) {
		last := &lines[len(lines)-1]
		if p.gap != nil || p.brk || breaks {
			last.Content = appendPiece(last.Content, p)
			continue
		}
		text := normal(p.text)
		if oneLine || p.in != inText {
			text = strings.ReplaceAll(text, "\n", " ")
		}
		for words, more := "", true; more; {
			words, text, more = strings.Cut(text, "\n")
			last.Content = appendWords(last.Content, words, p)
			if more {
				lines = append(lines, paragraph())
				last = &lines[len(lines)-1]
			}
		}
	}
	return lines
}

// joined makes one piece of neighbouring words with the same marks.
func joined(pieces []filled) []filled {
	words := func(p *filled) bool { return p.path == "" && p.gap == nil && !p.brk }
	out := make([]filled, 0, len(pieces))
	for i := 0; i < len(pieces); {
		p := pieces[i]
		k := i + 1
		for words(&p) && k < len(pieces) && words(&pieces[k]) && sameMarks(pieces[k].marks, p.marks) {
			k++
		}
		if k > i+1 {
			var b strings.Builder
			for _, one := range pieces[i:k] {
				b.WriteString(one.text)
			}
			p.text = b.String()
		}
		out = append(out, p)
		i = k
	}
	return out
}

// appendPiece adds a piece to a line. Its line breaks stay within the line, or in
// an attribute become spaces.
func appendPiece(content []Node, p filled) []Node {
	switch {
	case p.gap != nil:
		return append(content, Node{Type: GapNode, Attrs: p.gap, Marks: p.marks})
	case p.brk:
		return append(content, Node{Type: Break, Marks: p.marks})
	}
	text := normal(p.text)
	if p.in != inText {
		text = strings.ReplaceAll(text, "\n", " ")
	}
	for words, more := "", true; more; {
		words, text, more = strings.Cut(text, "\n")
		content = appendWords(content, words, p)
		if more {
			content = append(content, Node{Type: Break, Marks: p.marks})
		}
	}
	return content
}

func appendWords(content []Node, words string, p filled) []Node {
	if words == "" {
		return content
	}
	n := Node{Type: Text, Text: words, Marks: p.marks}
	if p.path != "" {
		n.Marks = withMerged(p.marks, p.path, placeNames[p.in])
	} else if k := len(content) - 1; k >= 0 && content[k].Type == Text && sameMarks(content[k].Marks, n.Marks) {
		content[k].Text += words
		content[k].Prerendered = nil
		return content
	}
	return append(content, n)
}
