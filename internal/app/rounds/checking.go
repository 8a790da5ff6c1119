package rounds

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strconv"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/preflight"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// check looks at the next people of a round behind a position, or with a number only at this
// one, in one transaction. It tells the last position, 0 when nobody was left.
func (a *Service) check(ctx context.Context, id, person int64, after int) (last int, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		last = 0
		r, err := a.store.Round(ctx, id)
		if err != nil || r.State.Over() || r.TemplateID == nil {
			return err
		}
		list, err := a.store.ToCheck(ctx, id, person, r.Version, after, checkStep)
		if err != nil || len(list) == 0 {
			return err
		}
		k, err := a.maker(ctx, &r)
		if err != nil {
			return err
		}
		last = list[len(list)-1].Position
		letters := make([]*int64, len(list))
		for i := range list {
			letters[i] = list[i].LetterID
		}
		if err := k.check(ctx, list); err != nil {
			return err
		}
		for i := range list {
			save := a.store.SaveCheck
			if letters[i] != list[i].LetterID { // it was discarded
				save = a.store.UpdateMember
			}
			if err := save(ctx, list[i]); err != nil {
				return err
			}
		}
		return nil
	})
	return last, err
}

// check works out how people of a round stand.
func (k *maker) check(ctx context.Context, list []domain.Member) error {
	ids, at := make([]int64, len(list)), map[int64]int{}
	for i := range list {
		ids[i], at[list[i].PersonID] = list[i].PersonID, i
	}
	settings, err := k.a.team.Settings(ctx)
	if err != nil {
		return err
	}
	people, err := k.a.store.PeopleOf(ctx, ids)
	if err != nil {
		return err
	}
	keys := make([]string, 0, len(people))
	for i := range people {
		m := &list[at[people[i].ID]]
		// Who has the same address as another is told by their keys.
		if key := field.EmailKey(people[i].Email); key != m.EmailKey {
			m.EmailKey = key
			if err := k.a.store.UpdateMember(ctx, *m); err != nil {
				return err
			}
		}
		if m.EmailKey != "" {
			keys = append(keys, m.EmailKey)
		}
		m.PersonVersion = people[i].Version
	}
	suppressed, err := k.a.store.Suppressions(ctx, keys...)
	if err != nil {
		return err
	}
	since := time.Time{}
	if settings.QuietDays > 0 {
		since = k.a.now().AddDate(0, 0, -settings.QuietDays)
	}
	known, err := k.a.store.Facts(ctx, k.r, ids, since)
	if err != nil {
		return err
	}
	running, err := k.a.store.OnPlans(ctx, ids)
	if err != nil {
		return err
	}
	known.OnPlan = map[int64]string{}
	for id, list := range running {
		known.OnPlan[id] = list[0].Plan
	}
	seen := map[int64]bool{}
	var c preflight.Checker
	err = k.a.library.EachSetting(ctx, k.cat, k.u, ids, func(s *library.Setting) error {
		m := &list[at[s.Person.ID]]
		seen[m.PersonID] = true
		if k.settings != nil {
			k.settings[m.PersonID] = gathered{s, s.Snapshot()}
		}
		f := factsOf(m, &s.Person, suppressed[m.EmailKey], &known, &settings)
		err := worker.Guard(func() error { return k.look(ctx, &c, m, s, &f) })
		if worker.Panicked(err) { // the others of the round are not held up
			k.a.failed(fmt.Errorf("check person %d of round %d: %w", m.PersonID, k.r.ID, err))
			return k.broken(ctx, m)
		}
		return err
	})
	for i := range list {
		if m := &list[i]; !seen[m.PersonID] && err == nil {
			err = k.gone(ctx, &c, m, known.Merged[m.PersonID])
		}
	}
	return err
}

// gone notes that somebody's record is not there any more, also for a letter that was changed.
func (k *maker) gone(ctx context.Context, c *preflight.Checker, m *domain.Member, mergedInto string) error {
	v := c.Look(&eligibility.Facts{Deleted: true, MergedInto: mergedInto}, nil, nil, nil, nil)
	l, err := k.ownLetter(ctx, m)
	if err != nil || l == nil {
		k.settle(m, v)
		return err
	}
	k.note(m, v, ownSum(l.Version))
	return nil
}

// ownLetter gives the letter of somebody that was changed at the desk, nil when there is none
// or it was discarded there.
func (k *maker) ownLetter(ctx context.Context, m *domain.Member) (*domain.Letter, error) {
	if m.LetterID == nil {
		return nil, nil
	}
	l, err := k.a.store.Letter(ctx, *m.LetterID)
	if err == nil && l.DeletedAt == nil {
		return &l, nil
	}
	if err != nil && !errors.Is(err, domain.ErrNotFound) {
		return nil, err
	}
	m.LetterID, m.Good = nil, ""
	return nil, nil
}

