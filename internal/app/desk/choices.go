package desk

import (
	"context"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// ChoicesFor offers the ready templates for a person: those that fit first, and of
// them those in the person's language.
func (a *Service) ChoicesFor(ctx context.Context, u domain.User, personID int64, dealID *int64) ([]library.Choice, error) {
	s, err := a.library.Setting(ctx, u, personID, dealID)
	if err != nil {
		return nil, err
	}
	rows, err := a.store.AllTemplates(ctx, domain.TemplateReady)
	if err != nil {
		return nil, err
	}
	rights, _, err := a.library.FolderRights(ctx, library.HoldsTemplates)
	if err != nil {
		return nil, err
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return nil, err
	}
	programs := map[int64]*template.Program{}
	for i := range rows {
		d, err := a.library.DigestOf(ctx, s.Cat, rows[i].ID, rows[i].Version)
		if err != nil {
			return nil, err
		}
		programs[rows[i].ID], rows[i].Body.Attrs.Lang = d.Program, d.Language
	}
	// What the user starred or wrote with last comes first.
	near, err := a.library.Near(ctx, u)
	if err != nil {
		return nil, err
	}
	slices.SortStableFunc(rows, func(x, y domain.Template) int { return near[y.ID] - near[x.ID] })
	sisters := map[int64][]domain.Template{}
	for _, t := range rows {
		if t.SisterOf != nil {
			sisters[*t.SisterOf] = append(sisters[*t.SisterOf], t)
		}
	}
	var fit, others []library.Choice
	for _, t := range rows {
		if t.SisterOf != nil || !access.May(u.As(), access.UseTemplate, rights.Template(t.Key())) {
			continue
		}
		t, rest := a.library.Fitting(s, b, append([]domain.Template{t}, sisters[t.ID]...))
		tmpl := b.Wording(&t)
		program := programs[t.ID]
		if program == nil {
			program, _ = template.Compile(tmpl, s.Cat)
		}
		c := library.Choice{ID: t.ID, Name: t.Name, WhenToUse: t.WhenToUse, Reason: s.WhyNot(program), Others: library.WordingLines(rest)}
		if lang := tmpl.Body.Attrs.Lang; lang != "" {
			c.Language = field.LanguageName(lang)
			c.Foreign = s.Person.Language != "" && !field.SameLanguage(lang, s.Person.Language)
		}
		if c.Fits = c.Reason == ""; !c.Fits {
			others = append(others, c)
			continue
		}
		l := program.Merge(s.Values, nil, s.ReaderFor(&tmpl))
		c.Subject, c.Preview, c.Gaps = render.RenderText(l.Subject), render.RenderText(l.Body), len(l.Gaps)
		fit = append(fit, c)
	}
	slices.SortStableFunc(fit, func(x, y library.Choice) int {
		switch {
		case x.Foreign == y.Foreign:
			return 0
		case x.Foreign:
			return 1
		}
		return -1
	})
	return append(fit, others...), nil
}

// FittingWording gives the wording of a template to write to a person with: the ready
// one in the person's language that fits them, else the one that was named.
func (a *Service) FittingWording(ctx context.Context, u domain.User, id, personID int64, dealID *int64) (int64, error) {
	t, err := a.usable(ctx, u, id)
	if err != nil {
		return 0, err
	}
	s, err := a.library.Setting(ctx, u, personID, dealID)
	if err != nil {
		return 0, err
	}
	list, err := a.store.WordingsOf(ctx, t.First())
	if err != nil {
		return 0, err
	}
	b, err := a.library.Book(ctx)
	if err != nil {
		return 0, err
	}
	ready := []domain.Template{t}
	for _, w := range list {
		if w.ID != t.ID && w.State == domain.TemplateReady {
			ready = append(ready, w)
		}
	}
	t, _ = a.library.Fitting(s, b, ready)
	return t.ID, nil
}
