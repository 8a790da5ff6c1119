package rounds

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/eligibility"
	"lucidletter/internal/domain"
)

// Act is what is done with one or several people of a round.
type Act string

// The acts.
const (
	ActGood    Act = "good" // the words were proofread as they are
	ActUngood  Act = "not good"
	ActAside   Act = "aside"   // gets no letter
	ActBack    Act = "back"    // gets one after all
	ActAllow   Act = "allow"   // gets one in spite of a reason
	ActNewer   Act = "newer"   // of two with one address the newer record gets the letter
	ActInstead Act = "instead" // the record that theirs was merged into takes their place
	ActCheck   Act = "check"   // is looked at again: what keeps letters from them was settled
	ActTake    Act = "take"    // of two with one address this one gets the letter
)

// Do does something with people of a round; who is on the way already is left. Sum is that of
// the words that were proofread, for one person. It tells how many it was done with.
func (a *Service) Do(ctx context.Context, u domain.User, id int64, act Act, people []int64, code eligibility.Code, sum string) (int, error) {
	if people = domain.Once(people); len(people) > MaxPeople {
		return 0, domain.Invalid("people", "are more than %d", MaxPeople)
	}
	// Of many, a part at a time, so that others can save in between.
	total := 0
	for part := range slices.Chunk(people, partOfMany) {
		n, err := a.doPart(ctx, u, id, act, part, code, sum)
		if total += n; err != nil {
			return total, err
		}
	}
	a.look(id)
	return total, nil
}

// partOfMany is how many people of a round are changed in one transaction.
const partOfMany = 500

func (a *Service) doPart(ctx context.Context, u domain.User, id int64, act Act, people []int64, code eligibility.Code, sum string) (n int, err error) {
	err = a.store.Within(ctx, func(ctx context.Context) error {
		n = 0
		r, err := a.mineOpen(ctx, u, id)
		if err != nil {
			return err
		}
		if act == ActAside {
			n, err = a.store.SetMany(ctx, id, people, notReleased, domain.MemberAside)
			return err
		}
		if act == ActBack {
			n, err = a.store.SetMany(ctx, id, people, []domain.MemberState{domain.MemberAside}, domain.MemberUnknown)
			return err
		}
		if act == ActAllow && !code.Overruled() {
			return domain.Invalid("reason", "cannot be overruled")
		}
		for _, person := range people {
			m, err := a.store.Member(ctx, id, person)
			if err != nil {
				return err
			}
			if m.State == domain.MemberReleased {
				continue
			}
			done, err := a.do(ctx, &r, &m, act, code, sum)
			if err != nil {
				return err
			}
			if done {
				n++
			}
		}
		return nil
	})
	return n, err
}

func (a *Service) do(ctx context.Context, r *domain.Round, m *domain.Member, act Act, code eligibility.Code, sum string) (bool, error) {
	switch act {
	case ActGood:
		switch {
		case m.State != domain.MemberReady && m.State != domain.MemberChanged:
			return false, nil
		case sum != "" && sum != m.Sum:
			return false, &domain.StateError{Why: "The letter has changed since you looked; look at it again."}
		}
		m.Good, m.Told = m.Sum, ""
	case ActUngood:
		m.Good = ""
	case ActAllow:
		if !slices.Contains(m.Allowed, string(code)) {
			m.Allowed = append(m.Allowed, string(code))
		}
		m.Checked = 0
	case ActCheck:
		m.Checked = 0
	case ActInstead:
		return a.instead(ctx, r, m)
	case ActNewer, ActTake:
		return a.take(ctx, r, m, act == ActNewer)
	default:
		return false, domain.Invalid("act", "%q is not known", act)
	}
	return true, a.store.UpdateMember(ctx, *m)
}

