package orders

import (
	"context"
	"errors"
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

// Try works out what an order would have done in the past 30 days, and to whom. The filter
// and the letters are those of today's records; nothing is changed.
func (a *Service) Try(ctx context.Context, u domain.User, id int64, in Input) (OrderTrial, error) {
	out := OrderTrial{Rows: []TrialRow{}}
	o := domain.Order{ID: id, OwnerID: u.ID}
	if err := a.into(ctx, &o, in); err != nil {
		return out, err
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	if wrong, err := k.wrong(ctx, &o); err != nil {
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
			if !t.Fires(list[i].Event()) {
				continue
			}
			if err := add("", list[i].PersonID, list[i].DealID, list[i].At); err != nil {
				return nil, err
			}
		}
	case plan.OnDate:
		for day := a.day(&u); day > a.day(&u)-trialDays; day-- {
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

// would says what an order does about something: it acts, and nothing of that is kept.
func (k *maker) would(ctx context.Context, o *domain.Order, h *then) (row TrialRow, err error) {
	row = TrialRow{PersonID: h.person, DealID: h.deal, At: h.at, Would: []string{}}
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
	return row, k.a.keepNothing(ctx, func(ctx context.Context) (err error) {
		tried := *o
		if tried.ID == 0 { // what it does is noted with it
			tried.CreatedAt, tried.UpdatedAt = k.a.now(), k.a.now()
			if tried.ID, err = k.a.store.AddOrder(ctx, tried); err != nil {
				return err
			}
		}
		entry := domain.OrderEntry{OrderID: tried.ID, PersonID: h.person, DealID: h.deal, At: k.a.now()}
		d := &doer{maker: k, o: &tried, h: h.happening, entry: &entry}
		err = d.all(ctx)
		if why, known := failedWhy(err); known {
			entry.Result, entry.Text, err = domain.OrderFailed, why, nil
		}
		row.Would, row.Open = append(row.Would, entry.Text), entry.Result != domain.OrderDone
		return err
	})
}

// errNothingKept ends a transaction of which nothing is to stay.
var errNothingKept = errors.New("nothing of this is kept")

// keepNothing does something on the store and takes it back.
func (a *Service) keepNothing(ctx context.Context, do func(context.Context) error) error {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		if err := do(ctx); err != nil {
			return err
		}
		return errNothingKept
	})
	if errors.Is(err, errNothingKept) {
		return nil
	}
	return err
}
