package plans

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// OrderTrial is what an order would have done in the past 30 days, as the records are now.
type OrderTrial struct {
	Times int        `json:"times" doc:"How often it would have acted"`
	More  bool       `json:"more" doc:"More happened than was looked at"`
	Rows  []TrialRow `json:"rows" doc:"The latest first; of many the first are named"`
	// Known is from when on changes are on record, when that is within the 30 days.
	Known *time.Time `json:"known,omitempty" doc:"Changes of records are known from then on only"`
	Loop  string     `json:"loop" doc:"The orders that it would set off for ever, in words; empty: none"`
}

// TrialRow is one time that it would have acted.
type TrialRow struct {
	PersonID *int64    `json:"personId,omitempty"`
	DealID   *int64    `json:"dealId,omitempty"`
	Name     string    `json:"name"`
	At       time.Time `json:"at"`
	Would    []string  `json:"would" doc:"What it would have done, or why not"`
	Open     bool      `json:"open" doc:"A letter would wait to be proofread, or something would not be done"`
}

// then is something that happened in the past.
type then struct {
	happening
	at time.Time
}

// TryOrder works out what an order would have done in the past 30 days, and to whom. The filter
// and the letters are those of today's records; nothing is changed.
func (a *Service) TryOrder(ctx context.Context, u domain.User, id int64, in OrderInput) (OrderTrial, error) {
	out := OrderTrial{Rows: []TrialRow{}}
	o := domain.Order{ID: id, OwnerID: u.ID}
	if err := a.intoOrder(ctx, &o, in); err != nil {
		return out, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	if wrong, err := k.wrongOrder(ctx, &o); err != nil {
		return out, err
	} else if len(wrong) > 0 {
		return out, &domain.StateError{Why: strings.Join(wrong, " ")}
	}
	if out.Loop, err = a.loopWith(ctx, &o); err != nil {
		return out, err
	}
	past, err := a.past(ctx, &o, u)
	if err != nil {
		return out, err
	}
	if o.Said.When.On == plan.OnChanged {
		known, err := a.store.ChangesKnownSince(ctx)
		if err != nil {
			return out, err
		}
		if known == nil {
			known = new(a.now())
		}
		if known.After(a.now().AddDate(0, 0, -trialDays)) {
			out.Known = known
		}
	}
	out.More = len(past) >= datesInATrial
	for _, one := range past {
		holds, err := a.holds(ctx, u, &o, one.person)
		if err != nil {
			return out, err
		}
		if !holds {
			continue
		}
		if out.Times++; len(out.Rows) >= mostNamed {
			continue
		}
		row, err := k.would(ctx, &o, &one)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// past gives what happened in the past 30 days that an order acts on, the latest first.
func (a *Service) past(ctx context.Context, o *domain.Order, u domain.User) ([]then, error) {
	t, since := &o.Said.When, a.now().AddDate(0, 0, -trialDays)
	var out []then
	add := func(key string, person, deal *int64, at time.Time) error {
		h, ok, err := a.about(ctx, key, person, deal)
		if ok && len(out) < datesInATrial {
			out = append(out, then{h, at})
		}
		return err
	}
	switch t.On {
	case plan.OnCreated, plan.OnChanged:
		list, err := a.store.RecordEventsSince(ctx, string(t.On), t.Path, t.Record == "deal", since, 4*datesInATrial)
		if err != nil {
			return nil, err
		}
		for i := range list {
			if !t.Fires(eventOf(&list[i])) {
				continue
			}
			if err := add("", list[i].PersonID, list[i].DealID, list[i].At); err != nil {
				return nil, err
			}
		}
	case plan.OnDate:
		for day := a.orderDay(&u); day > a.orderDay(&u)-trialDays; day-- {
			list, err := a.dated(ctx, o, day)
			if err != nil {
				return nil, err
			}
			for _, h := range list {
				if len(out) < datesInATrial {
					out = append(out, then{h, day.Date().Add(plan.MorningHour * time.Hour)})
				}
			}
		}
	default:
		list, err := a.store.EventsSince(ctx, string(t.On), since, datesInATrial)
		if err != nil {
			return nil, err
		}
		for i := range list {
			if err := add("", &list[i].PersonID, list[i].DealID, list[i].At); err != nil {
				return nil, err
			}
		}
	}
	slices.SortStableFunc(out, func(x, y then) int { return y.at.Compare(x.at) })
	return out, nil
}

// would says what an order would do about something.
func (k *maker) would(ctx context.Context, o *domain.Order, h *then) (TrialRow, error) {
	row := TrialRow{PersonID: h.person, DealID: h.deal, At: h.at, Would: []string{}}
	if h.person != nil {
		p, err := k.a.store.Person(ctx, *h.person)
		if err != nil {
			return row, err
		}
		row.Name = p.Name()
	} else if h.deal != nil {
		d, err := k.a.store.Deal(ctx, *h.deal)
		if err != nil {
			return row, err
		}
		row.Name = d.Name
	}
	for i := range o.Said.Do {
		words, open, err := k.wouldDo(ctx, &o.Said.Do[i], h)
		if err != nil {
			return row, err
		}
		row.Would, row.Open = append(row.Would, words), row.Open || open
	}
	return row, nil
}

func (k *maker) wouldDo(ctx context.Context, act *domain.OrderAct, h *then) (words string, open bool, err error) {
	if h.person == nil && act.Do != plan.MakeTask && act.Do != plan.SetField {
		return "nothing: the deal has no main contact", true, nil
	}
	switch act.Do {
	case plan.SendLetter, plan.SendNote:
		return k.wouldSend(ctx, act, h)
	case plan.StartPlan:
		p, err := k.a.store.Plan(ctx, *act.PlanID)
		if err != nil {
			return "", false, err
		}
		x, err := k.a.reasons(ctx, []int64{*h.person})
		if err != nil {
			return "", false, err
		}
		person := x.people[*h.person]
		if why := x.leftOut(&p, &person, false); why != "" {
			return fmt.Sprintf("not started on “%s”: %s", p.Name, why), true, nil
		}
		return fmt.Sprintf("started on “%s”", p.Name), false, nil
	case plan.StopPlan:
		rows, err := k.a.store.OnPlans(ctx, []int64{*h.person})
		if err != nil {
			return "", false, err
		}
		list := slices.DeleteFunc(rows[*h.person], func(r domain.RunRow) bool { return act.PlanID != nil && r.PlanID != *act.PlanID })
		if len(list) == 0 {
			return "nothing to stop", true, nil
		}
		return fmt.Sprintf("stopped “%s”", list[0].Plan), false, nil
	}
	out, err := k.actWords(ctx, act)
	return out, false, err
}

func (k *maker) wouldSend(ctx context.Context, act *domain.OrderAct, h *then) (string, bool, error) {
	set, err := k.a.library.Setting(ctx, k.u, *h.person, h.deal)
	if err != nil {
		return "", false, err
	}
	if why := notWritten(&set.Person); why != "" && act.Do == plan.SendLetter {
		return "not sent: " + why, true, nil
	}
	l, why, err := k.letter(ctx, &domain.PlanStep{TemplateID: act.TemplateID}, nil, set, k.a.now(), nil)
	if err != nil {
		return "", false, err
	}
	if l.PersonID == 0 {
		return "not sent: " + why, true, nil
	}
	if why == "" && act.Do == plan.SendLetter {
		if why, err = k.keeps(ctx, &l, set); err != nil {
			return "", false, err
		}
	}
	if why != "" {
		return fmt.Sprintf("“%s” would wait to be proofread: %s", l.SubjectLine, why), true, nil
	}
	return fmt.Sprintf("sent “%s”", l.SubjectLine), false, nil
}
