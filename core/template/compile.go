package template

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// block is a line, or lines under a condition.
type block struct {
	row  row
	when *condition // nil for a row
	in   []block
	at   int // in the text form
}

// row is one line of the template as steps.
type row struct {
	steps []step
	tidy  bool // has an occurrence that may be left out
	drop  bool // a line that held nothing but a comment
	plain bool // nothing but words and fields: the short way is enough
}

// kindOf a step.
type stepKind uint8

const (
	wordsStep stepKind = iota
	fieldStep
	blankStep
	breakStep
	whenStep
)

// step writes words, a field or a blank, or holds steps under a condition.
type step struct {
	kind     stepKind
	place    safehtml.Place       // in an HTML body or an address
	marks    []document.Mark      // of formatted words
	link     *address             // of these marks, when it holds fields
	merged   []document.Mark      // in a formatted body, the marks of merged words
	ready    document.Prerendered // and of words, what they are written as
	at       int                  // in the text form
	markup   bool                 // words of an HTML body that are tags
	wall     bool                 // of these, one of a block is among them
	missing  document.Missing
	names    field.Record
	slot     int
	words    string
	path     string // a blank's begins with "?"
	fallback string
	as       field.Form
	def      field.Def
	blank    *document.BlankDef
	when     *condition
	in       []step
}

// unknown is the slot of a field that the catalogue does not have.
const unknown = -1

// Compile checks a template against a catalogue and flattens it. The program
// is usable even with notes: what could not be understood becomes a gap, so
// that it cannot be sent.
//
// In an HTML body the source is kept as it is, and every value is made safe for
// its place; a value where it cannot be made safe is a red note.
//
// The notes are about the places of the template as it is written; what is wrong
// in a passage is a note at its mark.
func Compile(t Template, cat *field.Catalogue) (*Program, []document.Note) {
	names := PassagesIn(t.Subject, t.Body)
	if len(names) == 0 || t.Passages == nil {
		return compile(t, cat)
	}
	_, notes := compile(t, cat)
	whole := t
	whole.Subject, whole.Body, whole.Passages = Expand(t.Subject, t.Passages), Expand(t.Body, t.Passages), nil
	p, inner := compile(whole, cat)
	if !document.Stopping(notes) && document.Stopping(inner) {
		notes = append(notes, passageNote(t, names, inner))
	}
	return p, notes
}

// passageNote says that what a passage brings into a template cannot go.
func passageNote(t Template, names []string, inner []document.Note) document.Note {
	n := inner[slices.IndexFunc(inner, func(n document.Note) bool { return n.Severity == document.Stops })]
	code := "{{>" + names[0] + "}}"
	for _, name := range names {
		if d, ok := t.Passages(name); ok && strings.Contains(markup.Print(d), n.Text) && n.Text != "" {
			code = "{{>" + name + "}}"
			break
		}
	}
	src := markup.Print(t.Body)
	at := document.Positions{Src: src}
	n.Part, n.Code, n.Where, n.Text, n.Length, n.Fixes = document.Body, "passage", "", code, len(code), nil
	n.Offset = max(strings.Index(src, code), 0)
	n.Line, n.Column = at.Of(n.Offset)
	n.Message = "In the passage " + code + ": " + n.Message
	return n
}

func compile(t Template, cat *field.Catalogue) (*Program, []document.Note) {
	c := compiler{cat: cat, known: t.Passages, p: &Program{sheet: t.Body.Attrs}, uses: map[field.Record]use{}, blanks: map[string]*document.BlankDef{}}
	subject, body := markup.Print(t.Subject), markup.Print(t.Body)
	// Read again, the same trees have places; blanks are declared anywhere.
	s, b := markup.Parse(subject), read(body, t.Body.Attrs.Body)
	c.declare(s.Content)
	c.declare(b.Content)
	c.p.subject = c.part(document.Subject, subject, s)
	if t.Text != nil {
		text := markup.Print(*t.Text)
		d := markup.Parse(text)
		c.declare(d.Content)
		c.p.text = c.part(document.TextPart, text, d)
	}
	c.begin(document.Body, body)
	switch t.Body.Attrs.Body {
	case document.BodyFormatted:
		c.p.tree = c.tree(b.Content, "")
	case document.BodyHTML:
		c.page = true
		c.p.body = c.lines(b.Content)
		c.htmlBody(body)
	default:
		c.p.body = c.lines(b.Content)
	}
	c.p.subjectRuns, c.p.bodyRuns = stretches(c.p.subject), stretches(c.p.body)
	c.p.needs = needsOf(c.p)
	c.p.fits, c.p.needsDeal = c.fits(), c.deal().path != ""
	return c.p, c.notes
}

