package records

import (
	"context"
	"net/mail"
	"slices"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/domain"
)

// ReadAddresses reads a list of addresses as people paste them: names before or
// behind, in brackets of any kind, one to a line or between commas and semicolons.
// What has no address in it is given back.
func ReadAddresses(text string) (found []domain.Address, rest []string) {
	for _, piece := range splitAddresses(text) {
		if len(piece) > maxPiece {
			rest = append(rest, markup.Clip(piece, 80))
			continue
		}
		if one, err := mail.ParseAddress(piece); err == nil && field.CheckEmail(one.Address) == nil {
			found = append(found, domain.Address{Name: one.Name, Email: one.Address})
			continue
		}
		// Quotation marks stand around words; within one they are an apostrophe.
		words := strings.FieldsFunc(piece, func(r rune) bool { return strings.ContainsRune(" \t<>()[]{}\"“„«»", r) })
		for i := range words {
			words[i] = strings.TrimFunc(words[i], func(r rune) bool { return strings.ContainsRune("'‘’”", r) })
		}
		i := slices.IndexFunc(words, func(w string) bool { return field.CheckEmail(strings.TrimPrefix(w, "mailto:")) == nil })
		if i < 0 {
			rest = append(rest, piece)
			continue
		}
		email := strings.TrimPrefix(words[i], "mailto:")
		name := strings.Trim(strings.Join(slices.Delete(words, i, i+1), " "), " :-–")
		if last, first, ok := strings.Cut(name, ","); ok { // "Quill, Ada"
			name = strings.TrimSpace(first) + " " + strings.TrimSpace(last)
		}
		found = append(found, domain.Address{Name: strings.TrimSpace(name), Email: email})
	}
	return found, rest
}

// maxPiece is how many bytes a name and an address may have together (RFC 5321, section 4.5.3.1,
// allows the address 254).
const maxPiece = 1000

// splitAddresses cuts at line ends and semicolons, and at commas behind an address.
func splitAddresses(text string) []string {
	var out []string
	add := func(s string) {
		if s = strings.Trim(s, " \t,;"); s != "" {
			out = append(out, s)
		}
	}
	for _, part := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == '\r' || r == ';' }) {
		from, quoted, address := 0, false, false
		for i, r := range part {
			switch {
			case r == '"':
				quoted = !quoted
			case r == '@':
				address = true
			case r == ',' && !quoted && address:
				add(part[from:i])
				from, address = i+1, false
			}
		}
		add(part[from:])
	}
	return out
}

// Suppression tells what keeps letters from an address: it is on the list, a record with it
// says so, or letters came back from it.
func (a *Service) Suppression(ctx context.Context, email string) (domain.Suppression, error) {
	key := field.EmailKey(email)
	if key == "" {
		return domain.Suppression{}, nil
	}
	list, err := a.store.Suppressions(ctx, key)
	return list[key], err
}
