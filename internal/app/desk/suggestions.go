package desk

import (
	"context"
	"fmt"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Suggestions finds what is to ask about the values of a letter.
func Suggestions(cat *field.Catalogue, p *domain.Person, l *domain.Letter) []library.Suggestion {
	out := []library.Suggestion{}
	if l.State != domain.Draft {
		return out
	}
	gaps := map[string]bool{}
	for _, g := range document.Gaps(l.Subject, l.Body) {
		gaps[g.Path] = true
	}
	merged := letter.MergedPaths(l.Subject, l.Body)
	for _, d := range cat.Of(field.Person) {
		at := p.Column(d.Path)
		if at == nil || *at == "" || p.SaidRight[d.Path] == *at {
			continue
		}
		switch better, repair := field.RepairName(d, *at); {
		case gaps[d.Path] && field.Junk(d, field.Of(*at)):
			out = append(out, library.Suggestion{Path: d.Path, Label: d.Label, Value: *at, Better: "", Edited: false})
		case repair && merged[d.Path] == *at:
			out = append(out, library.Suggestion{Path: d.Path, Label: d.Label, Value: *at, Better: better, Edited: false})
		}
	}
	return out
}

// ItIsRight remembers for the person that a value is right as it stands, and fills it
// into the letter where it counted as missing. The record's history tells of it, and
// DoubtAgain undoes it.
func (a *Service) ItIsRight(ctx context.Context, u domain.User, id int64, w Wording, path string) (LetterSheet, error) {
	return a.withRecord(ctx, u, id, func(ctx context.Context) error {
		at, err := a.sayRight(ctx, u, id, w, path, true)
		if err != nil {
			return err
		}
		w.recorded = path
		_, err = a.saveDraft(ctx, u, id, fillBoth(w, path, at), nil)
		return err
	})
}

// SuggestAgain forgets that a value is right as it stands: it counts as missing, and the
// letter has its gap again.
func (a *Service) SuggestAgain(ctx context.Context, u domain.User, id int64, w Wording, path string) (LetterSheet, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return LetterSheet{}, err
	}
	label := path
	if ref, ok := cat.Find(path); ok {
		label = ref.Def.Label
	}
	return a.withRecord(ctx, u, id, func(ctx context.Context) error {
		at, err := a.sayRight(ctx, u, id, w, path, false)
		if err != nil {
			return err
		}
		w.Subject, w.Body = letter.Reopen(w.Subject, path, at, label), letter.Reopen(w.Body, path, at, label)
		_, err = a.saveDraft(ctx, u, id, w, func(l *domain.Letter) error {
			l.Seen = l.Seen.With(path, "")
			return nil
		})
		return err
	})
}

// withRecord changes a record and a draft as one act, and gives the draft.
func (a *Service) withRecord(ctx context.Context, u domain.User, id int64, change func(context.Context) error) (LetterSheet, error) {
	if err := a.store.Within(ctx, change); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

// sayRight notes on the record of a letter's person whether a value that looks like
// none is right, and gives the value.
func (a *Service) sayRight(ctx context.Context, u domain.User, id int64, w Wording, path string, right bool) (string, error) {
	l, err := a.draftOf(ctx, u, id)
	if err != nil {
		return "", err
	}
	if l.Version != w.Version || w.PersonID != 0 && w.PersonID != l.PersonID {
		return "", domain.ErrStale
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return "", err
	}
	value := ""
	err = a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.store.Person(ctx, l.PersonID)
		if err != nil {
			return err
		}
		at := p.Column(path)
		ref, ok := cat.Find(path)
		if at == nil || *at == "" || !ok {
			return domain.Invalid(path, "has no value on the record any more")
		}
		value = *at
		text := fmt.Sprintf("%s: “%s” is right as it stands", ref.Def.Label, value)
		if right {
			p.SaidRight = records.SetOwn(p.SaidRight, path, field.Of(value))
		} else {
			p.SaidRight = records.SetOwn(p.SaidRight, path, field.Value{})
			text = fmt.Sprintf("%s: “%s” counts as missing again", ref.Def.Label, value)
		}
		p.UpdatedAt = a.now()
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		return a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, UserID: &u.ID, Kind: domain.EntryChanged, Text: text, At: p.UpdatedAt})
	})
	return value, err
}

// Correct puts other words where a field's value was merged, in this letter and
// if wanted also on the record.
func (a *Service) Correct(ctx context.Context, u domain.User, id int64, w Wording, path, value string, alsoRecord bool) (LetterSheet, error) {
	v := field.Of(value)
	if !v.Filled() {
		return LetterSheet{}, domain.Invalid(path, "is empty; type a value")
	}
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != domain.Draft || l.Version != w.Version {
		return LetterSheet{}, domain.ErrStale
	}
	return a.withRecord(ctx, u, id, func(ctx context.Context) error {
		if alsoRecord {
			p, err := a.store.Person(ctx, l.PersonID)
			if err != nil {
				return err
			}
			if _, err := a.records.ChangePerson(ctx, u, p.ID, p.Version, map[string]string{path: v.Text}); err != nil {
				return err
			}
			w.recorded = path
		}
		before := w.Body
		w.Subject, w.Body = letter.Correct(w.Subject, path, v.Text), letter.Correct(w.Body, path, v.Text)
		_, err := a.saveDraft(ctx, u, id, w, func(l *domain.Letter) error {
			// Fixed wording with the value in it is corrected, too.
			l.Fixed = letter.CorrectFixed(l.Fixed, before, path, v.Text)
			return nil
		})
		return err
	})
}

// WriteBack stores on the record what the writer made of a value, as it stands in
// the wording that comes with it, and puts it in wherever the letter says that value.
func (a *Service) WriteBack(ctx context.Context, u domain.User, id int64, w Wording, path string) (LetterSheet, error) {
	l, err := a.draftOf(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	r := letter.Record{Values: s.Values, Reader: s.ReaderFor(&template.Template{Body: l.Body})}
	for _, k := range letter.Edited(r, w.Subject, w.Body) {
		if k.Path == path {
			return a.Correct(ctx, u, id, w, path, k.Words, true)
		}
	}
	return LetterSheet{}, domain.Invalid(path, "is the same in the letter and on the record now; there is nothing to save")
}
