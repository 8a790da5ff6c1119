package library

import (
	"context"
	"fmt"
	"slices"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// WordingLine is one of the wordings of a template. The first has the settings of all
// of them: name, note, tags, folder and rights.
type WordingLine struct {
	ID       int64                `json:"id"`
	Language string               `json:"language" doc:"Such as de or en-GB; empty when it is not recognised"`
	Name     string               `json:"name" doc:"Of the language, in English"`
	State    domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
}

// WordingLines gives the wordings of a template as lists show them.
func WordingLines(list []domain.Template) []WordingLine {
	out := []WordingLine{}
	for i := range list {
		t := &list[i]
		l := WordingLine{ID: t.ID, Language: LanguageOf(t.Subject, t.Body), State: t.State}
		if l.Language != "" {
			l.Name = field.LanguageName(l.Language)
		}
		out = append(out, l)
	}
	return out
}

// AddWording begins the wording of a template in another language, as a draft with
// the words that are to be translated.
func (a *Service) AddWording(ctx context.Context, u domain.User, id int64, language string) (TemplateSheet, error) {
	var out TemplateSheet
	t, err := a.TemplateFor(ctx, u, access.EditTemplate, id)
	if err != nil {
		return out, err
	}
	if t.SisterOf != nil {
		if t, err = a.TemplateFor(ctx, u, access.EditTemplate, *t.SisterOf); err != nil {
			return out, err
		}
	}
	tag, known := field.KnownLocale(language)
	if !known {
		return out, domain.Invalid("language", "%q is not a language that letters can be written in; choose one such as de or pt-BR", language)
	}
	if err := a.onlyIn(ctx, &t, 0, tag); err != nil {
		return out, err
	}
	now := a.now()
	t.SisterOf, t.State, t.Version, t.OriginID, t.OriginVer = new(t.ID), domain.TemplateDraft, 1, nil, 0
	t.CreatedAt, t.UpdatedAt, t.UpdatedBy = now, now, u.ID
	t.Body.Attrs.Lang = tag
	added, err := a.store.AddTemplate(ctx, t)
	if err != nil {
		return out, err
	}
	return a.Template(ctx, u, added)
}

// onlyIn refuses a language that another wording of the template is in.
func (a *Service) onlyIn(ctx context.Context, t *domain.Template, but int64, tag string) error {
	list, err := a.store.WordingsOf(ctx, t.First())
	if err != nil {
		return err
	}
	for _, l := range WordingLines(list) {
		if l.ID != but && l.Language != "" && field.SameLanguage(l.Language, tag) {
			return domain.Invalid("language", "this template already has a wording in %s; change that one", field.LanguageName(l.Language))
		}
	}
	return nil
}

// Fitting chooses of the ready wordings of a template the one in the person's language
// that fits them, else the first; the rest are the others.
func (a *Service) Fitting(s *Setting, b *Book, ready []domain.Template) (t domain.Template, rest []domain.Template) {
	at := 0
	for i := range ready {
		if !s.Reads(LanguageOf(ready[i].Subject, ready[i].Body)) {
			continue
		}
		if s.WhyNot(a.Program(s.Cat, b, &ready[i])) == "" {
			at = i
			break
		}
	}
	return ready[at], slices.Concat(ready[:at], ready[at+1:])
}

// Reads tells whether the person is known to read a language.
func (s *Setting) Reads(language string) bool {
	return language != "" && s.Person.Language != "" && field.SameLanguage(language, s.Person.Language)
}

// CheckFirst refuses to use a wording whose template nobody may use.
func (a *Service) CheckFirst(ctx context.Context, t *domain.Template) error {
	if t.SisterOf == nil {
		return nil
	}
	first, err := a.store.Template(ctx, *t.SisterOf)
	if err == nil && first.State != domain.TemplateReady {
		err = &domain.StateError{Why: fmt.Sprintf("The template “%s” isn’t ready to use; make its first wording ready.", first.Name)}
	}
	return err
}
