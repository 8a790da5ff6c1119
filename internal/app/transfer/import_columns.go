package transfer

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// mapping settles which column of a file goes to which field.
type mapping struct {
	cat    *field.Catalogue
	table  *Table
	given  map[string]string // what somebody chose, by header
	before map[string]string // what they chose in earlier files, by header in plain words
	check  bool              // a column that is no field is a problem of it and not an error

	bad   domain.InvalidError
	taken map[string]string
}

// How a field was found for a column.
const (
	byPath     = "path"
	byName     = "name"
	byContents = "contents"
	asBefore   = "before"
	asChosen   = "chosen"
)

// columns gives the columns, and an error of what cannot be.
func (m *mapping) columns() ([]domain.Column, error) {
	m.taken = map[string]string{}
	header := unique(m.table.Header)
	out := make([]domain.Column, len(header))
	part := make([]bool, len(header))
	for i, h := range header {
		out[i] = domain.Column{Header: h, Type: m.typeOf(i), Example: m.example(i)}
		out[i].Path, out[i].How, part[i] = m.guess(h, strings.TrimSpace(m.table.Header[i]))
	}
	wholeNames(out, part)
	m.byContents(out)
	for i := range out {
		m.settle(&out[i])
	}
	if len(m.bad.Fields) > 0 {
		return out, &m.bad
	}
	for _, need := range []string{"person.email", "person.last_name", "person.full_name", "person.first_name", "company.name", "deal.name"} {
		if m.taken[need] != "" {
			return out, nil
		}
	}
	if m.check && slices.ContainsFunc(out, func(c domain.Column) bool { return c.Problem != "" }) {
		return out, nil // they can be chosen yet
	}
	return out, domain.Invalid("header", "has no column for a name or an email; map one to person.email")
}

// unique tells columns of one header apart.
func unique(header []string) []string {
	out := make([]string, len(header))
	seen := map[string]int{}
	for i, h := range header {
		h = strings.TrimSpace(h)
		if seen[h]++; seen[h] > 1 && h != "" {
			h = fmt.Sprintf("%s (%d)", h, seen[h])
		}
		out[i] = h
	}
	return out
}

// guess gives the field that a column is for: as somebody chose, by its path, as they chose
// before, by its label, or by a name that people use. Part tells that the name is of a part of
// the person's name, or of the whole one.
func (m *mapping) guess(h, name string) (path, how string, part bool) {
	if path, chosen := m.given[h]; chosen {
		return path, asChosen, false
	}
	if h == "" {
		return "-", "", false
	}
	if _, ok := m.cat.Find(name); ok {
		return name, byPath, false
	}
	words := field.PlainWords(name)
	if path, ok := m.before[words]; ok {
		if _, there := m.cat.Find(path); there || path == "-" {
			return path, asBefore, false
		}
	}
	for _, d := range m.cat.Fields() {
		if Importable(d) && field.PlainWords(d.Label) == words {
			return d.Path, byName, false
		}
	}
	if path, part := field.ColumnPath(name); path != "" {
		return path, byName, part
	}
	return "", "", false
}

// byContents finds fields for columns of unknown names by what stands in them.
func (m *mapping) byContents(out []domain.Column) {
	for i := range out {
		if out[i].Path != "" {
			continue
		}
		path := map[string]string{"email": "person.email", "phone": "person.phone", "url": "company.website"}[out[i].Type]
		if path == "" && m.each(i, func(s string) bool { return field.CountryCode(s) != "" }) {
			path = "person.country"
		}
		if path != "" && !slices.ContainsFunc(out, func(c domain.Column) bool { return c.Path == path }) {
			out[i].Path, out[i].How = path, byContents
		}
	}
}

// each tells whether something holds for every filled value of a column in the sample, of
// which there are two at least.
func (m *mapping) each(i int, holds func(s string) bool) bool {
	n := 0
	for _, row := range m.table.Sample {
		if i >= len(row) || strings.TrimSpace(row[i]) == "" {
			continue
		}
		if n++; !holds(strings.TrimSpace(row[i])) {
			return false
		}
	}
	return n > 1
}

