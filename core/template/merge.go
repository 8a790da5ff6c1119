package template

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/safehtml"
)

// Letter is a template merged with one record: the subject and body with every
// merged word marked by its field, and what is missing.
type Letter struct {
	Subject document.Document
	Body    document.Document
	Text    *document.Document // the plain-text part when it was written by hand
	Gaps    []document.Gap
}

// Blanks holds what the writer filled in, by the name of the blank. A
// colleague's blank has one value a key: "host" (the full name) and
// "host.email". Nil means that nothing was filled in.
type Blanks map[string]field.Value

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
	if p.sheet.Body == document.BodyFormatted {
		l.Body = m.formatted(p)
	} else {
		l.Body = m.document(p.body, false, p.sheet.Body == document.BodyHTML)
		l.Body.Attrs = p.sheet
	}
	l.Body.Attrs.Lang = variant(l.Body.Attrs.Lang, r)
	if p.text == nil {
		l.Gaps = document.Gaps(l.Subject, l.Body)
		return l
	}
	text := m.document(p.text, false, false)
	text.Attrs.Lang = l.Body.Attrs.Lang
	l.Text, l.Gaps = &text, document.Gaps(l.Subject, l.Body, text)
	return l
}

type merger struct {
	v        *field.Values
	b        Blanks
	r        *field.Reader
	oneLine  bool
	page     bool // the body is HTML
	out      []document.Node
	removed  bool            // a line before this one was removed by tidying
	segments []withValues    // the segmented blocks of a formatted body
	awaited  int             // the line, from 1, that announces a list of which nothing has stood yet
	shared   []document.Node // room for the words of its blocks
}

func (m *merger) document(blocks []block, oneLine, page bool) document.Document {
	m.oneLine, m.page, m.removed, m.out, m.awaited = oneLine, page, false, nil, 0
	m.blocks(blocks)
	m.openList()
	d := document.PlainDoc()
	d.Content = m.out
	if len(d.Content) == 0 {
		d.Content = []document.Node{document.NewParagraph()}
	}
	return d
}

func (m *merger) blocks(blocks []block) {
	for i := range blocks {
		switch b := &blocks[i]; {
		case b.when != nil:
			if why := b.when.undecided(m.v); why != "" {
				m.out = append(m.out, document.NewParagraph(document.Node{Type: document.GapNode, Attrs: b.when.openGap(why)}))
			} else if b.when.holds(m.v) {
				m.blocks(b.in)
			}
		case !b.row.drop:
			m.row(&b.row)
		}
	}
}

func (m *merger) row(r *row) {
	pieces := m.fill(make([]Piece, 0, len(r.steps)), r.steps)
	start := 0
	for i := range len(pieces) + 1 {
		if i == len(pieces) || pieces[i].Brk {
			m.line(pieces[start:i], r.tidy)
			start = i + 1
		}
	}
}

// line adds one line of the letter, tidied; it goes when nothing is left to
// say, and one of two empty lines around it goes, too.
func (m *merger) line(pieces []Piece, tidied bool) {
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
	lines := Lines(pieces, m.oneLine, m.page)
	if m.removed && document.HasNoWords(lines[0]) && (len(m.out) == 0 || document.HasNoWords(m.out[len(m.out)-1])) {
		return
	}
	m.removed = false
	m.out = append(m.out, lines...)
}

// itemOf tells whether a line is an item of a list that was typed with signs.
func itemOf(pieces []Piece) bool {
	return len(pieces) > 0 && pieces[0].Path == "" && typedItem.MatchString(pieces[0].Text)
}

var typedItem = regexp.MustCompile(`^\s*(?:[-–•*·]|\d{1,2}[.)])\s`)

func blankPieces(pieces []Piece) bool {
	return !slices.ContainsFunc(pieces, func(p Piece) bool { return p.Gap != nil || strings.TrimSpace(p.Text) != "" })
}

// announcing gives the last line, counted from 1, if it announces something: "Here is
// what I noted:"; 0 otherwise.
func announcing(lines []document.Node) int {
	k := len(lines)
	for k > 0 && document.HasNoWords(lines[k-1]) {
		k--
	}
	if k == 0 || !announces(&lines[k-1]) {
		return 0
	}
	return k
}

func announces(line *document.Node) bool {
	return strings.HasSuffix(strings.TrimSpace(WordsIn(line.Content)), ":")
}

// openList has the writer say what of an announced list is nothing left of.
func (m *merger) openList() {
	if m.awaited > 0 {
		openListIn(&m.out[m.awaited-1])
	}
	m.awaited = 0
}

func openListIn(line *document.Node) {
	line.Content = append(slices.Clone(line.Content), document.Node{Type: document.Text, Text: " "}, document.Node{Type: document.GapNode, Attrs: &document.Attrs{
		Path: "?list", Label: "The list", Kind: document.BlankLong, Hint: "Nothing is left of the list that this line announces. Write it here, or delete the line.",
	}})
	line.Prerendered = nil
}

// Piece is one piece of a merged line.
type Piece struct {
	Text    string
	Path    string          // of merged words
	Marks   []document.Mark // of formatted words
	Gap     *document.Attrs // a gap stands here
	left    bool            // a value that was left out stood here
	gone    string          // what was left out: its field, or the field of the only-when
	passage bool            // the words of an only-when were left out here
	Brk     bool            // the line ends here
	raw     bool            // a piece of HTML
	wall    bool            // HTML that holds a tag of a block
	In      safehtml.Place
}

