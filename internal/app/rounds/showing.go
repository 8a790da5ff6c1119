package rounds

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Shown is the letter of one person of a round as it would go, or as it went.
type Shown struct {
	Row       domain.MemberRow
	Template  string         // its name
	Proof     *compose.Proof // nil where no letter can be made
	Why       string         // why not
	Stops     []string       // what beside gaps and the reasons keeps it from going
	Gaps      []Gap
	Differs   []library.Stretch // from the letter that was looked at before; empty without one
	Suspected []library.Suggestion
}

// Gap is a value that a letter needs, and how it is asked for. Value is what it was filled
// with in this letter or in all of them.
type Gap struct {
	document.Gap
	Value    string
	Storable bool // it can be written on the record of the person
}

// Show gives the letter of one person; before is whose letter was looked at before, or 0.
func (a *Service) Show(ctx context.Context, u domain.User, id, person, before int64) (Shown, error) {
	out := Shown{}
	r, err := a.mine(ctx, u, id)
	if err != nil {
		return out, err
	}
	// How they stand is told of the very words that are shown.
	if !r.State.Over() && r.TemplateID != nil {
		stale, err := a.store.ToCheck(ctx, id, person, r.Version, 0, 1)
		if err == nil && len(stale) > 0 {
			_, err = a.check(ctx, id, person, 0)
		}
		if err != nil {
			return out, err
		}
	}
	rows, _, err := a.store.Members(ctx, domain.MembersQuery{RoundID: id, Person: person, Limit: 1})
	if err != nil {
		return out, err
	}
	if len(rows) == 0 {
		return out, domain.ErrNotFound
	}
	out.Row = rows[0]
	if r.TemplateID == nil {
		out.Why = errNoTemplate.Why
		return out, nil
	}
	k, err := a.maker(ctx, &r)
	if err != nil {
		return out, err
	}
	text, err := k.show(ctx, &out)
	if err != nil || before == 0 || before == person {
		return out, err
	}
	other, err := a.store.Member(ctx, id, before)
	if errors.Is(err, domain.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	l, s, why, err := k.made(ctx, &other)
	if err != nil || why != "" || s == nil || text == "" {
		return out, err
	}
	if out.Differs = library.CompareWords(wordsOf(&l), text); !slices.ContainsFunc(out.Differs, func(d library.Stretch) bool { return d.Kind != "same" && strings.TrimSpace(d.Text) != "" }) {
		out.Differs = nil
	}
	return out, nil
}

// wordsOf is what a letter says, its subject first.
func wordsOf(l *domain.Letter) string {
	return render.RenderText(l.Subject) + "\n\n" + render.RenderText(l.Body)
}

// made gives the letter of somebody: that in the outbox, that of their own, or as it would be
// merged. Why says why there is none.
func (k *maker) made(ctx context.Context, m *domain.Member) (l domain.Letter, s *library.Setting, why string, err error) {
	p, err := k.a.store.Person(ctx, m.PersonID)
	if err != nil {
		return l, nil, "", err
	}
	if m.LetterID != nil {
		l, err = k.a.store.Letter(ctx, *m.LetterID)
		if err == nil && l.DeletedAt == nil {
			s, err = k.a.library.SettingOf(ctx, k.u, l.PersonID, l.DealID)
			return l, s, "", err
		}
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return l, nil, "", err
		}
	}
	if p.DeletedAt != nil {
		why, err := k.a.records.GoneWords(ctx, &p)
		return l, nil, why, err
	}
	if s, err = k.a.library.Setting(ctx, k.u, m.PersonID, nil); err != nil {
		return l, nil, "", err
	}
	l, err = k.letter(ctx, m, s, "")
	if why, forPeople := domain.ForPeople(err); forPeople {
		return l, nil, why, nil
	}
	return l, s, "", err
}

func (k *maker) show(ctx context.Context, out *Shown) (text string, err error) {
	m := &out.Row.Member
	l, s, why, err := k.made(ctx, m)
	if err != nil || why != "" {
		out.Why = why
		return "", err
	}
	w, err := k.of(ctx, m, s)
	if err != nil {
		return "", err
	}
	out.Template, text = w.Template.Name, wordsOf(&l)
	var proof compose.Proof
	if l.ID != 0 {
		proof, err = k.a.desk.ProofOf(ctx, k.u, l.ID, desk.When{})
	} else {
		at := k.a.now()
		if m.GoAt != nil {
			at = *m.GoAt
		}
		asking := l
		if k.r.Said.Ask != nil {
			asking, err = k.letter(ctx, m, s, "proof")
		}
		if err == nil {
			proof, err = k.a.compose.ProofOf(ctx, asking, at)
		}
	}
	if why, forPeople := domain.ForPeople(err); forPeople {
		out.Why = why
		return text, nil
	}
	if err != nil {
		return text, err
	}
	out.Proof = &proof
	if l.ID != 0 && l.State != domain.Draft {
		return text, nil
	}
	out.Suspected = slices.DeleteFunc(desk.Suggestions(k.cat, &s.Person, &l), func(s library.Suggestion) bool { return s.Edited })
	return text, k.open(ctx, out, &l, s)
}

// open says what keeps a letter from going: its gaps, and what else.
func (k *maker) open(ctx context.Context, out *Shown, l *domain.Letter, s *library.Setting) error {
	stops, err := k.a.compose.Blockers(ctx, l, s)
	if err != nil {
		return err
	}
	if l.ID != 0 {
		news, err := k.news(ctx, l, s)
		if err != nil {
			return err
		}
		if news != "" {
			out.Stops = append(out.Stops, news+".")
		}
	}
	for _, n := range stops {
		// Gaps have inputs, and the reasons for which somebody is skipped stand there already.
		if !slices.Contains([]string{"gap", "blank", "optedout", "noaddress", "badaddress", "bounced", "deleted"}, n.Code) {
			out.Stops = append(out.Stops, n.Message)
		}
	}
	gaps, err := k.a.desk.AskColleaguesOnce(ctx, l.Gaps())
	if err != nil {
		return err
	}
	for _, g := range gaps {
		one := Gap{Gap: g}
		if ref, ok := k.cat.Find(g.Path); ok {
			one.Type, one.Gap.Choices = ref.Def.Type, ref.Def.Choices
			one.Storable = records.Storable(&ref.Def, &s.Person)
		}
		out.Gaps = append(out.Gaps, one)
	}
	return nil
}