// typeOf gives what the values of a column look like.
func (m *mapping) typeOf(i int) string {
	parses := func(t field.Type) func(s string) bool {
		return func(s string) bool {
			v, err := m.table.Look.Parse(field.Def{Path: "person.own.x", Type: t}, s)
			return err == nil && v.Type == t
		}
	}
	switch {
	case m.each(i, func(s string) bool { return field.CheckEmail(s) == nil }):
		return "email"
	case m.each(i, func(s string) bool {
		return strings.Contains(s, ".") && !strings.ContainsAny(s, " @") && parses(field.URL)(s) && !parses(field.Number)(s)
	}):
		return "url"
	case m.each(i, parses(field.Date)):
		return "date"
	case m.each(i, func(s string) bool { return parses(field.Number)(s) && !strings.HasPrefix(s, "+") && !longZero(s) }):
		return "number"
	case m.each(i, func(s string) bool { return looksLikePhone(s) && parses(field.Phone)(s) }):
		return "phone"
	case m.each(i, parses(field.YesNo)):
		return "yesno"
	}
	return "text"
}

// longZero tells of digits that are no number, such as 01632960001.
func longZero(s string) bool { return len(s) > 5 && s[0] == '0' && !strings.ContainsAny(s, ".,") }

// looksLikePhone tells of a value with six digits or more and no letters.
func looksLikePhone(s string) bool {
	digits := 0
	for _, r := range s {
		switch {
		case unicode.IsDigit(r):
			digits++
		case unicode.IsLetter(r):
			return false
		}
	}
	return digits >= 6
}

func (m *mapping) example(i int) string {
	for _, row := range m.table.Sample {
		if i < len(row) && strings.TrimSpace(row[i]) != "" {
			return firstRunes(strings.TrimSpace(row[i]), 60)
		}
	}
	return ""
}

func firstRunes(s string, n int) string {
	list := []rune(s)
	if len(list) <= n {
		return s
	}
	return string(list[:n-1]) + "…"
}

// settle looks whether a column can go where it is to.
func (m *mapping) settle(c *domain.Column) {
	path := c.Path
	c.Path, c.Guessed = "", c.How != asChosen && c.How != byPath
	if path == "-" {
		return
	}
	ref, ok := m.cat.Find(path)
	chosen := c.How == asChosen
	fail := func(format string, args ...any) {
		m.bad.Fields = append(m.bad.Fields, domain.FieldError{Where: "column " + c.Header, Why: fmt.Sprintf(format, args...)})
	}
	switch {
	case !ok && chosen:
		fail("goes to %s, which is not a field", path)
	case !ok && m.check:
		c.Problem = unknownColumn(m.cat, c.Header)
	case !ok:
		fail("%s", unknownColumn(m.cat, c.Header))
	case !Importable(ref.Def):
		fail("goes to %s, which cannot be imported with people; leave it out with \"-\"", path)
	case m.taken[ref.Def.Path] != "" && m.check && !chosen:
		c.Problem = fmt.Sprintf("goes to %s, and so does %s; choose another field, or leave it out with \"-\"", ref.Def.Path, m.taken[ref.Def.Path])
	case m.taken[ref.Def.Path] != "":
		fail("goes to %s, and so does %s; leave one of them out", ref.Def.Path, m.taken[ref.Def.Path])
	default:
		m.taken[ref.Def.Path] = c.Header
		c.Path, c.Label = ref.Def.Path, ref.Def.Label
	}
}

// wholeNames has a column that may be of a part of the name or of the whole stand for
// the whole one, when no column is of the other part.
func wholeNames(out []domain.Column, part []bool) {
	of := func(path string) int {
		return slices.IndexFunc(out, func(c domain.Column) bool { return c.Path == path })
	}
	for mine, other := range map[string]string{"person.first_name": "person.last_name", "person.last_name": "person.first_name"} {
		at := of(mine)
		if at >= 0 && part[at] && of(other) < 0 && of("person.full_name") < 0 {
			out[at].Path = "person.full_name"
		}
	}
}

func unknownColumn(cat *field.Catalogue, h string) string {
	if near := cat.Suggest(h, 1); len(near) > 0 {
		return fmt.Sprintf("is not a field; map it to %s, or leave it out with \"-\"", near[0])
	}
	return "is not a field; map it to one, or leave it out with \"-\""
}

// Importable tells whether a column of a file can be for a field.
func Importable(d field.Def) bool {
	switch d.Record {
	case field.Person, field.Contact, field.Company:
		return true
	case field.Lead:
		return d.Path != "lead.created"
	case field.Deal:
		return d.Own || slices.Contains([]string{"deal.name", "deal.stage", "deal.amount", "deal.close_date"}, d.Path)
	}
	return false
}