// instead puts the record that somebody's was merged into in their place; who is in the
// round already has a place of their own.
func (a *Service) instead(ctx context.Context, r *domain.Round, m *domain.Member) (bool, error) {
	kept, err := a.store.KeptOf(ctx, m.PersonID)
	if errors.Is(err, domain.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	switch _, err := a.store.Member(ctx, r.ID, kept); {
	case err == nil:
		return false, &domain.StateError{Why: "The record that this one was merged into is in the round already."}
	case !errors.Is(err, domain.ErrNotFound):
		return false, err
	}
	m.PersonID, m.Good, m.Checked = kept, "", 0
	return true, a.store.UpdateMember(ctx, *m)
}

// take settles who of several with one address gets the letter: m, or the newest record.
func (a *Service) take(ctx context.Context, r *domain.Round, m *domain.Member, newest bool) (bool, error) {
	if m.EmailKey == "" || m.State != domain.MemberSkipped {
		return false, nil
	}
	rows, _, err := a.store.Members(ctx, domain.MembersQuery{RoundID: r.ID, EmailKey: m.EmailKey, Limit: 1000})
	if err != nil {
		return false, err
	}
	best := m.PersonID
	var others []int64
	if newest {
		for i := range rows {
			if rows[i].State != domain.MemberAside {
				best = max(best, rows[i].PersonID)
			}
		}
	}
	for i := range rows {
		if rows[i].PersonID != best {
			others = append(others, rows[i].PersonID)
		}
	}
	if _, err := a.store.SetMany(ctx, r.ID, others, notReleased, domain.MemberAside); err != nil {
		return false, err
	}
	return true, a.store.CheckAgain(ctx, r.ID, m.EmailKey)
}

// FillOne answers a blank, or fills a gap, in the letter of one person alone. An empty value
// takes it back.
func (a *Service) FillOne(ctx context.Context, u domain.User, id, person int64, path, value string) error {
	return a.member(ctx, u, id, person, func(ctx context.Context, r *domain.Round, m *domain.Member) error {
		value, err := a.checkFill(ctx, r, path, value)
		if err != nil {
			return err
		}
		fills := maps.Clone(m.Fills)
		if fills == nil {
			fills = domain.Own{}
		}
		if fills[path] = value; value == "" {
			delete(fills, path)
		}
		m.Fills = fills
		return nil
	})
}

// member changes what the letter of one person is made of.
func (a *Service) member(ctx context.Context, u domain.User, id, person int64, f func(ctx context.Context, r *domain.Round, m *domain.Member) error) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		r, err := a.mineOpen(ctx, u, id)
		if err != nil {
			return err
		}
		m, err := a.store.Member(ctx, id, person)
		if err != nil {
			return err
		}
		if m.State == domain.MemberReleased {
			return &domain.StateError{Why: "This letter is on its way already."}
		}
		if err := f(ctx, &r, &m); err != nil {
			return err
		}
		m.Checked = 0
		return a.store.UpdateMember(ctx, m)
	})
	a.look(id)
	return err
}

// SetTemplateOf gives one person another template than the others, or with 0 the same.
func (a *Service) SetTemplateOf(ctx context.Context, u domain.User, id, person, templateID int64) error {
	return a.member(ctx, u, id, person, func(ctx context.Context, r *domain.Round, m *domain.Member) error {
		if m.LetterID != nil {
			return &domain.StateError{Why: "This letter was changed at the desk; take the round’s wording again first."}
		}
		if templateID == 0 {
			m.TemplateID, m.TemplateVersion = nil, 0
			return nil
		}
		t, err := a.mayUse(ctx, u, r.RecipeID, templateID)
		if err != nil {
			return err
		}
		m.TemplateID, m.TemplateVersion = &t.ID, t.Version
		return nil
	})
}

// ChangeLetter gives one person a letter of their own at the desk, with the words that it
// would have; and its id. One that is there already is that.
func (a *Service) ChangeLetter(ctx context.Context, u domain.User, id, person int64) (int64, error) {
	letterID := int64(0)
	err := a.member(ctx, u, id, person, func(ctx context.Context, r *domain.Round, m *domain.Member) error {
		if m.LetterID != nil {
			l, err := a.store.Letter(ctx, *m.LetterID)
			if err != nil {
				return err
			}
			if l.DeletedAt == nil {
				letterID = *m.LetterID
				return nil
			}
		}
		k, err := a.maker(ctx, r)
		if err != nil {
			return err
		}
		s, err := a.library.Setting(ctx, u, person, nil)
		if err != nil {
			return err
		}
		token := a.newID()
		l, err := k.letter(ctx, m, s, token)
		if err != nil {
			return err
		}
		if letterID, err = k.add(ctx, l, token); err != nil {
			return err
		}
		m.LetterID, m.Good, m.State = &letterID, "", domain.MemberChanged
		return nil
	})
	return letterID, err
}

