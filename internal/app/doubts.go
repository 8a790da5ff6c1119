package app

import (
	"context"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/letter"
)

// Doubt is a value of the person that may not be meant: one that only stands
// for nothing and is missing in the letter, or a name that could be set right.
type Doubt struct {
	Path   string `json:"path"`
	Label  string `json:"label"`
	Value  string `json:"value"`
	Better string `json:"better" doc:"A name set right, or what the writer made of it; empty for a value that counts as missing"`
	Edited bool   `json:"edited" doc:"The writer wrote something else than the record has"`
}

// doubts finds what is to ask about the values of a letter.
func doubts(cat *field.Catalogue, p *Person, l *Letter) []Doubt {
	out := []Doubt{}
	if l.State != Draft {
		return out
	}
	gaps := map[string]bool{}
	for _, g := range letter.Gaps(l.Subject, l.Body) {
		gaps[g.Path] = true
	}
	merged := letter.MergedPaths(l.Subject, l.Body)
	for _, d := range cat.Of(field.Person) {
		at := p.column(d.Path)
		if at == nil || *at == "" || p.SaidRight[d.Path] == *at {
			continue
		}
		switch better, repair := field.RepairName(d, *at); {
		case gaps[d.Path] && field.Junk(d, field.Of(*at)):
			out = append(out, Doubt{d.Path, d.Label, *at, "", false})
		case repair && merged[d.Path] == *at:
			out = append(out, Doubt{d.Path, d.Label, *at, better, false})
		}
	}
	return out
}

// edits finds what the writer wrote in place of the person's values, and could be
// kept on the record.
func (s *setting) edits(l *Letter) []Doubt {
	var out []Doubt
	r := letter.Record{Values: s.values, Reader: s.readerFor(&letter.Template{Body: l.Body})}
	for _, k := range letter.Edited(r, l.Subject, l.Body) {
		ref, ok := s.cat.Find(k.Path)
		if !ok || !ref.Def.Type.Textual() || ref.Def.Path == "person.full_name" {
			continue
		}
		p := s.person
		if SetPersonField(s.cat, &p, k.Path, k.Words) == nil {
			out = append(out, Doubt{k.Path, ref.Def.Label, s.values.Get(k.Path).Text, k.Words, true})
		}
	}
	return out
}

// ItIsRight remembers for the person that a value is right as it stands, and
// fills it into the letter where it counted as missing.
func (a *App) ItIsRight(ctx context.Context, u User, id int64, w Wording, path string) (LetterSheet, error) {
	l, err := a.mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	p, err := a.Store.Person(ctx, l.PersonID)
	if err != nil {
		return LetterSheet{}, err
	}
	at := p.column(path)
	if at == nil || *at == "" {
		return LetterSheet{}, invalid(path, "has no value on the record any more")
	}
	if l.Version != w.Version {
		return LetterSheet{}, ErrStale
	}
	p.SaidRight = setOwn(p.SaidRight, path, field.Of(*at))
	p.UpdatedAt = a.now()
	if err := a.Store.UpdatePerson(ctx, p); err != nil {
		return LetterSheet{}, err
	}
	return a.SaveDraft(ctx, u, id, fillBoth(w, path, *at))
}

// Correct puts other words where a field's value was merged, in this letter and
// if wanted also on the record.
func (a *App) Correct(ctx context.Context, u User, id int64, w Wording, path, value string, alsoRecord bool) (LetterSheet, error) {
	v := field.Of(value)
	if !v.Filled() {
		return LetterSheet{}, invalid(path, "is empty; type a value")
	}
	l, err := a.mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != Draft || l.Version != w.Version {
		return LetterSheet{}, ErrStale // before the record is touched
	}
	if alsoRecord {
		p, err := a.Store.Person(ctx, l.PersonID)
		if err != nil {
			return LetterSheet{}, err
		}
		if _, err := a.ChangePerson(ctx, u, p.ID, p.Version, map[string]string{path: value}); err != nil {
			return LetterSheet{}, err
		}
	}
	// Fixed wording with the value in it is corrected, too.
	if old := letter.MergedPaths(l.Body)[path]; old != "" && len(l.Fixed) > 0 {
		for i, stretch := range l.Fixed {
			l.Fixed[i] = strings.ReplaceAll(stretch, old, v.Text)
		}
		if err := a.Store.UpdateDraft(ctx, l); err != nil {
			return LetterSheet{}, err
		}
		w.Version++
	}
	w.Subject, w.Body = letter.Correct(w.Subject, path, v.Text), letter.Correct(w.Body, path, v.Text)
	return a.SaveDraft(ctx, u, id, w)
}
