package compose

import (
	"context"
	"errors"
	"slices"
	"strings"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// MergedBoth merges the template that a letter was begun with, in its version, for
// the letter's old and its new records; both empty without a template.
func (a *Service) MergedBoth(ctx context.Context, l *domain.Letter, old, now *library.Setting) (base, theirs template.Letter, err error) {
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

// Refill writes the words of other records into a letter, and into what of it must
// stay.
func Refill(l *domain.Letter, base, theirs template.Letter, old, now *library.Setting) []letter.Kept {
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
	l.Fixed = FixedWith(fixed, nil, l.Body)
	return append(kept, typedOf(l, theirs, before, after, now.Cat.Fields())...)
}

// unsaid are fields whose values are no words of a letter's own: what a colleague, the team or
// the day says of itself, and what is one of few.
func unsaid(d *field.Def) bool {
	switch d.Type {
	case field.YesNo, field.Choice:
		return true
	}
	return slices.ContainsFunc([]string{"sender.", "team.", "today", "person.kind", "person.language", "person.time_zone", "person.country", "person.honorific"},
		func(s string) bool { return strings.HasPrefix(d.Path, s) })
}

// leastWords is how many characters a value has at least that is looked for: a shorter one stands
// in many letters by chance. Names may have two, such as Bo.
func leastWords(path string) int {
	if strings.HasSuffix(path, "name") {
		return 2
	}
	return 3
}

// typedOf finds values of the old records that stand in a letter where no field wrote them, in any
// way that they are written, and that the new records do not have. What the template says for
// anybody is not told.
func typedOf(l *domain.Letter, theirs template.Letter, old, now letter.Record, fields []field.Def) []letter.Kept {
	var known []letter.Kept
	for i := range fields {
		d := &fields[i]
		if unsaid(d) || old.Values.Get(d.Path) == now.Values.Get(d.Path) {
			continue
		}
		is := now.Forms(d.Path)
		for _, words := range old.Forms(d.Path) {
			same := func(s string) bool { from, _ := letter.FindFolded(s, words, 0); return from >= 0 }
			if utf8.RuneCountInString(words) >= leastWords(d.Path) && !slices.ContainsFunc(is, same) && !slices.ContainsFunc(known, func(k letter.Kept) bool { return k.Words == words }) {
				known = append(known, letter.Kept{Path: d.Path, Words: words})
			}
		}
	}
	docs := []document.Document{letter.Typed(l.Subject), letter.Typed(l.Body)}
	if l.Extras.TextPart != nil {
		docs = append(docs, letter.Typed(*l.Extras.TextPart))
	}
	found := letter.StandsIn(known, docs...)
	said := letter.StandsIn(known, theirs.Subject, theirs.Body)
	return slices.DeleteFunc(found, func(k letter.Kept) bool { return slices.Contains(said, k) })
}

// Keep notes with a letter what in it may speak of the records that it was written for before.
func Keep(l *domain.Letter, kept []letter.Kept, label func(path string) string) {
	for _, k := range kept {
		one := domain.KeptWords{Path: k.Path, Label: label(k.Path), Words: k.Words}
		if !slices.Contains(l.Extras.Kept, one) {
			l.Extras.Kept = append(l.Extras.Kept, one)
		}
	}
}

// KeptStill gives what of it still stands in the letter, and is not what its records say now.
func KeptStill(l *domain.Letter, s *library.Setting) []domain.KeptWords {
	if len(l.Extras.Kept) == 0 {
		return nil
	}
	text := render.RenderText(l.Subject) + "\n" + render.RenderText(l.Body)
	if l.Extras.TextPart != nil {
		text += "\n" + render.RenderText(*l.Extras.TextPart)
	}
	now := letter.Record{Values: s.Values, Reader: s.ReaderFor(&template.Template{Body: l.Body})}
	return slices.DeleteFunc(slices.Clone(l.Extras.Kept), func(k domain.KeptWords) bool {
		from, _ := letter.FindFolded(text, k.Words, 0)
		return from < 0 || slices.ContainsFunc(now.Forms(k.Path), func(is string) bool { return strings.EqualFold(is, k.Words) })
	})
}