// DropLetter discards the letter that one person has of their own; with back it is taken
// again.
func (a *Service) DropLetter(ctx context.Context, u domain.User, id, person int64) error {
	return a.member(ctx, u, id, person, func(ctx context.Context, r *domain.Round, m *domain.Member) error {
		if m.LetterID == nil {
			return nil
		}
		now := a.now()
		if err := a.store.DeleteDraft(ctx, *m.LetterID, &now); err != nil {
			return err
		}
		m.LetterID, m.Good, m.State = nil, "", domain.MemberUnknown
		return nil
	})
}

// checkQuery bounds what is asked for.
func checkQuery(q *domain.MembersQuery) error {
	if len(q.Search) > 200 {
		return domain.Invalid("search", "is longer than 200 bytes")
	}
	if q.Limit < 1 || q.Limit > 500 {
		q.Limit = 100
	}
	q.Search = strings.TrimSpace(q.Search)
	return nil
}

// People gives a window of the people of a round.
func (a *Service) People(ctx context.Context, u domain.User, q domain.MembersQuery) ([]domain.MemberRow, int, error) {
	if _, err := a.mine(ctx, u, q.RoundID); err != nil {
		return nil, 0, err
	}
	if err := checkQuery(&q); err != nil {
		return nil, 0, err
	}
	return a.store.Members(ctx, q)
}

// Place gives where somebody stands in a list of people of a round, from 0; -1 when they do not.
func (a *Service) Place(ctx context.Context, u domain.User, q domain.MembersQuery, person int64) (int, error) {
	if _, err := a.mine(ctx, u, q.RoundID); err != nil {
		return -1, err
	}
	return a.store.Place(ctx, q, person)
}

// FillRecords writes a value that people of a round lack on their records; it tells on how
// many.
func (a *Service) FillRecords(ctx context.Context, u domain.User, id int64, people []int64, path, value string) (int, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	if _, err := a.mineOpen(ctx, u, id); err != nil {
		return 0, err
	}
	n := 0
	for part := range slices.Chunk(people, 1000) {
		done, err := a.records.ChangeMany(ctx, u, part, path, value)
		if err != nil {
			return n, err
		}
		n += done.People
	}
	a.look(id)
	return n, nil
}

// BasisGiven says why people may be written to, since when, and where that is known from.
type BasisGiven struct {
	Ground string `json:"ground"`
	Since  string `json:"since" doc:"A day; empty today"`
	Source string `json:"source" maxLength:"500"`
}

// SetBasis writes on the records of people of a round, who have none, why they may be written
// to; it tells on how many.
func (a *Service) SetBasis(ctx context.Context, u domain.User, id int64, people []int64, b BasisGiven) (int, error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, err
	}
	settings, err := a.team.Settings(ctx)
	if err != nil {
		return 0, err
	}
	b.Source = strings.Join(strings.Fields(b.Source), " ")
	switch {
	case !slices.Contains(settings.Grounds, b.Ground):
		return 0, domain.Invalid("ground", "%q isn’t one of the grounds; choose one from the list", b.Ground)
	case b.Source == "":
		return 0, domain.Invalid("source", "is missing; say where you know it from")
	case b.Since == "":
		b.Since = a.now().Format("2006-01-02")
	}
	n := 0
	for part := range slices.Chunk(people, 500) {
		done, err := a.setBasis(ctx, u, id, part, b)
		if err != nil {
			return n, err
		}
		n += done
	}
	a.look(id)
	return n, nil
}

func (a *Service) setBasis(ctx context.Context, u domain.User, id int64, people []int64, b BasisGiven) (int, error) {
	n := 0
	err := a.store.Within(ctx, func(ctx context.Context) error {
		n = 0
		if _, err := a.mineOpen(ctx, u, id); err != nil {
			return err
		}
		for _, person := range people {
			if _, err := a.store.Member(ctx, id, person); err != nil {
				return err
			}
			p, err := a.store.Person(ctx, person)
			if err != nil {
				return err
			}
			if p.Basis != "" || p.DeletedAt != nil {
				continue
			}
			if _, err := a.records.ChangePerson(ctx, u, p.ID, p.Version, map[string]string{"person.basis": b.Ground, "person.basis_since": b.Since, "person.basis_source": b.Source}); err != nil {
				return fmt.Errorf("%s: %w", p.Name(), err)
			}
			n++
		}
		return nil
	})
	return n, err
}

// Alike gives those of a round who lack a field, or are skipped for a reason.
func (a *Service) Alike(ctx context.Context, u domain.User, id int64, missing string, code eligibility.Code) ([]int64, error) {
	if _, err := a.mine(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.PeopleWith(ctx, id, missing, code, MaxPeople)
}
