package rounds

import (
	"context"
	"fmt"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// sisters gives the wordings of a template in other languages that are ready, as they are now.
func (a *Service) sisters(ctx context.Context, templateID int64) ([]domain.PinnedWording, error) {
	list, err := a.store.WordingsOf(ctx, templateID)
	out := []domain.PinnedWording{}
	for _, t := range list {
		if t.ID != templateID && t.State == domain.TemplateReady {
			out = append(out, domain.PinnedWording{ID: t.ID, Version: t.Version})
		}
	}
	return out, err
}

// worded gives what the letters of a round are merged from: its template in the version that was
// chosen, or the wording of this round in its place, and its wordings in other languages. Rounds
// of earlier versions of the program know none of those.
func (a *Service) worded(ctx context.Context, k *maker, t domain.Template) ([]compose.Variant, error) {
	list := []compose.Variant{a.compose.Variant(k.cat, k.book, t)}
	if k.r.Said.Sisters == nil {
		var err error
		if list, err = a.compose.Variants(ctx, k.cat, k.book, t); err != nil {
			return nil, err
		}
	}
	for _, pin := range k.r.Said.Sisters {
		sister, err := a.store.TemplateVersion(ctx, pin.ID, pin.Version)
		if err != nil {
			return nil, err
		}
		list = append(list, a.compose.Variant(k.cat, k.book, sister))
	}
	if w := k.r.Said.Wording; w != nil {
		list[0] = compose.VariantWith(k.cat, k.book, t, w)
	}
	return list, nil
}

// parts gives what the letters of a round are made of beside its template: its wordings in other
// languages, other templates of single people, passages, stationery, signature and foot.
func (a *Service) parts(ctx context.Context, r *domain.Round) ([]domain.Part, error) {
	k, err := a.maker(ctx, r)
	if err != nil {
		return nil, err
	}
	out := compose.Parts{}
	for _, pin := range r.Said.Sisters {
		t, err := a.store.Template(ctx, pin.ID)
		if err != nil {
			return nil, err
		}
		lang := field.LanguageName(library.LanguageOf(t.Subject, t.Body))
		if err := out.Add(fmt.Sprintf(sisterName, lang), []any{t.Version, compose.StateOf(&t)}, t.UpdatedBy); err != nil {
			return nil, err
		}
	}
	others, err := a.store.OtherTemplates(ctx, r.ID)
	if err != nil {
		return nil, err
	}
	for _, pin := range others {
		t, err := a.store.TemplateVersion(ctx, pin.ID, pin.Version)
		if err != nil {
			return nil, err
		}
		k.list = append(k.list, a.compose.Variant(k.cat, k.book, t))
	}
	for i := range k.list {
		if err := out.AddOf(ctx, a.library, k.book, &k.list[i]); err != nil {
			return nil, err
		}
	}
	if err := out.Add("Your signature", k.from.Signature, 0); err != nil {
		return nil, err
	}
	set, err := a.team.Settings(ctx)
	if err != nil {
		return nil, err
	}
	return out, out.Add("What stands at the foot of letters", []any{set.OptOutLink, set.OptOutWords, set.PostalAddress}, 0)
}

// sisterName is what a wording in another language is called.
const sisterName = "The %s wording"

// partNews says which of these is another than the sender knows of, or "".
func (a *Service) partNews(ctx context.Context, r *domain.Round) (string, error) {
	if r.Said.Parts == nil {
		return "", nil
	}
	now, err := a.parts(ctx, r)
	if err != nil {
		return "", err
	}
	news := compose.Parts(now).News(r.Said.Parts, 0) // of proofs even an own change is news
	switch {
	case news == nil:
		return "", nil
	case strings.HasSuffix(news.Name, " wording"):
		return news.Name + " was changed since you looked; this round keeps the one that it has", nil
	}
	return news.Name + " was changed since you looked; letters would go with it as it is now", nil
}
