package app

import (
	"fmt"
	"strings"
	"unicode"

	"lucidletter/core/field"
)

// names of columns that people use beside paths and labels.
var columnNames = map[string]string{
	"e mail": "person.email", "email address": "person.email", "mail": "person.email", "firstname": "person.first_name", "given name": "person.first_name",
	"forename": "person.first_name", "surname": "person.last_name", "lastname": "person.last_name", "family name": "person.last_name",
	"name": "person.full_name", "title": "person.honorific", "salutation": "person.honorific", "position": "person.job_title", "role": "person.job_title",
	"telephone": "person.phone", "tel": "person.phone", "mobile": "person.phone", "town": "person.city", "company name": "company.name", "firm": "company.name",
	"organisation": "company.name", "organization": "company.name", "status": "lead.status", "source": "lead.source", "kind": "person.kind", "type": "person.kind",
}

func plainWords(s string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) }), " ")
}

// mapColumns settles which column goes to which field. With check, a column
// that is not a field is a problem of that column and not an error.
func mapColumns(cat *field.Catalogue, header []string, given map[string]string, check bool) ([]Column, error) {
	var bad InvalidError
	taken := map[string]string{}
	out := make([]Column, len(header))
	for i, h := range header {
		h = strings.TrimSpace(h)
		path, chosen := given[h]
		if !chosen {
			path = guessColumn(cat, h)
		}
		out[i] = Column{Header: h}
		if path == "-" {
			continue
		}
		ref, ok := cat.Find(path)
		switch {
		case !ok && chosen:
			bad.Fields = append(bad.Fields, FieldError{"column " + h, fmt.Sprintf("goes to %s, which is not a field", path)})
		case !ok && check:
			out[i].Problem = unknownColumn(cat, h)
		case !ok:
			bad.Fields = append(bad.Fields, FieldError{"column " + h, unknownColumn(cat, h)})
		case !importable(ref.Def):
			bad.Fields = append(bad.Fields, FieldError{"column " + h, fmt.Sprintf("goes to %s, which cannot be imported with people; leave it out with \"-\"", path)})
		case taken[ref.Def.Path] != "":
			bad.Fields = append(bad.Fields, FieldError{"column " + h, fmt.Sprintf("goes to %s, and so does %s; leave one of them out", ref.Def.Path, taken[ref.Def.Path])})
		default:
			taken[ref.Def.Path] = h
			out[i].Path, out[i].Label = ref.Def.Path, ref.Def.Label
		}
	}
	if len(bad.Fields) > 0 {
		return out, &bad
	}
	for _, need := range []string{"person.email", "person.last_name", "person.full_name", "person.first_name"} {
		if taken[need] != "" {
			return out, nil
		}
	}
	return out, invalid("header", "has no column for a name or an email; map one to person.email")
}

func guessColumn(cat *field.Catalogue, h string) string {
	if h == "" {
		return "-"
	}
	if _, ok := cat.Find(h); ok {
		return h
	}
	words := plainWords(h)
	if path, ok := columnNames[words]; ok {
		return path
	}
	for _, d := range cat.Fields() {
		if importable(d) && plainWords(d.Label) == words {
			return d.Path
		}
	}
	return h
}

func unknownColumn(cat *field.Catalogue, h string) string {
	if near := cat.Suggest(h, 1); len(near) > 0 {
		return fmt.Sprintf("is not a field; map it to %s, or leave it out with \"-\"", near[0])
	}
	return "is not a field; map it to one, or leave it out with \"-\""
}

func importable(d field.Def) bool {
	switch d.Record {
	case field.Person, field.Contact, field.Company:
		return true
	case field.Lead:
		return d.Path != "lead.created"
	}
	return false
}
