package desk

import (
	"context"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// AskColleaguesOnce gives the blank of a colleague the people to choose from,
// and asks once for all that is written of one.
func (a *Service) AskColleaguesOnce(ctx context.Context, gaps []document.Gap) ([]document.Gap, error) {
	var names []string
	asked := map[string]int{}
	out := gaps[:0]
	for _, g := range gaps {
		if g.Kind != document.BlankColleague {
			out = append(out, g)
			continue
		}
		blank, _, _ := strings.Cut(g.Path, ".")
		if k, ok := asked[blank]; ok {
			out[k].Count += g.Count
			continue
		}
		if names == nil {
			users, err := a.store.Users(ctx)
			if err != nil {
				return nil, err
			}
			for _, u := range users {
				names = append(names, u.Name())
			}
		}
		asked[blank] = len(out)
		g.Type, g.Choices = field.Choice, names
		out = append(out, g)
	}
	return out, nil
}

// fillBlank saves the wording with a blank filled in everywhere. A colleague is
// named; everything that is written of one is filled from the user.
func (a *Service) fillBlank(ctx context.Context, u domain.User, id int64, w Wording, path, value string) (LetterSheet, error) {
	for _, g := range document.Gaps(w.Subject, w.Body) {
		switch {
		case g.Path != path:
		case g.Kind == document.BlankColleague:
			return a.fillColleague(ctx, u, id, w, path, value)
		default:
			v, err := field.Given(field.Def{Type: g.Type, Choices: g.Choices}, value, "")
			if err != nil {
				return LetterSheet{}, domain.Invalid(g.Label, "%v", err)
			}
			if !v.Filled() {
				return LetterSheet{}, domain.Invalid(g.Label, "is empty; type a value")
			}
			l, err := a.Mine(ctx, u, id)
			if err != nil {
				return LetterSheet{}, err
			}
			p, err := a.store.Person(ctx, l.PersonID)
			if err != nil {
				return LetterSheet{}, err
			}
			return a.SaveDraft(ctx, u, id, fillBoth(w, path, string(library.Reader(l.Body.Attrs.Lang, &p, nil).Append(nil, v, ""))))
		}
	}
	return LetterSheet{}, domain.Invalid(path, "is no blank of this letter any more")
}

func fillBoth(w Wording, path, words string) Wording {
	if w.filled == nil {
		w.filled = map[string]string{}
	}
	w.filled[path] = words
	w.Subject, w.Body = letter.Fill(w.Subject, path, words), letter.Fill(w.Body, path, words)
	return w
}

func (a *Service) fillColleague(ctx context.Context, u domain.User, id int64, w Wording, path, name string) (LetterSheet, error) {
	users, err := a.store.Users(ctx)
	if err != nil {
		return LetterSheet{}, err
	}
	for _, c := range users {
		if !strings.EqualFold(c.Name(), strings.TrimSpace(name)) {
			continue
		}
		values := map[string]string{"": c.Name()}
		records.SetUser(func(path, s string) { values[strings.TrimPrefix(path, "c.")] = s }, "c", &c)
		blank, _, _ := strings.Cut(path, ".")
		for _, g := range document.Gaps(w.Subject, w.Body) {
			of, key, _ := strings.Cut(g.Path, ".")
			if of == blank && values[key] != "" {
				w = fillBoth(w, g.Path, values[key])
			}
		}
		return a.SaveDraft(ctx, u, id, w)
	}
	return LetterSheet{}, domain.Invalid("colleague", "%q isn’t a user here; choose one from the list", name)
}
