package plans

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"lucidletter/core/letter"
	"slices"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// maker makes what the steps of plans are, for one user, one goroutine and a short while.
type maker struct {
	a         *Service
	u         domain.User
	cat       *field.Catalogue
	book      *library.Book
	from      domain.FromAddress
	users     []domain.User
	templates map[int64]made
	scheduler plan.Scheduler
}

// made is a template as it was looked up for steps.
type made struct {
	list []desk.Worded
	news string
}

func (a *Service) maker(ctx context.Context, u domain.User) (*maker, error) {
	k := &maker{a: a, u: u, templates: map[int64]made{}}
	var err error
	if k.cat, err = a.records.Catalogue(ctx); err != nil {
		return nil, err
	}
	if k.book, err = a.library.Book(ctx); err != nil {
		return nil, err
	}
	if k.from, err = a.team.FromAddress(ctx, u, u.Email); errors.Is(err, domain.ErrNotFound) {
		k.from, err = domain.FromAddress{Name: u.Name(), Email: u.Email}, nil
	}
	if err == nil {
		k.users, err = a.store.Users(ctx)
	}
	return k, err
}

// worded gives what the letters of a step are merged from, with its wordings in other
// languages, and why the user cannot use it, or "". Of a template that they may not see it
// gives nothing.
func (k *maker) worded(ctx context.Context, s *domain.PlanStep) ([]desk.Worded, string, error) {
	base := made{}
	if s.TemplateID != nil {
		var err error
		if base, err = k.template(ctx, *s.TemplateID); err != nil {
			return nil, "", err
		}
	}
	if s.Wording == nil {
		return base.list, base.news, nil
	}
	t := domain.Template{Name: "Words of this plan"}
	if len(base.list) > 0 {
		t = base.list[0].Template
	}
	return []desk.Worded{desk.WordedWith(k.cat, k.book, t, s.Wording)}, "", nil
}