// read reads the text form of any kind of body. The markup of a canonical tree
// can always be read.
func read(text, body string) document.Document {
	if body == document.BodyFormatted {
		d, err := markup.ParseMarkup(text)
		if err != nil {
			// What a caller did not check is kept as one mark that cannot be read.
			d.Content = []document.Node{document.NewParagraph(document.Node{Type: document.Malformed, Attrs: &document.Attrs{Code: "{{" + err.Error() + "}}"}})}
		}
		return d
	}
	if body == document.BodyHTML {
		return markup.ParseHTML(text)
	}
	return markup.Parse(text)
}

// Fits gives the kinds of record the template can be sent from: lead, contact
// (a deal may be chosen with it) and deal. None means that it mixes fields of
// a lead with fields of a contact or a deal.
func (p *Program) Fits() []field.Record { return p.fits }

// NeedsDeal tells whether a deal must be chosen before it can be merged.
func (p *Program) NeedsDeal() bool { return p.needsDeal }

// Plain tells whether the body is plain text.
func (p *Program) Plain() bool { return p.sheet.Body == document.BodyPlain }

// Blanks gives the blanks in the order in which they stand.
func (p *Program) Blanks() []document.BlankDef { return p.blanks }

type compiler struct {
	cat    *field.Catalogue
	known  Passages
	p      *Program
	notes  []document.Note
	count  int
	uses   map[field.Record]use // record named by a path, and the first such path
	blanks map[string]*document.BlankDef

	inPart document.Part
	at     document.Positions
	where  string  // the block of a formatted body
	page   bool    // the words are HTML
	inside *inside // an address is compiled
	fixed  bool    // the words are fixed
}

// htmlBody works out the places of the values of an HTML body.
func (c *compiler) htmlBody(src string) {
	var state safehtml.Tokenizer
	first := true
	c.htmlBlocks(c.p.body, &state, &first, func(s step, why string) {
		what := s.path
		if s.kind == whenStep || what == "" {
			what = "An only-when"
		}
		c.note(document.Stops, "unsafe", s.at, len(s.path), what, fmt.Sprintf("%s %s.", what, why))
	})
	for _, l := range Leftovers(render.PageText(src)) {
		c.note(document.Advises, "leftover", max(strings.Index(src, l.Text), 0), len(l.Text), l.Text,
			fmt.Sprintf("%s looks like an unfilled placeholder; make it a field or a blank.", l.Text), leftoverFix(l, c.cat)...)
	}
	for _, m := range pictureForm.FindAllStringSubmatchIndex(src, -1) {
		if from := src[m[2]:m[3]]; !strings.Contains(from, "{{") && !strings.Contains(from, ":") && !strings.HasPrefix(from, "//") {
			c.note(document.Advises, "relative", m[2], m[3]-m[2], from,
				fmt.Sprintf("The picture %s has no whole address, so that recipients do not see it; begin it with https.", markup.Clip(from, 60)))
		}
	}
}

var pictureForm = regexp.MustCompile(`(?i)<img\b[^>]*?\bsrc="([^"]+)"`)

