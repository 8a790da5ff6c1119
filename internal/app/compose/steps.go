package compose

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/plan"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Maker makes what the steps of plans are, for one user, one goroutine and a short while.
type Maker struct {
	a         *Service
	User      domain.User
	Cat       *field.Catalogue
	Book      *library.Book
	Users     []domain.User
	From      domain.FromAddress
	templates map[int64]Made
}

// Made is a template as it was looked up for steps.
type Made struct {
	List []Variant
	News string // why it cannot be used, or ""
}

// Maker gives what makes letters in the name of a user.
func (a *Service) Maker(ctx context.Context, u domain.User) (*Maker, error) {
	k := &Maker{a: a, User: u, templates: map[int64]Made{}}
	var err error
	if k.Cat, err = a.records.Catalogue(ctx); err != nil {
		return nil, err
	}
	if k.Book, err = a.library.Book(ctx); err != nil {
		return nil, err
	}
	if k.From, err = a.team.FromAddress(ctx, u, u.Email); errors.Is(err, domain.ErrNotFound) {
		k.From, err = domain.FromAddress{Name: u.Name(), Email: u.Email}, nil
	}
	if err == nil {
		k.Users, err = a.store.Users(ctx)
	}
	return k, err
}

// Variants gives what the letters of a step are merged from, with its wordings in other
// languages, and why the user cannot use it, or "". Of a template that they may not see it
// gives nothing.
func (k *Maker) Variants(ctx context.Context, s *domain.PlanStep) ([]Variant, string, error) {
	base := Made{}
	if s.TemplateID != nil {
		var err error
		if base, err = k.Template(ctx, *s.TemplateID); err != nil {
			return nil, "", err
		}
	}
	if s.Wording == nil {
		return base.List, base.News, nil
	}
	t := domain.Template{Name: "Words of this plan"}
	if len(base.List) > 0 {
		t = base.List[0].Template
	}
	return []Variant{VariantWith(k.Cat, k.Book, t, s.Wording)}, "", nil
}

// Template gives a template and its wordings as the user may use them, looked up once.
func (k *Maker) Template(ctx context.Context, id int64) (Made, error) {
	if m, ok := k.templates[id]; ok {
		return m, nil
	}
	m := Made{}
	t, err := k.a.store.Template(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		m.News = "The template is gone; choose another."
		return m, nil
	}
	if err != nil {
		return m, err
	}
	may, err := k.a.library.UsableWhenReady(ctx, k.User, &t)
	if err != nil {
		return m, err
	}
	switch {
	case !may:
		m.News = "You may not use the template of this letter; choose another."
	case t.DeletedAt != nil:
		m.News = fmt.Sprintf("The template “%s” was deleted; choose another.", t.Name)
	case t.State == domain.TemplateWithdrawn:
		m.News = fmt.Sprintf("The template “%s” was withdrawn; choose another.", t.Name)
	case t.State == domain.TemplateDraft:
		m.News = fmt.Sprintf("The template “%s” is a draft at the moment; make it ready, or choose another.", t.Name)
	}
	// Nobody knows the words of a draft but those who write it.
	if !may || t.State == domain.TemplateDraft && t.OwnerID != k.User.ID {
		k.templates[id] = m
		return m, nil
	}
	if m.List, err = k.a.Variants(ctx, k.Cat, k.Book, t); err != nil {
		return m, err
	}
	k.templates[id] = m
	return m, nil
}

// Ask is a blank of a letter of a plan. Path is the key of its step and the name, such as
// 3?reason.
type Ask struct {
	Path     string   `json:"path"`
	Label    string   `json:"label"`
	Kind     string   `json:"kind"`
	Hint     string   `json:"hint"`
	Choices  []string `json:"choices"`
	Optional bool     `json:"optional"`
	Value    string   `json:"value" doc:"What was answered, empty nothing yet"`
}

// AsksOf gives the blanks of a step with what was answered, each once.
func (k *Maker) AsksOf(key int, list []Variant, fills domain.Own) []Ask {
	out := []Ask{}
	for _, w := range list {
		for _, d := range w.Program.Blanks() {
			path := domain.FillPath(key, d.Name)
			if slices.ContainsFunc(out, func(x Ask) bool { return x.Path == path }) {
				continue
			}
			one := Ask{path, d.Label(), d.Kind, d.Hint, append([]string{}, d.Choices...), d.Optional, fills[path]}
			if d.Kind == document.BlankColleague {
				for i := range k.Users {
					one.Choices = append(one.Choices, k.Users[i].Name())
				}
			}
			out = append(out, one)
		}
	}
	return out
}