func (k *maker) template(ctx context.Context, id int64) (made, error) {
	if m, ok := k.templates[id]; ok {
		return m, nil
	}
	m := made{}
	t, err := k.a.store.Template(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		m.news = "The template is gone; choose another."
		return m, nil
	}
	if err != nil {
		return m, err
	}
	may, err := k.a.library.UsableWhenReady(ctx, k.u, &t)
	if err != nil {
		return m, err
	}
	switch {
	case !may:
		m.news = "You may not use the template of this letter; choose another."
	case t.DeletedAt != nil:
		m.news = fmt.Sprintf("The template “%s” was deleted; choose another.", t.Name)
	case t.State == domain.TemplateWithdrawn:
		m.news = fmt.Sprintf("The template “%s” was withdrawn; choose another.", t.Name)
	case t.State == domain.TemplateDraft:
		m.news = fmt.Sprintf("The template “%s” is a draft at the moment; make it ready, or choose another.", t.Name)
	}
	// Nobody knows the words of a draft but those who write it.
	if !may || t.State == domain.TemplateDraft && t.OwnerID != k.u.ID {
		k.templates[id] = m
		return m, nil
	}
	if m.list, err = k.a.desk.WordedAll(ctx, k.cat, k.book, t); err != nil {
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

func (k *maker) asksOf(key int, list []desk.Worded, fills domain.Own) []Ask {
	out := []Ask{}
	for _, w := range list {
		for _, d := range w.Program.Blanks() {
			path := domain.FillPath(key, d.Name)
			if slices.ContainsFunc(out, func(x Ask) bool { return x.Path == path }) {
				continue
			}
			one := Ask{path, d.Label(), d.Kind, d.Hint, append([]string{}, d.Choices...), d.Optional, fills[path]}
			if d.Kind == document.BlankColleague {
				for i := range k.users {
					one.Choices = append(one.Choices, k.users[i].Name())
				}
			}
			out = append(out, one)
		}
	}
	return out
}

// letter makes the letter of a step to somebody, stored nowhere: as of a day on their clock. In
// a conversation it goes on from the letter before it; of one that is not sent yet only the
// subject counts. Why says what keeps it from going although the words are there.
func (k *maker) letter(ctx context.Context, s *domain.PlanStep, fills domain.Own, set *library.Setting, at time.Time, before *domain.Letter) (l domain.Letter, why string, err error) {
	list, news, err := k.worded(ctx, s)
	if err != nil || len(list) == 0 {
		return l, cmp.Or(news, "The step has no template; choose one."), err
	}
	w := desk.WordedFor(list, set)
	if w.Broken != "" {
		return l, fmt.Sprintf("The template “%s” %s.", w.Template.Name, w.Broken), nil
	}
	if why := set.WhyNot(w.Program); why != "" {
		return l, fmt.Sprintf("The template “%s” %s.", w.Template.Name, why), nil
	}
	set.Values.Set("today", field.DateOf(at))
	seen := set.Snapshot()
	merged := w.Program.Merge(set.Values, w.Blanks(k.users, domain.FillsOf(s.Key, fills)), set.ReaderFor(&w.Wording))
	if l, err = k.a.desk.Fresh(ctx, k.u, set, &w.Template, merged, &k.from, nil); err != nil {
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

// words merges the words of a task or a text message. What is missing stands there as what it
// is called.
func (k *maker) words(s *domain.PlanStep, set *library.Setting, at time.Time) (words string, missing []string) {
	p, _ := k.compileWords(s.Words)
	set.Values.Set("today", field.DateOf(at))
	merged := p.Merge(set.Values, template.Blanks{}, library.ReaderOf(&k.u, set.Recs.Team))
	for _, g := range document.Gaps(merged.Subject, merged.Body) {
		missing = append(missing, g.Label)
	}
	return strings.TrimSpace(render.RenderText(merged.Body)), missing
}

// nameOf says which step it is.
func (k *maker) nameOf(ctx context.Context, s *domain.PlanStep) (string, error) {
	switch s.Kind {
	case plan.Letter:
		list, _, err := k.worded(ctx, s)
		if err != nil || len(list) == 0 {
			return "Letter", err
		}
		if s.Wording != nil {
			return cmp.Or(render.RenderText(s.Wording.Subject), "Letter"), nil
		}
		name, err := k.a.library.NameFor(ctx, k.u, list[0].Template.ID)
		return strings.Trim(name, "“”"), err
	case plan.Text:
		return "Text message", nil
	}
	// Fields stand there as what they are called.
	p, _ := k.compileWords(s.Words)
	merged := p.Merge(k.cat.NewValues(), template.Blanks{}, field.NewReader("en-GB"))
	return cmp.Or(firstLine(render.RenderText(merged.Body)), "Task"), nil
}

// firstLine gives the first line of some words, shortened.
func firstLine(words string) string {
	words, _, _ = strings.Cut(strings.TrimSpace(words), "\n")
	if r := []rune(words); len(r) > 80 {
		words = string(r[:79]) + "…"
	}
	return words
}

// keyPaths are the values that a letter must not go wrong about: name, address and company.
var keyPaths = []string{"person.first_name", "person.last_name", "person.email", "company.name"}

// keyValues gives them as they are.
func keyValues(set *library.Setting) domain.Own {
	out := domain.Own{}
	for _, path := range keyPaths {
		if v := set.Values.Get(path); v.Filled() {
			out[path] = v.String()
		}
	}
	return out
}

// keyNews says what of them is another one than it was, or "".
func (k *maker) keyNews(was domain.Own, set *library.Setting) string {
	now := keyValues(set)
	for _, path := range keyPaths {
		if was[path] != now[path] {
			return fmt.Sprintf("%s was “%s” when the plan began and is “%s” now", k.cat.Name(path), was[path], now[path])
		}
	}
	return ""
}