func (m *merger) fill(out []Piece, steps []step) []Piece {
	for i := range steps {
		switch s := &steps[i]; s.kind {
		case wordsStep:
			out = append(out, Piece{Text: s.words, Marks: m.marks(s), raw: s.markup, wall: s.wall})
		case breakStep:
			out = append(out, Piece{Brk: true, Marks: m.marks(s)})
		case whenStep:
			if why := s.when.undecided(m.v); why != "" {
				out = append(out, Piece{Gap: s.when.openGap(why)})
			} else if s.when.holds(m.v) {
				out = m.fill(out, s.in)
			} else if !m.page {
				out = append(out, Piece{left: true, gone: s.when.path, passage: true})
			}
		default:
			out = append(out, m.piece(s))
		}
	}
	return out
}

// piece merges a field or a blank.
func (m *merger) piece(s *step) Piece {
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

func (m *merger) field(s *step) Piece {
	if value, ok := s.value(m.v); ok {
		return Piece{Text: string(s.write(nil, value, m.v, m.r)), Path: s.path, In: s.place, Marks: m.marks(s)}
	}
	switch s.missing {
	case document.Instead:
		return Piece{Text: s.fallback, Path: s.path, In: s.place, Marks: m.marks(s)}
	case document.Leave:
		return m.leftOut(s)
	}
	label := s.def.Label
	if label == "" {
		label = s.path
	}
	return Piece{Gap: &document.Attrs{Path: s.path, Label: label, Place: safehtml.PlaceNames[s.place]}, Marks: m.marks(s)}
}

func (m *merger) blank(s *step) Piece {
	if value, ok := s.blankValue(m.b); ok {
		return Piece{Text: string(m.r.Append(nil, value, s.as)), Path: s.path, In: s.place, Marks: m.marks(s)}
	}
	if s.blank.Optional {
		return m.leftOut(s)
	}
	d := s.blank
	gap := &document.Attrs{Path: s.path, Label: d.Label(), Kind: d.Kind, Hint: d.Hint, Choices: d.Choices, Place: safehtml.PlaceNames[s.place]}
	return Piece{Gap: gap, Marks: m.marks(s)}
}

// leftOut marks the place of what was left out. In an attribute of an HTML body
// nothing is tidied.
func (m *merger) leftOut(s *step) Piece {
	return Piece{left: !m.page || s.place == safehtml.InText, raw: m.page && s.place != safehtml.InText, gone: s.path}
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

// Lines turns the pieces of a line into paragraphs: a long value may bring
// line breaks of its own, which are breaks within the paragraph if so wanted.
func Lines(pieces []Piece, oneLine, breaks bool) []document.Node {
	lines := []document.Node{document.NewParagraph()}
	for _, p := range joined(pieces) {
		last := &lines[len(lines)-1]
		if p.Gap != nil || p.Brk || breaks {
			last.Content = appendPiece(last.Content, p)
			continue
		}
		text := document.NormalLines(p.Text)
		if oneLine || p.In != safehtml.InText {
			text = strings.ReplaceAll(text, "\n", " ")
		}
		for words, more := "", true; more; {
			words, text, more = strings.Cut(text, "\n")
			last.Content = appendWords(last.Content, words, p)
			if more {
				lines = append(lines, document.NewParagraph())
				last = &lines[len(lines)-1]
			}
		}
	}
	return lines
}

// joined makes one piece of neighbouring words with the same marks.
func joined(pieces []Piece) []Piece {
	words := func(p *Piece) bool { return p.Path == "" && p.Gap == nil && !p.Brk }
	out := make([]Piece, 0, len(pieces))
	for i := 0; i < len(pieces); {
		p := pieces[i]
		k := i + 1
		for words(&p) && k < len(pieces) && words(&pieces[k]) && document.SameMarks(pieces[k].Marks, p.Marks) {
			k++
		}
		if k > i+1 {
			var b strings.Builder
			for _, one := range pieces[i:k] {
				b.WriteString(one.Text)
			}
			p.Text = b.String()
		}
		out = append(out, p)
		i = k
	}
	return out
}

// appendPiece adds a piece to a line. Its line breaks stay within the line, or in
// an attribute become spaces.
func appendPiece(content []document.Node, p Piece) []document.Node {
	switch {
	case p.Gap != nil:
		return append(content, document.Node{Type: document.GapNode, Attrs: p.Gap, Marks: p.Marks})
	case p.Brk:
		return append(content, document.Node{Type: document.Break, Marks: p.Marks})
	}
	text := document.NormalLines(p.Text)
	if p.In != safehtml.InText {
		text = strings.ReplaceAll(text, "\n", " ")
	}
	for words, more := "", true; more; {
		words, text, more = strings.Cut(text, "\n")
		content = appendWords(content, words, p)
		if more {
			content = append(content, document.Node{Type: document.Break, Marks: p.Marks})
		}
	}
	return content
}

func appendWords(content []document.Node, words string, p Piece) []document.Node {
	if words == "" {
		return content
	}
	n := document.Node{Type: document.Text, Text: words, Marks: p.Marks}
	if p.Path != "" {
		n.Marks = withMerged(p.Marks, p.Path, safehtml.PlaceNames[p.In])
	} else if k := len(content) - 1; k >= 0 && content[k].Type == document.Text && document.SameMarks(content[k].Marks, n.Marks) {
		content[k].Text += words
		content[k].Prerendered = nil
		return content
	}
	return append(content, n)
}
