package plans

import (
	"context"
	"errors"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/core/render"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Ruler is the steps of a plan on the days on which they come, for one person.
type Ruler struct {
	Person    domain.Person
	Plan      string
	Zone      string     // of the recipient's clock
	ZoneKnown bool       // from their record; otherwise it is the sender's
	Country   string     // whose holidays they keep, "" those of nobody
	Mine      string     // the zone of the sender's clock
	Ready     int        // letters that are complete
	Letters   int        // of so many
	Why       []string   // what keeps the person from being started
	OnPlan    string     // the plan that they are going through; they can be started all the same
	Before    *time.Time // when they went through this plan before; they can be started all the same
	DealID    *int64     // the deal that it is about
	Deals     []domain.Deal
	Steps     []RulerStep
}

// RulerStep is a step on its day.
type RulerStep struct {
	Key     int
	Kind    plan.Kind
	Task    domain.TaskKind
	Same    bool
	Name    string
	At      time.Time
	Done    bool   // it came already
	Skipped bool   // it was left out
	Local   string // on the clock that it goes by, such as 2026-12-03T09:00
	Zone    string
	Over    string
	Moved   int
	Shift   bool
	Subject string
	Text    string // the letter as plain text, or the words of a task
	Why     string // what is open or keeps it from going by itself, "" nothing
	Asks    []compose.Ask
	Letter  *int64
}

// With says how a run is to be: a letter that its conversation begins with, the clock and the
// hour, answers to blanks.
type With struct {
	DealID   *int64
	Said     domain.RunSaid
	LetterID *int64
	Anyway   bool // also people who are on another plan
}

// RulerFor gives the dates and the letters of a plan for one person as they would be now; of
// steps that are being written where some are given.
func (a *Service) RulerFor(ctx context.Context, u domain.User, id, personID int64, with With, written *Input) (Ruler, error) {
	p, err := a.planFor(ctx, u, access.SeePlan, id)
	if err == nil && written != nil {
		written.Name = p.Name // it need not have one yet
		err = a.into(&p, *written)
	}
	if err != nil {
		return Ruler{}, err
	}
	if err := with.Said.Check(); err != nil {
		return Ruler{}, err
	}
	before, err := a.beginning(ctx, u, personID, with.LetterID)
	if err != nil {
		return Ruler{}, err
	}
	r := domain.Run{PlanID: id, PersonID: personID, DealID: with.DealID, OwnerID: u.ID, Said: with.Said, FromAt: a.now(), StartedAt: a.now()}
	out, err := a.ruler(ctx, u, &p, &r, nil, before)
	if err != nil {
		return out, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	reasons, err := a.reasonsFor(ctx, k, &p, []int64{personID}, &with)
	if err != nil {
		return out, err
	}
	if out.Why = reasons.of(&out.Person); len(out.Why) == 0 {
		if n := reasons.deals[personID]; n > 1 {
			out.Why = append(out.Why, dealsWhy(n))
		}
	}
	if at, was := reasons.over[personID]; was {
		out.Before = &at
	}
	out.OnPlan = reasons.onPlan(personID, id)
	return out, nil
}

// beginning gives the letter that a conversation begins with, nil without one.
func (a *Service) beginning(ctx context.Context, u domain.User, personID int64, letterID *int64) (*domain.Letter, error) {
	if letterID == nil {
		return nil, nil
	}
	l, err := a.desk.Seen(ctx, u, *letterID)
	switch {
	case errors.Is(err, domain.ErrNotFound), err == nil && l.PersonID != personID:
		return nil, domain.Invalid("letterId", "is no letter to this person; choose another")
	case err != nil:
		return nil, err
	case l.State == domain.Draft:
		return nil, domain.Invalid("letterId", "is still a draft; send it first")
	}
	return &l, nil
}

// ruler lays the steps of a run on their days: those that came on the days on which they did,
// the others as they would come now.
func (a *Service) ruler(ctx context.Context, u domain.User, p *domain.Plan, r *domain.Run, came []domain.RunStep, before *domain.Letter) (Ruler, error) {
	out := Ruler{Plan: p.Name, Why: []string{}, Steps: []RulerStep{}}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	about := r.DealID
	if about != nil && r.ID != 0 { // of a run whose deal is another person's by now the rest is shown
		if theirs, err := a.isTheirs(ctx, r.PersonID, *about); err != nil {
			return out, err
		} else if !theirs {
			about = nil
		}
	}
	set, err := a.library.Setting(ctx, u, r.PersonID, about)
	if err != nil {
		return out, err
	}
	w, known := WhereOf(&u, set.Person.TimeZone, set.Person.Country, &r.Said)
	out.DealID, out.Deals = set.DealID, set.Deals
	out.Person, out.Zone, out.ZoneKnown, out.Country, out.Mine = set.Person, w.Theirs.Zone.String(), known, w.Theirs.Country, w.Mine.Zone.String()
	for _, d := range came {
		out.Steps = append(out.Steps, RulerStep{Key: d.StepKey, Kind: plan.Kind(d.What), Name: d.Name, At: d.At, Done: true, Skipped: d.What == "skipped", Local: d.At.In(w.Theirs.Zone).Format(localForm), Zone: out.Zone, Asks: []compose.Ask{}, Letter: d.LetterID})
	}
	from, now := *r, a.now()
	for i, key := range plan.Left(p.Said.Keys(), keysOf(came)) {
		s := p.Said.Step(key)
		slot := k.slotOf(s, &from, set.Person.TimeZone, set.Person.Country, now)
		if i == 0 && r.StepAt != nil { // as it is stored
			slot.At = r.StepAt.In(slot.At.Location())
		}
		one := RulerStep{
			Key: key, Kind: s.Kind, Task: s.Task, Same: s.Same && before != nil, At: slot.At.UTC(), Local: slot.At.Format(localForm), Zone: slot.At.Location().String(), Over: slot.Over, Moved: slot.Moved, Shift: slot.Shift, Asks: []compose.Ask{},
		}
		if before, err = k.onDay(ctx, &one, s, r.Said.Fills, set, slot.At, before); err != nil {
			return out, err
		}
		if s.Kind == plan.Letter {
			if out.Letters++; one.Why == "" {
				out.Ready++
			}
		}
		out.Steps = append(out.Steps, one)
		from.FromAt = slot.At
	}
	return out, nil
}

const localForm = "2006-01-02T15:04"

// onDay fills in what a step says on its day, and gives the letter that the next one of its
// conversation goes on from.
func (k *maker) onDay(ctx context.Context, one *RulerStep, s *domain.PlanStep, fills domain.Own, set *library.Setting, at time.Time, before *domain.Letter) (*domain.Letter, error) {
	var err error
	if one.Name, err = k.NameOf(ctx, s); err != nil {
		return before, err
	}
	if s.Kind != plan.Letter {
		words, missing := k.Words(s, set, at)
		if one.Text = words; len(missing) > 0 {
			one.Why = "Not on record: " + strings.Join(missing, ", ")
		}
		return before, nil
	}
	list, _, err := k.Variants(ctx, s)
	if err != nil {
		return before, err
	}
	one.Asks = k.AsksOf(s.Key, list, fills)
	l, why, err := k.Letter(ctx, s, fills, set, at, before)
	if err != nil {
		return before, err
	}
	if l.PersonID == 0 {
		one.Why = why
		return before, nil
	}
	one.Subject, one.Text = l.SubjectLine, render.RenderText(l.Body)
	one.Why = why
	switch {
	case why != "":
	case s.Same && before != nil && len(document.Gaps(before.Subject, document.Document{})) > 0 && len(l.Gaps()) == 0:
		one.Why = "The subject of the letter before it is not filled"
	default:
		if one.Why, err = k.Keeps(ctx, &l, set); err != nil {
			return before, err
		}
	}
	if s.Same && before != nil {
		return before, nil
	}
	return &l, nil
}
