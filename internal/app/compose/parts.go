package compose

import (
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Parts are what letters are made of beside records, each once: templates, passages and stationery. They tell
// what of it is another than their sender knows of, for every way of sending that makes letters after somebody looked.
type Parts []domain.Part

// Add adds a part that is called name; about says how it is, and by who made it so, 0 nobody knows.
func (l *Parts) Add(name string, about any, by int64) error { return l.AddKeyed("", name, about, by) }

// AddKeyed adds a part that key tells apart from others.
func (l *Parts) AddKeyed(key, name string, about any, by int64) error {
	said, err := json.Marshal(about)
	if err != nil {
		return err
	}
	sum := fnv.New64a()
	sum.Write(said)
	one := domain.Part{Key: key, Name: name, Sum: fmt.Sprintf("%x", sum.Sum64()), By: by}
	if !slices.ContainsFunc(*l, func(p domain.Part) bool { return p.Is(&one) && p.Sum == one.Sum }) {
		*l = append(*l, one)
	}
	return nil
}

// Gone is the state of a template that was deleted.
const Gone domain.TemplateState = "deleted"

// StateOf is the state of a template as senders know it: a deleted one has one of its own.
func StateOf(t *domain.Template) domain.TemplateState {
	if t.DeletedAt != nil {
		return Gone
	}
	return t.State
}

// AddTemplate adds the words of a template.
func (l *Parts) AddTemplate(t *domain.Template) error {
	name := fmt.Sprintf("The template “%s”", t.Name)
	if t.SisterOf != nil {
		name = fmt.Sprintf("The %s wording “%s”", field.LanguageName(library.LanguageOf(t.Subject, t.Body)), t.Name)
	}
	return l.AddKeyed(fmt.Sprint("template:", t.ID), name, []any{t.Version, StateOf(t)}, t.UpdatedBy)
}

// AddOf adds the passages and the stationery of one wording.
func (l *Parts) AddOf(ctx context.Context, lib *library.Service, b *library.Book, w *Variant) error {
	seen := map[string]bool{}
	names := template.PassagesIn(w.Wording.Subject, w.Wording.Body)
	for len(names) > 0 {
		name := names[0]
		if names = names[1:]; seen[name] {
			continue
		}
		seen[name] = true
		by := int64(0)
		if p := b.Find(w.Template.OwnerID, name); p != nil {
			by = p.UpdatedBy
		}
		body, ok := w.Wording.Passages(name)
		if err := l.Add(fmt.Sprintf("The passage “%s”", name), []any{ok, body}, by); err != nil {
			return err
		}
		if ok {
			names = append(names, template.PassagesIn(body)...)
		}
	}
	if w.Template.Body.Attrs.Body != document.BodyFormatted {
		return nil
	}
	st, err := lib.StationeryOf(ctx, w.Template.Extras.Stationery, w.Template.Body.Attrs.Body)
	if err != nil {
		return err
	}
	if st == nil {
		return l.Add("The stationery", nil, 0)
	}
	return l.Add("The stationery", []any{st.ID, st.Version}, st.UpdatedBy)
}

// Sum says how all of them are.
func (l Parts) Sum() string {
	sum := fnv.New64a()
	for i := range l {
		_, _ = fmt.Fprintln(sum, l[i].Key, l[i].Name, l[i].Sum) // never fails
	}
	return fmt.Sprintf("%x", sum.Sum64())
}

// News gives the first part that is another than the one that somebody knows of, nil none; one
// with a key is news also when it was none before. What they changed themselves is no news to
// them; me 0 is nobody.
func (l Parts) News(known Parts, me int64) *domain.Part {
	for i := range l {
		now := &l[i]
		was := slices.ContainsFunc(known, func(p domain.Part) bool { return p.Is(now) })
		same := slices.ContainsFunc(known, func(p domain.Part) bool { return p.Is(now) && p.Sum == now.Sum })
		if (was || now.Key != "") && !same && (me == 0 || now.By != me) {
			return now
		}
	}
	return nil
}

// With gives what is known once others are known too, which take the place of what they were.
func (l Parts) With(others Parts) Parts {
	out := slices.DeleteFunc(slices.Clone(l), func(p domain.Part) bool {
		return slices.ContainsFunc(others, func(o domain.Part) bool { return o.Is(&p) })
	})
	return append(out, others...)
}
