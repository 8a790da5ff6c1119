package letter

import (
	"fmt"
	"strings"

	"lucidletter/core/field"
)

// Template is the wording to start from: an optional subject of one line and a
// body.
type Template struct {
	Subject Document
	Body    Document
}

// Program is a checked and flattened template. It is safe for concurrent use.
type Program struct {
	subject, body []row
	fits          []field.Record
	needsDeal     bool
}

// row is one line of the template as steps.
type row struct {
	steps []step
	leave bool // has an occurrence that may be left out
	drop  bool // a line that held nothing but a comment
}

// step writes words (Slot below 0) or one field.
type step struct {
	words    string
	slot     int
	path     string
	def      field.Def
	names    field.Record
	missing  Missing
	fallback string
	as       field.Form
}

// Compile checks a template against a catalogue and flattens it. The program
// is usable even with notes: what could not be understood becomes a gap, so
// that it cannot be sent.
func Compile(t Template, cat *field.Catalogue) (*Program, []Note) {
	c := compiler{cat: cat}
	p := &Program{}
	p.subject = c.part(Subject, t.Subject)
	p.body = c.part(Body, t.Body)
	p.fits = c.fits()
	p.needsDeal = c.deal() != ""
	return p, c.notes
}

// Fits gives the kinds of record the template can be sent from: lead, contact
// (a deal may be chosen with it) and deal. None means that it mixes fields of
// a lead with fields of a contact or a deal.
func (p *Program) Fits() []field.Record { return p.fits }

// NeedsDeal tells whether a deal must be chosen before it can be merged.
func (p *Program) NeedsDeal() bool { return p.needsDeal }

type compiler struct {
	cat    *field.Catalogue
	notes  []Note
	fields int
	uses   map[field.Record]string // record named by a path, and the first such path

	inPart Part
	at     places
}

func (c *compiler) part(part Part, d Document) []row {
	src := Print(d)
	d = Parse(src) // the same tree, with places
	c.inPart, c.at = part, places{src: src}
	switch {
	case part == Subject && len(d.Content) > 1:
		c.note(Stops, "twolines", len(Print(Document{Content: d.Content[:1]})), 1, "", "The subject must be one line; take the line break out.")
	case part == Subject && len(src) > MaxSubject:
		c.note(Stops, "toolong", 0, len(src), "", fmt.Sprintf("The subject is longer than %d bytes; shorten it.", MaxSubject))
	case part == Body && len(src) > MaxBody:
		c.note(Stops, "toolong", 0, len(src), "", "The body is longer than 1 MiB; shorten it.")
	}
	rows := make([]row, 0, len(d.Content))
	for _, p := range d.Content {
		rows = append(rows, c.row(p))
	}
	return rows
}

func (c *compiler) row(p Node) row {
	var r row
	comments, blank := 0, true
	for _, n := range p.Content {
		switch n.Type {
		case Text:
			r.steps = append(r.steps, step{words: n.Text, slot: -1})
			blank = blank && strings.TrimSpace(n.Text) == ""
			continue
		case Comment:
			comments++
			continue
		case Field:
			s := c.field(n)
			r.leave = r.leave || s.missing == Leave
			r.steps = append(r.steps, s)
		case Malformed:
			why := whyMalformed(n.Attrs.Code)
			c.note(Stops, "malformed", n.at, len(n.Attrs.Code), n.Attrs.Code, fmt.Sprintf("%s cannot be read: %s.", n.Attrs.Code, why))
			r.steps = append(r.steps, step{slot: unknown, path: n.Attrs.Code, missing: MustBe})
		}
		blank = false
	}
	// Standalone comments: Mustache specification, comments.yml.
	r.drop = comments > 0 && blank
	return r
}

// unknown is the slot of a field that the catalogue does not have.
const unknown = -2

