package plans

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/core/preflight"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Outlook is what a plan looks like for many: how many letters go on which day, who waits for
// something, who is left out.
type Outlook struct {
	People int           `json:"people" doc:"Who would be started"`
	Left   []Left        `json:"left"`
	Days   []DayLoad     `json:"days"`
	Open   []OpenOne     `json:"open" doc:"Whose letters have a gap or a blank as things are"`
	OpenN  int           `json:"openN" doc:"How many they are; of many the first are named"`
	Today  int           `json:"today" doc:"How many of them have a letter today already"`
	PerDay int           `json:"perDay" doc:"How many letters the account sends in a day; 0 any number"`
	Until  time.Time     `json:"until" doc:"When the last step comes"`
	Asks   []compose.Ask `json:"asks" doc:"Blanks that can be answered for everybody"`
}

// DayLoad is how many letters go on a day on the sender's clock.
type DayLoad struct {
	Day     string `json:"day"`
	Letters int    `json:"letters" doc:"Of these people"`
	Others  int    `json:"others" doc:"Of the user's other plans, and letters that wait for the day"`
	Tasks   int    `json:"tasks"`
}

// OpenOne is somebody whose letters are not complete.
type OpenOne struct {
	PersonID int64  `json:"personId"`
	Name     string `json:"name"`
	Step     int    `json:"step" doc:"The first one, from 1"`
	What     string `json:"what"`
}

const mostNamed = 100