func (c *compiler) htmlBlocks(blocks []block, s *safehtml.Tokenizer, first *bool, notes func(step, string)) {
	for i := range blocks {
		b := &blocks[i]
		if b.when != nil {
			inside := s.Clone()
			c.htmlBlocks(b.in, &inside, first, notes)
			if !inside.Same(s) {
				notes(step{kind: whenStep, at: b.at}, "begins and ends at different places of the page; put it around whole elements")
			}
			continue
		}
		if !*first {
			s.Words("\n")
		}
		*first = false
		b.row.steps = c.htmlPlaces(b.row.steps, s, notes)
	}
}

// declare finds the blanks, those in addresses too; the place that gives a kind
// settles it.
func (c *compiler) declare(nodes []document.Node) {
	for i := range nodes {
		n := &nodes[i]
		c.declare(n.Content)
		var addresses []string
		if n.Attrs != nil {
			addresses = append(addresses, n.Attrs.Href, n.Attrs.Src)
		}
		if link := document.LinkOf(n); link != nil {
			addresses = append(addresses, link.Href)
		}
		for _, a := range addresses {
			if strings.Contains(a, "{{") {
				c.declare(markup.Parse(a).Content)
			}
		}
		if n.Type != document.Blank {
			continue
		}
		a := n.Attrs
		d, seen := c.blanks[a.Name]
		if !seen {
			d = &document.BlankDef{Name: a.Name}
			c.blanks[a.Name] = d
		}
		if a.Kind != "" && d.Kind == "" {
			*d = document.BlankDef{Name: a.Name, Kind: a.Kind, Optional: a.Optional, Hint: a.Hint, Default: a.Default, Choices: a.Choices}
		}
		if a.Path != "" && d.Kind == "" {
			d.Kind = document.BlankColleague
		}
	}
}

func (c *compiler) part(part document.Part, src string, d document.Document) []block {
	c.begin(part, src)
	return c.lines(d.Content)
}

func (c *compiler) begin(part document.Part, src string) {
	c.inPart, c.at = part, document.Positions{Src: src}
	if at := strings.IndexRune(src, document.Unreadable); at >= 0 {
		c.note(document.Stops, "unreadable", at, utf8.RuneLen(document.Unreadable), string(document.Unreadable), "There is a sign that could not be read here (�); type what was meant.")
	}
	switch {
	case part == document.Subject && strings.Contains(src, "\n"):
		c.note(document.Stops, "twolines", strings.IndexByte(src, '\n'), 1, "", "The subject must be one line; remove the line break.")
	case part == document.Subject && len(src) > document.MaxSubject:
		c.note(document.Stops, "toolong", 0, len(src), "", fmt.Sprintf("The subject is longer than %d bytes; shorten it.", document.MaxSubject))
	case part == document.Body && len(src) > document.MaxBody:
		c.note(document.Stops, "toolong", 0, len(src), "", "The body is longer than 1 MiB; shorten it.")
	}
}

// lines compiles the lines of a plain or an HTML body.
func (c *compiler) lines(nodes []document.Node) []block {
	blocks := c.blocksOf(nodes)
	// A comment alone on the last line leaves the line before it ended.
	if k := len(blocks) - 1; k >= 0 && blocks[k].row.drop {
		blocks[k].row.drop = false
		blocks[k].row.steps = nil
	}
	return blocks
}

func (c *compiler) blocksOf(nodes []document.Node) []block {
	out := make([]block, 0, len(nodes))
	for _, n := range nodes {
		switch n.Type {
		case document.OnlyWhen:
			when := c.condition(n)
			out = append(out, block{when: when, in: c.blocksOf(n.Content), at: n.At})
		case document.Fixed:
			c.inFixed(func() { out = append(out, c.blocksOf(n.Content)...) })
		default:
			out = append(out, block{row: c.row(n)})
		}
	}
	return out
}