func (c *compiler) field(n Node) step {
	a := n.Attrs
	s := step{slot: unknown, path: a.Path, missing: a.Missing, fallback: a.Fallback, as: field.Form(a.As)}
	code := codeOf(n)
	if c.fields++; c.fields == MaxFields+1 {
		c.note(Stops, "toomany", n.at, len(code), code, fmt.Sprintf("The template has more than %d fields; split it.", MaxFields))
	}
	ref, ok := c.cat.Find(a.Path)
	if !ok {
		c.unknown(n, code)
		return s
	}
	s.slot, s.def, s.names = ref.Slot, ref.Def, ref.Names
	if c.uses == nil {
		c.uses = map[field.Record]string{}
	}
	if c.uses[ref.Names] == "" {
		c.uses[ref.Names] = a.Path
	}
	if !s.as.Takes(ref.Def.Type) {
		allowed := field.FormsOf(ref.Def.Type)
		message := fmt.Sprintf("%s cannot be written as %q; leave that out.", ref.Def.Label, a.As)
		fixes := []string{strings.Replace(code, " as "+a.As, "", 1)}
		if len(allowed) > 0 {
			message = fmt.Sprintf("%s cannot be written as %q; use %s.", ref.Def.Label, a.As, forms(allowed))
			fixes = nil
			for _, f := range allowed {
				fixes = append(fixes, strings.Replace(code, " as "+a.As, " as "+string(f), 1))
			}
		}
		c.note(Stops, "form", n.at, len(code), code, message, fixes...)
		s.as = ""
	}
	return s
}

func (c *compiler) unknown(n Node, code string) {
	near := c.cat.Suggest(n.Attrs.Path, 3)
	message := fmt.Sprintf("There is no field %s; pick one from the list.", n.Attrs.Path)
	var fixes []string
	if len(near) > 0 {
		message = fmt.Sprintf("There is no field %s; did you mean %s?", n.Attrs.Path, strings.Join(near, " or "))
	}
	for _, path := range near {
		fixes = append(fixes, strings.Replace(code, n.Attrs.Path, path, 1))
	}
	c.note(Stops, "unknown", n.at, len(code), code, message, fixes...)
}

func codeOf(n Node) string {
	var b strings.Builder
	printInline(&b, n, false)
	return b.String()
}

func forms(list []field.Form) string {
	words := make([]string, len(list))
	for i, f := range list {
		words[i] = string(f)
	}
	return strings.Join(words, ", ")
}

func (c *compiler) note(s Severity, code string, at, length int, text, message string, fixes ...string) {
	line, column := c.at.of(at)
	c.notes = append(c.notes, Note{
		Severity: s, Code: code, Part: c.inPart, Line: line, Column: column,
		Offset: at, Length: length, Text: text, Message: message, Fixes: fixes,
	})
}

// fits works out the kinds of record from the records that the paths name.
func (c *compiler) fits() []field.Record {
	lead, contact := c.uses[field.Lead], c.uses[field.Contact]
	deal := c.deal()
	switch {
	case lead != "" && contact != "":
		c.kinds(lead, contact)
		return nil
	case lead != "" && deal != "":
		c.kinds(lead, deal)
		return nil
	case lead != "":
		return []field.Record{field.Lead}
	case deal != "":
		return []field.Record{field.Deal, field.Contact}
	case contact != "":
		return []field.Record{field.Contact, field.Deal}
	}
	return []field.Record{field.Lead, field.Contact, field.Deal}
}

// deal gives the first path that needs a deal, or "".
func (c *compiler) deal() string {
	if path := c.uses[field.Deal]; path != "" {
		return path
	}
	return c.uses[field.MainContact]
}

func (c *compiler) kinds(a, b string) {
	c.notes = append(c.notes, Note{
		Severity: Stops, Code: "kinds", Part: Body, Line: 1, Column: 1, Text: b,
		Message: fmt.Sprintf("No record can fill this template: %s needs a lead, %s does not exist on one. Use person.… for fields that both have.", a, b),
	})
}
