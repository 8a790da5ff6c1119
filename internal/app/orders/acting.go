package orders

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// The names of what orders read, for the marks up to where it was.
const (
	ordersHistory = "orders: history"
	ordersRecords = "orders: records"
)

// ordersAtOnce is how many events are acted on before other work gets its turn; so many
// letters of orders wait in the outbox at most. A large import is paced by both.
const (
	ordersAtOnce  = 50
	ordersAhead   = 200
	mostLateDays  = 7 // for which dates are made up for, when the program did not run
	datesInATrial = 400
)

// happening is something that orders act on, about one person, one deal, or both.
type happening struct {
	key    string // which event it is
	person *int64
	deal   *int64
}

// Act has orders act on what happened. It tells whether there may be more at once.
func (a *Service) Act(ctx context.Context) (more bool, err error) {
	orders, err := a.store.Orders(ctx, true)
	if err != nil {
		return false, err
	}
	stopped, err := a.store.OrdersStopped(ctx)
	if err != nil {
		return false, err
	}
	if stopped != nil {
		orders = nil // what happens meanwhile is not acted on
	}
	if len(orders) > 0 {
		if n, err := a.store.OrderLetters(ctx); err != nil || n >= ordersAhead {
			return false, err
		}
	}
	moreRecords, err := a.actOnRecords(ctx, orders)
	if err != nil {
		return false, err
	}
	moreEntries, err := a.actOnHistory(ctx, orders)
	if err != nil {
		return false, err
	}
	return moreRecords || moreEntries, a.actOnDates(ctx, orders)
}

func (a *Service) actOnRecords(ctx context.Context, orders []domain.Order) (bool, error) {
	mark, err := a.store.ReadMark(ctx, ordersRecords)
	if err != nil {
		return false, err
	}
	limit := ordersAtOnce
	if len(orders) == 0 {
		limit = 10_000
	}
	list, err := a.store.RecordEvents(ctx, mark, limit)
	if err != nil || len(list) == 0 {
		return false, err
	}
	for i := range list {
		e := &list[i]
		for k := range orders {
			o := &orders[k]
			if e.ID <= o.FromEvent || !o.Said.When.Fires(e.Event()) {
				continue
			}
			if err := a.actAbout(ctx, o, fmt.Sprint("record:", e.ID), e.PersonID, e.DealID); err != nil {
				return false, err
			}
		}
	}
	return len(list) == limit, a.store.SetReadMark(ctx, ordersRecords, list[len(list)-1].ID)
}

// actAbout has an order act on an event about a person, a deal, or both. What goes wrong is
// told, and holds up neither other events nor other orders; the error is a store that is busy.
func (a *Service) actAbout(ctx context.Context, o *domain.Order, key string, personID, dealID *int64) error {
	return a.orTell(ctx, o, key, func() error {
		h, ok, err := a.about(ctx, key, personID, dealID)
		if err != nil || !ok {
			return err
		}
		return a.act(ctx, o, h)
	})
}

// orTell does something for an order; what went wrong with it alone is told and no error.
func (a *Service) orTell(ctx context.Context, o *domain.Order, what string, do func() error) error {
	err := worker.Guard(do)
	if err == nil || !worker.Panicked(err) && !domain.Lasting(err) {
		return err
	}
	a.failed(fmt.Errorf("order %d on %s: %w", o.ID, what, err))
	return nil
}

// about says whom an event is about: of a deal its main contact. It tells false for a record
// that is gone.
func (a *Service) about(ctx context.Context, key string, personID, dealID *int64) (happening, bool, error) {
	h := happening{key: key, person: personID, deal: dealID}
	if dealID != nil {
		d, err := a.store.Deal(ctx, *dealID)
		if errors.Is(err, domain.ErrNotFound) || err == nil && d.DeletedAt != nil {
			return h, false, nil
		}
		if err != nil {
			return h, false, err
		}
		if h.person == nil {
			h.person = d.MainContactID
		}
	}
	if h.person == nil {
		return h, h.deal != nil, nil
	}
	p, err := a.store.Person(ctx, *h.person)
	if errors.Is(err, domain.ErrNotFound) {
		return h, false, nil
	}
	return h, err == nil && p.DeletedAt == nil, err
}

func (a *Service) actOnHistory(ctx context.Context, orders []domain.Order) (bool, error) {
	mark, err := a.store.ReadMark(ctx, ordersHistory)
	if err != nil {
		return false, err
	}
	list, last, err := a.store.EventsAfter(ctx, mark, ordersAtOnce)
	if err != nil || last <= mark {
		return false, err
	}
	for i := range list {
		e := &list[i]
		for k := range orders {
			o := &orders[k]
			if e.ID <= o.FromEntry || !o.Said.When.Fires(&plan.Event{Kind: plan.On(e.Kind)}) {
				continue
			}
			if err := a.actAbout(ctx, o, fmt.Sprint("history:", e.ID), &e.PersonID, e.DealID); err != nil {
				return false, err
			}
		}
	}
	return len(list) == ordersAtOnce, a.store.SetReadMark(ctx, ordersHistory, last)
}

// actOnDates has orders act on the dates of each day that has begun since they last did.
func (a *Service) actOnDates(ctx context.Context, orders []domain.Order) error {
	for i := range orders {
		o := &orders[i]
		if o.Said.When.On != plan.OnDate {
			continue
		}
		if err := a.orTell(ctx, o, "dates", func() error { return a.actOnDatesOf(ctx, o) }); err != nil {
			return err
		}
	}
	return nil
}