func (c *compiler) row(p document.Node) row {
	var r row
	comments, blank := 0, true
	for _, n := range p.Content {
		switch n.Type {
		case document.Text:
			blank = blank && strings.TrimSpace(n.Text) == ""
		case document.Comment:
			comments++
		default:
			blank = false
		}
	}
	// Standalone comments: Mustache specification, comments.yml.
	r.drop = comments == 1 && blank
	r.steps = c.steps(p.Content)
	r.plain = true
	for _, s := range r.steps {
		r.plain = r.plain && (s.kind == wordsStep || s.kind == fieldStep && s.missing != document.Leave)
		r.tidy = r.tidy || leaves(s)
	}
	return r
}

// leaves tells whether a step may leave something out.
func leaves(s step) bool {
	return s.missing == document.Leave || s.kind == blankStep && s.blank.Optional || s.kind == whenStep
}

func (c *compiler) steps(nodes []document.Node) []step {
	var out []step
	for i, n := range nodes {
		k := len(out)
		switch n.Type {
		case document.Text:
			out = append(out, step{kind: wordsStep, words: n.Text})
			c.leftovers(n)
		case document.Break:
			out = append(out, step{kind: breakStep})
		case document.Field:
			out = append(out, c.field(n))
		case document.Blank:
			out = append(out, c.blank(n))
		case document.When:
			when := c.condition(n)
			out = append(out, step{kind: whenStep, when: when, in: c.steps(n.Content)})
		case document.FixedText:
			c.inFixed(func() { out = append(out, c.steps(n.Content)...) })
			continue
		case document.Passage:
			code := markup.CodeOf(n)
			if c.known != nil {
				if _, ok := c.known(n.Attrs.Name); ok {
					continue
				}
			}
			c.note(document.Stops, "passage", n.At, len(code), code, fmt.Sprintf("There is no passage with the shortcut %s; choose another, or write its words here.", n.Attrs.Name))
			out = append(out, lost(code))
		case document.Malformed:
			code := n.Attrs.Code
			c.note(document.Stops, "malformed", n.At, len(code), code, fmt.Sprintf("%s cannot be read: %s.", code, markup.WhyMalformed(code)))
			out = append(out, lost(code))
		}
		if len(out) > k {
			out[k].at = n.At
			c.mayLack(&out[k], n)
			out[k].marks = n.Marks
			if c.fixed {
				out[k].marks = append(n.Marks[:len(n.Marks):len(n.Marks)], document.Mark{Type: document.FixedMark})
			}
			if link := document.LinkOf(&n); k > 0 && i > 0 && link != nil && document.SameLink(document.LinkOf(&nodes[i-1]), link) {
				out[k].link = out[k-1].link
			} else {
				out[k].link = c.link(n)
			}
		}
	}
	return out
}

func (c *compiler) inFixed(compile func()) {
	outer := c.fixed
	c.fixed = true
	compile()
	c.fixed = outer
}

// leftovers notes hand-made marks of old texts. Words whose escapes were
// resolved may be longer in the source; their place is then that of the words.
func (c *compiler) leftovers(n document.Node) {
	if c.page || c.inside != nil {
		return
	}
	for _, l := range Leftovers(n.Text) {
		c.note(document.Advises, "leftover", n.At+l.From, len(l.Text), l.Text,
			fmt.Sprintf("%s looks like an unfilled placeholder; make it a field or a blank.", l.Text), leftoverFix(l, c.cat)...)
	}
}

func forms(list []field.Form) string {
	words := make([]string, len(list))
	for i, f := range list {
		words[i] = string(f)
	}
	return strings.Join(words, ", ")
}

func (c *compiler) note(s document.Severity, code string, at, length int, text, message string, fixes ...string) {
	if len(c.notes) >= document.MaxNotes {
		return
	}
	n := c.placed(at)
	n.Severity, n.Code, n.Length, n.Text, n.Message, n.Fixes = s, code, length, text, message, fixes
	c.notes = append(c.notes, n)
}

// placed gives a note without words at a place of the source.
func (c *compiler) placed(at int) document.Note {
	if c.inside != nil {
		at = c.inside.place(c.at.Src, at)
	}
	line, column := c.at.Of(at)
	return document.Note{Part: c.inPart, Line: line, Column: column, Where: c.where, Offset: at}
}
