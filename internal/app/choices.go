package app

import (
	"context"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/domain"
)

// Choice is a template as the picker offers it for one person, merged with that
// person's values. Reason says why it cannot be used when Fits is false.
type Choice struct {
	ID        int64  `json:"id"`
	Name      string `json:"name"`
	WhenToUse string `json:"whenToUse"`
	Fits      bool   `json:"fits"`
	Reason    string `json:"reason"`
	Subject   string `json:"subject"`
	Preview   string `json:"preview"`
	Gaps      int    `json:"gaps"`
	Language  string `json:"language" doc:"That the words are in, by its English name; empty when it is not known"`
	Foreign   bool   `json:"foreign" doc:"In another language than the person's"`

	Others []WordingLine `json:"others" doc:"The ready wordings in other languages"`
}

// ChoicesFor offers the ready templates for a person: those that fit first, and of
// them those in the person's language.
func (a *DeskService) ChoicesFor(ctx context.Context, u domain.User, personID int64, dealID *int64) ([]Choice, error) {
	s, err := a.library.setting(ctx, u, personID, dealID)
	if err != nil {
		return nil, err
	}
	rows, err := a.store.AllTemplates(ctx, domain.TemplateReady)
	if err != nil {
		return nil, err
	}
	rights, _, err := a.library.folderRights(ctx, HoldsTemplates)
	if err != nil {
		return nil, err
	}
	b, err := a.library.book(ctx)
	if err != nil {
		return nil, err
	}
	programs := map[int64]*template.Program{}
	for i := range rows {
		d, err := a.library.digestOf(ctx, s.cat, rows[i].ID, rows[i].Version)
		if err != nil {
			return nil, err
		}
		programs[rows[i].ID], rows[i].Body.Attrs.Lang = d.program, d.language
	}
	// What the user starred or wrote with last comes first.
	near, err := a.library.near(ctx, u)
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
	var fit, others []Choice
	for _, t := range rows {
		if t.SisterOf != nil || !access.May(u.As(), access.UseTemplate, rights.template(t.Key())) {
			continue
		}
		t, rest := s.fitting(b, append([]domain.Template{t}, sisters[t.ID]...))
		tmpl := b.wording(&t)
		program := programs[t.ID]
		if program == nil {
			program, _ = template.Compile(tmpl, s.cat)
		}
		c := Choice{ID: t.ID, Name: t.Name, WhenToUse: t.WhenToUse, Reason: s.whyNot(program), Others: wordingLines(rest)}
		if lang := tmpl.Body.Attrs.Lang; lang != "" {
			c.Language = field.LanguageName(lang)
			c.Foreign = s.person.Language != "" && !field.SameLanguage(lang, s.person.Language)
		}
		if c.Fits = c.Reason == ""; !c.Fits {
			others = append(others, c)
			continue
		}
		l := program.Merge(s.values, nil, s.readerFor(&tmpl))
		c.Subject, c.Preview, c.Gaps = render.RenderText(l.Subject), render.RenderText(l.Body), len(l.Gaps)
		fit = append(fit, c)
	}
	slices.SortStableFunc(fit, func(x, y Choice) int {
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

// near ranks the templates that the user starred, and those they wrote with last.
func (a *LibraryService) near(ctx context.Context, u domain.User) (map[int64]int, error) {
	out := map[int64]int{}
	recent, err := a.store.FindTemplates(ctx, u.ID, LibraryQuery{Recent: true})
	if err != nil {
		return nil, err
	}
	for i := range min(len(recent), nearest) {
		out[recent[i].ID] = nearest - i
	}
	starred, err := a.store.FindTemplates(ctx, u.ID, LibraryQuery{Starred: true, Sort: "name"})
	for i := range starred {
		out[starred[i].ID] += nearest + 1
	}
	return out, err
}

// nearest is how many templates come first because they were used last.
const nearest = 5