// OutlookFor looks at what a plan would be for people.
func (a *Service) OutlookFor(ctx context.Context, u domain.User, id int64, people []int64, with With) (Outlook, error) {
	out := Outlook{Left: []Left{}, Days: []DayLoad{}, Open: []OpenOne{}, Asks: []compose.Ask{}}
	people = domain.Once(people)
	if len(people) > MaxStart {
		return out, domain.Invalid("people", "are more than %d; choose a smaller list", MaxStart)
	}
	p, err := a.planFor(ctx, u, access.SeePlan, id)
	if err != nil {
		return out, err
	}
	if err := with.Said.Check(); err != nil {
		return out, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	x, err := a.reasonsFor(ctx, k, &p, people, &with)
	if err != nil {
		return out, err
	}
	o := &outlook{maker: k, p: &p, said: with.Said, now: a.now().Truncate(time.Minute), days: map[string]*DayLoad{}, out: &out}
	if o.lists, out.Asks, err = k.lists(ctx, &p, with.Said.Fills); err != nil {
		return out, err
	}
	var start []int64
	for _, id := range people {
		person, ok := x.people[id]
		if !ok {
			continue
		}
		if why := x.leftOut(&p, &person, with.Anyway); why != "" {
			out.Left = append(out.Left, Left{id, person.Name(), why})
			continue
		}
		start = append(start, id)
	}
	out.People = len(start)
	from, to := plan.Today(a.now(), u.TimeZone, u.Country)
	had, err := a.store.HadLetter(ctx, start, from, to, 0)
	if err != nil {
		return out, err
	}
	out.Today = len(had)
	if err := a.library.EachSetting(ctx, k.Cat, u, start, o.add); err != nil {
		return out, err
	}
	if err := o.others(ctx); err != nil {
		return out, err
	}
	for _, d := range o.days {
		out.Days = append(out.Days, *d)
	}
	slices.SortFunc(out.Days, func(x, y DayLoad) int { return cmp.Compare(x.Day, y.Day) })
	acc, err := a.team.AccountFor(ctx, u.ID, k.From.Email)
	out.PerDay = acc.PerDay
	return out, err
}

// lists gives what the letters of each step are merged from, and their blanks.
func (k *maker) lists(ctx context.Context, p *domain.Plan, fills domain.Own) (map[int][]compose.Variant, []compose.Ask, error) {
	lists, asks := map[int][]compose.Variant{}, []compose.Ask{}
	for i := range p.Said.Steps {
		s := &p.Said.Steps[i]
		if s.Kind != plan.Letter {
			continue
		}
		list, _, err := k.Variants(ctx, s)
		if err != nil {
			return nil, nil, err
		}
		lists[s.Key] = list
		asks = append(asks, k.AsksOf(s.Key, list, fills)...)
	}
	return lists, asks, nil
}

// outlook adds up what people of a list bring.
type outlook struct {
	*maker
	p       *domain.Plan
	said    domain.RunSaid
	now     time.Time
	lists   map[int][]compose.Variant
	days    map[string]*DayLoad
	checker preflight.Checker
	out     *Outlook
}

func (o *outlook) day(at time.Time, zone *time.Location) *DayLoad {
	key := at.In(zone).Format(time.DateOnly)
	if o.days[key] == nil {
		o.days[key] = &DayLoad{Day: key}
	}
	return o.days[key]
}

// add adds one person.
func (o *outlook) add(set *library.Setting) error {
	w, _ := WhereOf(&o.User, set.Person.TimeZone, set.Person.Country, &o.said)
	open := ""
	from := o.now
	for i := range o.p.Said.Steps {
		s := &o.p.Said.Steps[i]
		timing := s.Timing(&o.said)
		slot := o.scheduler.Slot(&timing, &w, from, o.now)
		from = slot.At
		if slot.At.After(o.out.Until) {
			o.out.Until = slot.At.UTC()
		}
		if s.Kind != plan.Letter {
			o.day(slot.At, w.Mine.Zone).Tasks++
			continue
		}
		o.day(slot.At, w.Mine.Zone).Letters++
		if open == "" {
			if open = o.gap(s, set, slot.At); open != "" {
				if o.out.OpenN++; len(o.out.Open) < mostNamed {
					o.out.Open = append(o.out.Open, OpenOne{set.Person.ID, set.Person.Name(), i + 1, open})
				}
			}
		}
	}
	return nil
}

// gap says what is open in the letter of a step, or "".
func (o *outlook) gap(s *domain.PlanStep, set *library.Setting, at time.Time) string {
	list := o.lists[s.Key]
	if len(list) == 0 {
		return "no template"
	}
	w := compose.VariantFor(list, set)
	if why := set.WhyNot(w.Program); why != "" {
		return "the template " + why
	}
	set.Values.Set("today", field.DateOf(at))
	v := o.checker.Look(&eligibility.Facts{Email: set.Person.Email}, w.Program, set.Values, w.Blanks(o.Users, domain.FillsOf(s.Key, o.said.Fills)), set.ReaderFor(&w.Wording))
	var labels []string
	for _, path := range v.Missing {
		labels = append(labels, o.Cat.Name(path))
	}
	if len(labels) == 0 && v.State == preflight.Gap {
		return "a value is missing"
	}
	return strings.Join(labels, ", ")
}

// others adds what is on its way besides: the dates of the user's other runs, and letters
// that wait for a time.
func (o *outlook) others(ctx context.Context) error {
	mine, _ := WhereOf(&o.User, "", "", nil)
	letters, err := o.a.store.Letters(ctx, domain.LettersQuery{SenderID: o.User.ID, States: []domain.LetterState{domain.Waiting}, Limit: desk.MaxLetters})
	if err != nil {
		return err
	}
	for i := range letters {
		if at := letters[i].DueAt; at != nil {
			if d := o.days[at.In(mine.Mine.Zone).Format(time.DateOnly)]; d != nil {
				d.Others++
			}
		}
	}
	rows, _, err := o.a.store.Runs(ctx, domain.RunsQuery{OwnerID: o.User.ID, States: []domain.RunState{domain.RunGoing}, Limit: 20_000})
	if err != nil {
		return err
	}
	known := map[int64]*domain.Plan{}
	for i := range rows {
		r := &rows[i]
		if known[r.PlanID] == nil {
			p, err := o.a.store.Plan(ctx, r.PlanID)
			if err != nil {
				return err
			}
			known[r.PlanID] = &p
		}
		o.later(known[r.PlanID], r)
	}
	return nil
}

// later adds the letters of a run that are still to come, on days that are looked at.
func (o *outlook) later(p *domain.Plan, r *domain.RunRow) {
	w, _ := WhereOf(&o.User, r.Zone, r.Country, &r.Said)
	at := slices.Index(p.Said.Keys(), r.StepKey)
	from := r.FromAt.Truncate(time.Minute)
	for i := max(at, 0); at >= 0 && i < len(p.Said.Steps); i++ {
		s := &p.Said.Steps[i]
		timing := s.Timing(&r.Said)
		slot := o.scheduler.Slot(&timing, &w, from, o.now)
		if i == at && r.StepAt != nil {
			slot.At = *r.StepAt
		}
		from = slot.At
		if d := o.days[slot.At.In(w.Mine.Zone).Format(time.DateOnly)]; d != nil && s.Kind == plan.Letter {
			d.Others++
		}
	}
}