func (a *Service) actOnDatesOf(ctx context.Context, o *domain.Order) error {
	u, err := a.store.User(ctx, o.OwnerID)
	if err != nil {
		return err
	}
	today := a.day(&u)
	if int(today) <= o.LastDay {
		return nil // or the clock was set back
	}
	for day := max(plan.Day(o.LastDay+1), today-mostLateDays); day <= today; day++ {
		list, err := a.dated(ctx, o, day)
		if err != nil {
			return err
		}
		for _, h := range list {
			if err := a.orTell(ctx, o, h.key, func() error { return a.act(ctx, o, h) }); err != nil {
				return err
			}
		}
	}
	return a.store.SetOrderDay(ctx, o.ID, int(today))
}

// dated gives whom an order acts on because of a date, on a day.
func (a *Service) dated(ctx context.Context, o *domain.Order, day plan.Day) ([]happening, error) {
	t := &o.Said.When
	deals := t.Record == "deal"
	ids, err := a.store.Dated(ctx, deals, t.Path, t.Dates(day))
	if err != nil {
		return nil, err
	}
	var out []happening
	for _, id := range ids {
		key := fmt.Sprintf("date:%s:%d", day.Date().Format(time.DateOnly), id)
		person, deal := &id, (*int64)(nil)
		if deals {
			person, deal = nil, &id
		}
		h, ok, err := a.about(ctx, key, person, deal)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		if fires, err := a.firesOn(ctx, t, &h, day); err != nil {
			return nil, err
		} else if fires {
			out = append(out, h)
		}
	}
	return out, nil
}

// firesOn looks once more, at the date itself.
func (a *Service) firesOn(ctx context.Context, t *plan.Trigger, h *happening, day plan.Day) (bool, error) {
	if !t.Yearly {
		return true, nil // it is the very day
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return false, err
	}
	value := ""
	if t.Record == "deal" {
		d, err := a.store.Deal(ctx, *h.deal)
		if err != nil {
			return false, err
		}
		if value = records.DealField(cat, &d, t.Path); t.Path == "deal.created" {
			value = d.CreatedAt.Format(time.DateOnly)
		}
	} else {
		p, err := a.store.Person(ctx, *h.person)
		if err != nil {
			return false, err
		}
		if value = records.PersonField(&p, t.Path); t.Path == "lead.created" {
			value = p.CreatedAt.Format(time.DateOnly)
		}
	}
	date, err := time.Parse(time.DateOnly, value)
	return err == nil && t.FiresOn(plan.DayOf(date), day), nil
}

// act has an order act on something, in one transaction, if it has not yet: with the rights of
// its owner, for those that its filter holds. What came of it is noted, an error too.
func (a *Service) act(ctx context.Context, o *domain.Order, h happening) error {
	entry := domain.OrderEntry{OrderID: o.ID, Event: h.key, PersonID: h.person, DealID: h.deal, At: a.now()}
	sent := false
	do := func(ctx context.Context) error {
		was, times, err := a.store.Acted(ctx, o.ID, h.key, h.person, h.deal, a.now().Add(-24*time.Hour))
		if err != nil || was {
			return err
		}
		u, err := a.store.User(ctx, o.OwnerID)
		if err != nil {
			return err
		}
		holds, err := a.holds(ctx, u, o, h.person)
		if err != nil || !holds {
			return err
		}
		if times >= plan.MostActs {
			entry.Result, entry.Text = domain.OrderLeft, fmt.Sprintf("It acted on this record %d times within a day already; that looks like a loop", times)
			return a.store.LogOrder(ctx, entry)
		}
		k, err := a.maker(ctx, u)
		if err != nil {
			return err
		}
		d := &doer{maker: k, o: o, h: h, entry: &entry}
		if err := d.all(ctx); err != nil {
			return err
		}
		sent = d.sent
		return a.store.LogOrder(ctx, entry)
	}
	err := worker.Guard(func() error { return a.store.Within(ctx, do) })
	if sent && err == nil {
		a.wake()
	}
	if err == nil || ctx.Err() != nil || domain.Busy(err) {
		return err
	}
	why, known := failedWhy(err)
	entry.LetterID, entry.Result, entry.Text = nil, domain.OrderFailed, why
	if logged := a.store.LogOrder(ctx, entry); logged != nil {
		return errors.Join(err, logged)
	}
	if known {
		return nil
	}
	return fmt.Errorf("order %d on %s: %w", o.ID, h.key, err)
}

// failedWhy says why an order could not act, and whether that is known.
func failedWhy(err error) (why string, known bool) {
	if why, known = domain.ForPeople(err); known {
		return why, true
	}
	if errors.Is(err, domain.ErrDenied) || errors.Is(err, domain.ErrNotFound) {
		return "Its owner may not do this any more", true
	}
	return "It could not be done; the reason was noted for the administrator", false
}

// holds tells whether the filter of an order holds for a person; without one it holds for all.
func (a *Service) holds(ctx context.Context, u domain.User, o *domain.Order, person *int64) (bool, error) {
	if o.Said.Filter == "" {
		return true, nil
	}
	if person == nil {
		return false, nil
	}
	ids, err := a.records.IDsIn(ctx, u, records.Asked{Where: o.Said.Filter}, domain.PeopleQuery{Only: []int64{*person}}, 1)
	return len(ids) == 1, err
}
