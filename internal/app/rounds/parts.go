package rounds

import (
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/app/desk"
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
func (a *Service) worded(ctx context.Context, k *maker, t domain.Template) ([]desk.Worded, error) {
	list := []desk.Worded{a.desk.Worded(k.cat, k.book, t)}
	if k.r.Said.Sisters == nil {
		var err error
		if list, err = a.desk.WordedAll(ctx, k.cat, k.book, t); err != nil {
			return nil, err
		}
	}
	for _, pin := range k.r.Said.Sisters {
		sister, err := a.store.TemplateVersion(ctx, pin.ID, pin.Version)
		if err != nil {
			return nil, err
		}
		list = append(list, a.desk.Worded(k.cat, k.book, sister))
	}
	if w := k.r.Said.Wording; w != nil {
		list[0] = desk.WordedWith(k.cat, k.book, t, w)
	}
	return list, nil
}

// parts gives what the letters of a round are made of beside its template: its wordings in other
// languages, other templates of single people, passages, stationery, signature and foot.
func (a *Service) parts(ctx context.Context, r *domain.Round) ([]domain.RoundPart, error) {
	k, err := a.maker(ctx, r)
	if err != nil {
		return nil, err
	}
	out := []domain.RoundPart{}
	add := func(name string, about any) error {
		said, err := json.Marshal(about)
		if err != nil {
			return err
		}
		sum := fnv.New64a()
		sum.Write(said)
		if one := (domain.RoundPart{Name: name, Sum: fmt.Sprintf("%x", sum.Sum64())}); !slices.Contains(out, one) {
			out = append(out, one)
		}
		return nil
	}
	for _, pin := range r.Said.Sisters {
		t, err := a.store.Template(ctx, pin.ID)
		if err != nil {
			return nil, err
		}
		lang := field.LanguageName(library.LanguageOf(t.Subject, t.Body))
		if err := add(fmt.Sprintf(sisterName, lang), []any{t.Version, seenState(&t)}); err != nil {
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
		k.list = append(k.list, a.desk.Worded(k.cat, k.book, t))
	}
	for i := range k.list {
		if err := a.partsOf(ctx, &k.list[i], add); err != nil {
			return nil, err
		}
	}
	if err := add("Your signature", k.from.Signature); err != nil {
		return nil, err
	}
	set, err := a.team.Settings(ctx)
	if err != nil {
		return nil, err
	}
	return out, add("What stands at the foot of letters", []any{set.OptOutLink, set.OptOutWords, set.PostalAddress})
}

// partsOf adds the passages and the stationery of one wording.
func (a *Service) partsOf(ctx context.Context, w *desk.Worded, add func(name string, about any) error) error {
	seen := map[string]bool{}
	names := template.PassagesIn(w.Wording.Subject, w.Wording.Body)
	for len(names) > 0 {
		name := names[0]
		names = names[1:]
		if seen[name] {
			continue
		}
		seen[name] = true
		body, ok := w.Wording.Passages(name)
		if err := add(fmt.Sprintf("The passage “%s”", name), []any{ok, body}); err != nil {
			return err
		}
		if ok {
			names = append(names, template.PassagesIn(body)...)
		}
	}
	st, err := a.library.StationeryOf(ctx, w.Template.Extras.Stationery, w.Template.Body.Attrs.Body)
	if err != nil || w.Template.Body.Attrs.Body != document.BodyFormatted {
		return err
	}
	if st == nil {
		return add("The stationery", nil)
	}
	return add("The stationery", []any{st.ID, st.Version})
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
	for _, one := range now {
		known := slices.IndexFunc(r.Said.Parts, func(p domain.RoundPart) bool { return p.Name == one.Name })
		if known >= 0 && !slices.Contains(r.Said.Parts, one) {
			if strings.HasSuffix(one.Name, " wording") {
				return one.Name + " was changed since you looked; this round keeps the one that it has", nil
			}
			return one.Name + " was changed since you looked; letters would go with it as it is now", nil
		}
	}
	return "", nil
}
