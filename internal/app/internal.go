package app

import (
	"context"
	"errors"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/field"
)

// StartInternal makes a draft to colleagues about a deal. The values are those of
// the deal and its main contact; the letter is filed on the deal alone.
func (a *App) StartInternal(ctx context.Context, u User, dealID int64, colleagues []int64, templateID *int64) (LetterSheet, error) {
	d, err := a.Store.Deal(ctx, dealID)
	if err != nil {
		return LetterSheet{}, err
	}
	if d.MainContactID == nil {
		return LetterSheet{}, invalid("dealId", "has no main contact, whose values a letter needs; give it one first")
	}
	to, err := a.colleagues(ctx, colleagues)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.start(ctx, u, *d.MainContactID, templateID, &dealID, func(l *Letter) { l.toColleagues(to) })
}

// SetColleagues saves the wording of an internal letter for other colleagues.
func (a *App) SetColleagues(ctx context.Context, u User, id int64, w Wording, colleagues []int64) (LetterSheet, error) {
	to, err := a.colleagues(ctx, colleagues)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.saveWith(ctx, u, id, w, func(l *Letter) error {
		if !l.Internal {
			return &StateError{"This letter goes to a person. To write to colleagues, start from the deal."}
		}
		l.toColleagues(to)
		return nil
	})
}

func (l *Letter) toColleagues(to []Address) {
	l.Internal = true
	l.ToName, l.ToEmail, l.Extras.AlsoTo = to[0].Name, to[0].Email, to[1:]
	among := func(one Address) bool {
		return slices.ContainsFunc(to, func(t Address) bool { return field.EmailKey(t.Email) == field.EmailKey(one.Email) })
	}
	l.Extras.Cc, l.Extras.Bcc = slices.DeleteFunc(l.Extras.Cc, among), slices.DeleteFunc(l.Extras.Bcc, among)
}

// colleagues gives the addresses of users, each once.
func (a *App) colleagues(ctx context.Context, ids []int64) ([]Address, error) {
	var out []Address
	for i, id := range ids {
		if slices.Contains(ids[:i], id) {
			continue
		}
		u, err := a.Store.User(ctx, id)
		if errors.Is(err, ErrNotFound) {
			return nil, invalid("colleagues", "hold somebody who does not work here; choose again")
		}
		if err != nil {
			return nil, err
		}
		out = append(out, Address{u.Name(), u.Email})
	}
	switch {
	case len(out) == 0:
		return nil, invalid("colleagues", "are missing; choose who gets the letter")
	case len(out) > MaxCopies:
		return nil, invalid("colleagues", "are more than %d; remove some", MaxCopies)
	}
	return out, nil
}

// strangers names who of an internal letter's readers does not work here.
func (a *App) strangers(ctx context.Context, l *Letter) ([]string, error) {
	if !l.Internal {
		return nil, nil
	}
	var out []string
	for _, email := range l.recipients() {
		_, err := a.Store.UserByEmail(ctx, field.EmailKey(email))
		if errors.Is(err, ErrNotFound) {
			out = append(out, email)
		} else if err != nil {
			return nil, err
		}
	}
	return out, nil
}

// internalStops is what keeps an internal letter from going, its words apart.
func (a *App) internalStops(ctx context.Context, l *Letter) ([]document.Note, error) {
	out, err := a.strangers(ctx, l)
	var notes []document.Note
	for _, email := range out {
		notes = append(notes, stopNote("stranger", email+" does not work here; a letter to colleagues goes to nobody else. Take the address out."))
	}
	return notes, err
}

func stopNote(code, message string) document.Note {
	return document.Note{Severity: document.Stops, Code: code, Part: document.Subject, Line: 1, Column: 1, Message: message}
}
