package desk

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Addressee says whose values fill a letter, who else it is addressed to, and which
// deal it is about; nil the person's only open one.
type Addressee struct {
	PersonID int64
	AlsoTo   []domain.Address
	DealID   *int64
}

// KeptWords are words that a letter keeps though they may speak of its old records.
type KeptWords struct {
	Label string `json:"label"`
	Words string `json:"words"`
}

// SetAddressee saves the wording for other records: words of fields that nobody
// touched are written anew, what the writer wrote stays. What may still speak of
// the old records is told.
func (a *Service) SetAddressee(ctx context.Context, u domain.User, id int64, w Wording, to Addressee) (LetterSheet, []KeptWords, error) {
	if len(to.AlsoTo) > MaxCopies {
		return LetterSheet{}, nil, domain.Invalid("alsoTo", "has more than %d addresses; remove some", MaxCopies)
	}
	if err := checkAddresses("alsoTo", to.AlsoTo); err != nil {
		return LetterSheet{}, nil, err
	}
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, nil, err
	}
	if l.Internal {
		return LetterSheet{}, nil, &domain.StateError{Why: "This letter goes to colleagues. To write to a person, start from their record."}
	}
	old, err := a.library.Setting(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, nil, err
	}
	now, err := a.library.Setting(ctx, u, to.PersonID, to.DealID)
	if errors.Is(err, domain.ErrNotFound) {
		return LetterSheet{}, nil, domain.Invalid("personId", "isn’t in your records; choose somebody else")
	}
	if err != nil {
		return LetterSheet{}, nil, err
	}
	if err := a.notDeleted(ctx, &now.Person); err != nil {
		return LetterSheet{}, nil, err
	}
	base, theirs, err := a.mergedBoth(ctx, &l, old, now)
	if err != nil {
		return LetterSheet{}, nil, err
	}
	var kept []letter.Kept
	out, err := a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		kept = refill(l, base, theirs, old, now)
		if l.PersonID != now.Person.ID {
			l.Extras.Address = ""
		}
		l.PersonID, l.CompanyID, l.DealID = now.Person.ID, now.Person.CompanyID, now.DealID
		l.ToEmail, l.ToName = now.Person.Email, domain.JoinName(now.Person.FirstName, now.Person.LastName)
		if key := field.EmailKey(l.ToEmail); key != "" {
			same := func(one domain.Address) bool { return field.EmailKey(one.Email) == key }
			to.AlsoTo, l.Extras.Cc, l.Extras.Bcc = slices.DeleteFunc(to.AlsoTo, same), slices.DeleteFunc(l.Extras.Cc, same), slices.DeleteFunc(l.Extras.Bcc, same)
		}
		l.Extras.AlsoTo, l.Seen = to.AlsoTo, now.Snapshot()
		return nil
	})
	var told []KeptWords
	for _, k := range kept {
		told = append(told, KeptWords{now.Values.Label(k.Path), k.Words})
	}
	return out, told, err
}

// mergedBoth merges the template that a letter was begun with, in its version, for
// the letter's old and its new records; both empty without a template.
func (a *Service) mergedBoth(ctx context.Context, l *domain.Letter, old, now *library.Setting) (base, theirs template.Letter, err error) {
	if l.TemplateID == nil || l.TemplateVersion == nil {
		return base, theirs, nil
	}
	t, err := a.store.TemplateVersion(ctx, *l.TemplateID, *l.TemplateVersion)
	if errors.Is(err, domain.ErrNotFound) {
		return base, theirs, nil
	}
	if err != nil {
		return base, theirs, err
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return base, theirs, err
	}
	wording := b.Wording(&t)
	program := a.library.Program(now.Cat, b, &t)
	if why := now.WhyNot(program); why != "" {
		return base, theirs, domain.Invalid("personId", "the template “%s” of this letter %s; choose somebody else, or start over with another template", t.Name, why)
	}
	return program.Merge(old.Values, nil, old.ReaderFor(&wording)), program.Merge(now.Values, nil, now.ReaderFor(&wording)), nil
}

// refill writes the words of other records into a letter, and into what of it must
// stay.
func refill(l *domain.Letter, base, theirs template.Letter, old, now *library.Setting) []letter.Kept {
	language := template.Template{Body: l.Body}
	switch {
	case theirs.Body.Attrs.Lang != "":
		language.Body.Attrs.Lang = theirs.Body.Attrs.Lang
	case l.Body.Attrs.Lang == old.Reader.Locale(): // it follows the person
		language.Body.Attrs.Lang = now.Reader.Locale()
	}
	before := letter.Record{Values: old.Values, Reader: old.ReaderFor(&template.Template{Body: l.Body})}
	after := letter.Record{Values: now.Values, Reader: now.ReaderFor(&language)}
	if l.Body.Attrs.Body != base.Body.Attrs.Body {
		base, theirs = template.Letter{}, template.Letter{} // the template was put into another kind of body
	}
	refill := func(d, base, theirs document.Document) (document.Document, []letter.Kept) {
		return letter.Remerge(d, base, theirs, before, after)
	}
	var kept, more []letter.Kept
	l.Subject, kept = refill(l.Subject, base.Subject, theirs.Subject)
	l.Body, more = refill(l.Body, base.Body, theirs.Body)
	kept = append(kept, more...)
	l.Body.Attrs.Lang = language.Body.Attrs.Lang
	if l.Extras.TextPart != nil {
		var b, t document.Document
		if base.Text != nil && theirs.Text != nil {
			b, t = *base.Text, *theirs.Text
		}
		text, more := refill(*l.Extras.TextPart, b, t)
		l.Extras.TextPart, kept = &text, append(kept, more...)
	}
	fixed := letter.FixedWording(theirs.Body)
	for i := range l.Extras.Pieces {
		l.Extras.Pieces[i].Body, _ = refill(l.Extras.Pieces[i].Body, document.Document{}, document.Document{})
		fixed = append(fixed, letter.FixedWording(l.Extras.Pieces[i].Body)...)
	}
	l.Fixed = fixedWith(fixed, nil, l.Body)
	return append(kept, namesOf(l, old, now)...)
}

// namesOf finds the names of the old person and their company that were typed.
func namesOf(l *domain.Letter, old, now *library.Setting) []letter.Kept {
	var known []letter.FieldWords
	for _, path := range []string{"person.full_name", "person.first_name", "person.last_name", "company.name"} {
		was, is := old.Values.Get(path).Text, now.Values.Get(path).Text
		if len([]rune(was)) > 1 && !strings.Contains(strings.ToLower(is), strings.ToLower(was)) {
			known = append(known, letter.FieldWords{Path: path, Words: was})
		}
	}
	var out []letter.Kept
	for _, f := range letter.FieldsIn(known, letter.Typed(l.Subject), letter.Typed(l.Body)) {
		out = append(out, letter.Kept{Path: f.Path, Words: f.Words})
	}
	return out
}

// WhoHas gives the people with an address: more than one where it is shared.
func (a *Service) WhoHas(ctx context.Context, email string) ([]KnownAddress, error) {
	people, err := a.store.PeopleByEmail(ctx, field.EmailKey(email))
	out := make([]KnownAddress, 0, len(people))
	for i := range people {
		p := &people[i]
		who := string(p.Kind)
		if p.CompanyID != nil {
			c, err := a.store.Company(ctx, *p.CompanyID)
			if err != nil {
				return nil, err
			}
			who += " at " + c.Name
		} else if p.CompanyName != "" {
			who += " at " + p.CompanyName
		}
		out = append(out, KnownAddress{domain.Address{Name: p.Name(), Email: p.Email}, who, p.ID})
	}
	return out, err
}
