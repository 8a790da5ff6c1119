package transfer

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// mapColumns settles which column goes to which field. With check, a column
// that is not a field is a problem of that column and not an error.
func mapColumns(cat *field.Catalogue, header []string, given map[string]string, check bool) ([]domain.Column, error) {
	var bad domain.InvalidError
	taken := map[string]string{}
	out := make([]domain.Column, len(header))
	paths, part := make([]string, len(header)), make([]bool, len(header))
	for i, h := range header {
		paths[i], part[i] = guessColumn(cat, strings.TrimSpace(h))
	}
	wholeNames(paths, part)
	for i, h := range header {
		h = strings.TrimSpace(h)
		path, chosen := given[h]
		if !chosen {
			path = paths[i]
		}
		out[i] = domain.Column{Header: h, Guessed: !chosen && path != h}
		if path == "-" {
			continue
		}
		ref, ok := cat.Find(path)
		switch {
		case !ok && chosen:
			bad.Fields = append(bad.Fields, domain.FieldError{Where: "column " + h, Why: fmt.Sprintf("goes to %s, which is not a field", path)})
		case !ok && check:
			out[i].Problem = unknownColumn(cat, h)
		case !ok:
			bad.Fields = append(bad.Fields, domain.FieldError{Where: "column " + h, Why: unknownColumn(cat, h)})
		case !Importable(ref.Def):
			bad.Fields = append(bad.Fields, domain.FieldError{Where: "column " + h, Why: fmt.Sprintf("goes to %s, which cannot be imported with people; leave it out with \"-\"", path)})
		case taken[ref.Def.Path] != "" && check && !chosen:
			out[i].Problem = fmt.Sprintf("goes to %s, and so does %s; choose another field, or leave it out with \"-\"", ref.Def.Path, taken[ref.Def.Path])
		case taken[ref.Def.Path] != "":
			bad.Fields = append(bad.Fields, domain.FieldError{Where: "column " + h, Why: fmt.Sprintf("goes to %s, and so does %s; leave one of them out", ref.Def.Path, taken[ref.Def.Path])})
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
	return out, domain.Invalid("header", "has no column for a name or an email; map one to person.email")
}

// guessColumn gives the field that a column is for by its path, by its label, or by a
// name that people use. Part tells that the name is of a part of the person's name,
// or of the whole one.
func guessColumn(cat *field.Catalogue, h string) (path string, part bool) {
	if h == "" {
		return "-", false
	}
	if _, ok := cat.Find(h); ok {
		return h, false
	}
	words := field.PlainWords(h)
	for _, d := range cat.Fields() {
		if Importable(d) && field.PlainWords(d.Label) == words {
			return d.Path, false
		}
	}
	if path, part := field.ColumnPath(h); path != "" {
		return path, part
	}
	return h, false
}

// wholeNames has a column that may be of a part of the name or of the whole stand for
// the whole one, when no column is of the other part.
func wholeNames(paths []string, part []bool) {
	for mine, other := range map[string]string{"person.first_name": "person.last_name", "person.last_name": "person.first_name"} {
		at := slices.Index(paths, mine)
		if at >= 0 && part[at] && !slices.Contains(paths, other) && !slices.Contains(paths, "person.full_name") {
			paths[at] = "person.full_name"
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
	}
	return false
}