// Letter makes the letter of a step to somebody, stored nowhere: as of a day on their clock. In
// a conversation it goes on from the letter before it; of one that is not sent yet only the
// subject counts. Why says what keeps it from going although the words are there.
func (k *Maker) Letter(ctx context.Context, s *domain.PlanStep, fills domain.Own, set *library.Setting, at time.Time, before *domain.Letter) (l domain.Letter, why string, err error) {
	list, news, err := k.Variants(ctx, s)
	if err != nil || len(list) == 0 {
		return l, cmp.Or(news, "The step has no template; choose one."), err
	}
	w := VariantFor(list, set)
	if w.Broken != "" {
		return l, fmt.Sprintf("The template “%s” %s.", w.Template.Name, w.Broken), nil
	}
	if why := set.WhyNot(w.Program); why != "" {
		return l, fmt.Sprintf("The template “%s” %s.", w.Template.Name, why), nil
	}
	set.Values.Set("today", field.DateOf(at))
	seen := set.Snapshot()
	merged := w.Program.Merge(set.Values, w.Blanks(k.Users, domain.FillsOf(s.Key, fills)), set.ReaderFor(&w.Wording))
	if l, err = k.a.NewLetter(ctx, k.User, set, &w.Template, merged, &k.From, nil); err != nil {
		return l, "", err
	}
	if l.Seen = seen; w.Template.ID == 0 {
		l.TemplateID, l.TemplateVersion = nil, nil
	}
	if s.Same && before != nil {
		l.Subject = document.NewPlain("Re: " + letter.BareSubject(before.SubjectLine))
		l.SubjectLine = render.RenderText(l.Subject)
		l.InReplyTo, l.References = before.MessageID, strings.TrimSpace(before.References+" "+before.MessageID)
		if l.ThreadID = before.ThreadID; l.ThreadID == nil && before.ID != 0 {
			l.ThreadID = &before.ID
		}
	}
	return l, news, nil
}

// Words merges the words of a task or a text message. What is missing stands there as what it
// is called.
func (k *Maker) Words(s *domain.PlanStep, set *library.Setting, at time.Time) (words string, missing []string) {
	p, _ := k.CompileWords(s.Words)
	set.Values.Set("today", field.DateOf(at))
	merged := p.Merge(set.Values, template.Blanks{}, library.ReaderOf(&k.User, set.Recs.Team))
	for _, g := range document.Gaps(merged.Subject, merged.Body) {
		missing = append(missing, g.Label)
	}
	return strings.TrimSpace(render.RenderText(merged.Body)), missing
}

// NameOf says which step it is.
func (k *Maker) NameOf(ctx context.Context, s *domain.PlanStep) (string, error) {
	switch s.Kind {
	case plan.Letter:
		list, _, err := k.Variants(ctx, s)
		if err != nil || len(list) == 0 {
			return "Letter", err
		}
		if s.Wording != nil {
			return cmp.Or(render.RenderText(s.Wording.Subject), "Letter"), nil
		}
		name, err := k.a.library.NameFor(ctx, k.User, list[0].Template.ID)
		return strings.Trim(name, "“”"), err
	case plan.Text:
		return "Text message", nil
	}
	// Fields stand there as what they are called.
	p, _ := k.CompileWords(s.Words)
	merged := p.Merge(k.Cat.NewValues(), template.Blanks{}, field.NewReader("en-GB"))
	return cmp.Or(FirstLine(render.RenderText(merged.Body)), "Task"), nil
}

// FirstLine gives the first line of some words, shortened.
func FirstLine(words string) string {
	words, _, _ = strings.Cut(strings.TrimSpace(words), "\n")
	if r := []rune(words); len(r) > 80 {
		words = string(r[:79]) + "…"
	}
	return words
}

// Keeps says what keeps a letter from going, or "".
func (k *Maker) Keeps(ctx context.Context, l *domain.Letter, set *library.Setting) (string, error) {
	notes, err := k.a.Blockers(ctx, l, set)
	if err != nil {
		return "", err
	}
	return strings.TrimSuffix(document.FirstStop(notes), "."), nil
}

// CompileWords reads the words of a task or a text message, which may hold merge fields.
func (k *Maker) CompileWords(words string) (*template.Program, []document.Note) {
	return template.Compile(template.Template{Subject: document.NewPlain(""), Body: markup.Parse(words)}, k.Cat)
}

// MadeOf adds what letters of these wordings are made of.
func (k *Maker) MadeOf(ctx context.Context, out *Parts, list []Variant) error {
	for i := range list {
		w := &list[i]
		if w.Template.ID != 0 {
			if err := out.AddTemplate(&w.Template); err != nil {
				return err
			}
		}
		if err := out.AddOf(ctx, k.a.library, k.Book, w); err != nil {
			return err
		}
	}
	return nil
}