func factsOf(m *domain.Member, p *domain.Person, sup domain.Suppression, known *domain.MemberFacts, set *domain.Settings) eligibility.Facts {
	f := p.Standing(p.Email, sup, "")
	f.Twin, f.Answered, f.Basis, f.NeedsBasis = known.Twins[p.ID], known.Answered[p.ID], p.Basis, len(set.Grounds) > 0
	if by, ok := known.Colleague[p.ID]; ok {
		f.Colleague, f.ColleagueAt = by.Who, by.At
	}
	f.Plan = known.OnPlan[p.ID]
	f.AgainAt, f.Again = known.Again[p.ID]
	for _, code := range m.Allowed {
		f.Allowed = append(f.Allowed, eligibility.Code(code))
	}
	return f
}

// look checks the letter of one person: that of its own, or as it would be merged.
func (k *maker) look(ctx context.Context, c *preflight.Checker, m *domain.Member, s *library.Setting, f *eligibility.Facts) error {
	if l, err := k.ownLetter(ctx, m); err != nil {
		return err
	} else if l != nil {
		k.own(c, m, l, f)
		return nil
	}
	w, err := k.of(ctx, m, s)
	if err != nil {
		return err
	}
	if f.WhyNot, err = k.whyNot(ctx, s, w); err != nil {
		return err
	}
	if f.WhyNot != "" {
		f.WhyNot = "“" + w.Template.Name + "” " + f.WhyNot
	}
	blanks := k.fill(m, s, w)
	s.Values.Set("today", k.day())
	k.settle(m, c.Look(f, w.Program, s.Values, blanks, s.ReaderFor(&w.Wording)))
	return nil
}

// own checks a letter that was changed at the desk.
func (k *maker) own(c *preflight.Checker, m *domain.Member, l *domain.Letter, f *eligibility.Facts) {
	f.Email = cmp.Or(f.Email, l.Extras.Address)
	v := c.Look(f, nil, nil, nil, nil)
	for _, g := range l.Gaps() {
		v.Missing = append(v.Missing, g.Path)
	}
	if v.State == preflight.Ready && len(v.Missing) > 0 {
		v.State = preflight.Gap
	}
	k.note(m, v, ownSum(l.Version))
	if m.State == domain.MemberReady {
		m.State = domain.MemberChanged
	}
}

// broken notes that the letter of somebody cannot be put together for a fault of the program.
func (k *maker) broken(ctx context.Context, m *domain.Member) error {
	sum := ""
	if m.LetterID != nil {
		l, err := k.a.store.Letter(ctx, *m.LetterID)
		if err != nil {
			return err
		}
		sum = ownSum(l.Version)
	}
	k.note(m, preflight.Verdict{State: preflight.Skipped, Reasons: []eligibility.Reason{{Code: eligibility.Broken}}}, sum)
	return nil
}

// ownSum is the sum of a letter that was changed at the desk.
func ownSum(version int) string { return fmt.Sprint("letter ", version) }

// settle notes a verdict on the letter that would be merged.
func (k *maker) settle(m *domain.Member, v preflight.Verdict) {
	sum := ""
	if v.Sum != 0 {
		sum = strconv.FormatUint(v.Sum^k.askSum, 16)
	}
	k.note(m, v, sum)
}

// note notes a verdict, and the sum of the words that it is about.
func (k *maker) note(m *domain.Member, v preflight.Verdict, sum string) {
	m.State, m.Reasons, m.Missing = domain.MemberState(v.State), append(domain.Reasons{}, v.Reasons...), append(domain.Stretches{}, v.Missing...)
	m.Hard, m.Sum, m.Checked = v.Hard(), sum, k.r.Version
}

// Check looks at everybody of a round who is to be looked at, for as long as it takes.
func (a *Service) Check(ctx context.Context, id int64) error {
	for pass := 0; pass < maxPasses; pass++ {
		for at := 0; ; {
			began := time.Now()
			last, err := a.check(ctx, id, 0, at)
			if err == nil {
				err = ctx.Err()
			}
			a.store.Yield(ctx, time.Since(began))
			if err != nil || last == 0 && at == 0 {
				return err
			}
			if last == 0 {
				break
			}
			at = last
		}
		// Behind the last one it begins anew: some may have changed meanwhile.
	}
	a.failed(fmt.Errorf("round %d does not come to rest", id))
	return nil
}

// maxPasses is how often the people of a round are gone through at one look.
const maxPasses = 3
