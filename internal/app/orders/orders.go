package orders

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
)

// maxActs is how many things an order does.
const maxActs = 4

// Sheet is a standing order as its page shows it.
type Sheet struct {
	domain.Order
	Owner    string
	Sentence string   // what it acts on and does, in words
	Wrong    []string // what keeps it from being switched on
	Seen     string   // how its letters are, for its owner
	News     string   // what of its letters its owner does not know, for them
	Days     int      // how often it acted in the last 30 days
	MayEdit  bool
	MayHalt  bool
}

// forUser loads a standing order for what a user wants to do with it.
func (a *Service) forUser(ctx context.Context, u domain.User, what access.Action, id int64) (domain.Order, error) {
	o, err := a.store.Order(ctx, id)
	switch {
	case err != nil:
		return o, err
	case o.DeletedAt != nil, domain.May(u, access.SeeOrder, access.Thing{OwnerID: o.OwnerID}) != nil:
		return o, domain.ErrNotFound
	}
	return o, domain.May(u, what, access.Thing{OwnerID: o.OwnerID})
}

// List lists the standing orders that a user may see, by name, and who stopped them all.
func (a *Service) List(ctx context.Context, u domain.User) ([]Sheet, *domain.OrdersStopped, error) {
	list, err := a.store.Orders(ctx, false)
	if err != nil {
		return nil, nil, err
	}
	out := []Sheet{}
	for i := range list {
		if domain.May(u, access.SeeOrder, access.Thing{OwnerID: list[i].OwnerID}) != nil {
			continue
		}
		one, err := a.sheet(ctx, u, &list[i])
		if err != nil {
			return nil, nil, err
		}
		out = append(out, one)
	}
	stopped, err := a.store.OrdersStopped(ctx)
	return out, stopped, err
}

// Order gives a standing order.
func (a *Service) Order(ctx context.Context, u domain.User, id int64) (Sheet, error) {
	o, err := a.forUser(ctx, u, access.SeeOrder, id)
	if err != nil {
		return Sheet{}, err
	}
	return a.sheet(ctx, u, &o)
}

const trialDays = 30

func (a *Service) sheet(ctx context.Context, u domain.User, o *domain.Order) (Sheet, error) {
	thing := access.Thing{OwnerID: o.OwnerID}
	out := Sheet{Order: *o, Wrong: []string{}, MayEdit: domain.May(u, access.EditOrder, thing) == nil, MayHalt: domain.May(u, access.HaltOrder, thing) == nil}
	counts, err := a.store.OrderCounts(ctx, a.now().AddDate(0, 0, -trialDays))
	if err != nil {
		return out, err
	}
	owner, err := a.store.User(ctx, o.OwnerID)
	if err != nil {
		return out, err
	}
	k, err := a.maker(ctx, owner)
	if err != nil {
		return out, err
	}
	out.Owner, out.Days = owner.Name(), counts[o.ID]
	if out.Sentence, err = k.sentence(ctx, o); err != nil {
		return out, err
	}
	if out.Wrong, err = k.wrong(ctx, o); err != nil || o.OwnerID != u.ID {
		return out, err
	}
	list, err := k.partsOfActs(ctx, o.Said.Do...)
	if err == nil {
		out.Seen = list.Sum()
		out.News, err = k.known(o).Look(ctx, list)
	}
	return out, err
}

// sentence says what an order acts on and what it does.
func (k *maker) sentence(ctx context.Context, o *domain.Order) (string, error) {
	out := o.Said.When.Words(k.Cat.Name)
	if o.Said.Filter != "" {
		out += ", for those that match a filter"
	}
	var acts []string
	for i := range o.Said.Do {
		words, err := k.actWords(ctx, &o.Said.Do[i])
		if err != nil {
			return "", err
		}
		acts = append(acts, words)
	}
	return out + ": " + strings.Join(acts, "; "), nil
}

// nameOr gives the other words for what is not there.
func nameOr(name, other string, err error) (string, error) {
	if errors.Is(err, domain.ErrNotFound) {
		return other, nil
	}
	return name, err
}

// actWords say what an act does, such as “send “Welcome” to them”.
func (k *maker) actWords(ctx context.Context, act *domain.OrderAct) (string, error) {
	name := func() (string, error) {
		if act.TemplateID == nil {
			return "a template", nil
		}
		return k.a.library.NameFor(ctx, k.User, *act.TemplateID)
	}
	ofPlan := func() (string, error) {
		p, err := k.a.store.Plan(ctx, *act.PlanID)
		if err == nil && domain.May(k.User, access.SeePlan, p.Thing()) != nil {
			return plans.Unseen, nil
		}
		return nameOr("“"+p.Name+"”", "a plan that is gone", err)
	}
	switch act.Do {
	case plan.SendLetter:
		n, err := name()
		return "send " + n + " to them", err
	case plan.SendNote:
		n, err := name()
		var to []string
		for i := range k.Users {
			if slices.Contains(act.Colleagues, k.Users[i].ID) {
				to = append(to, k.Users[i].Name())
			}
		}
		return "send " + n + " to " + strings.Join(to, ", "), err
	case plan.StartPlan:
		if act.PlanID == nil {
			return "start a plan", nil
		}
		n, err := ofPlan()
		return "start " + n, err
	case plan.StopPlan:
		if act.PlanID == nil {
			return "stop every plan they are on", nil
		}
		n, err := ofPlan()
		return "stop " + n, err
	case plan.MakeTask:
		n, err := k.NameOf(ctx, &domain.PlanStep{Kind: plan.Task, Words: act.Words})
		return "make a task: " + n, err
	}
	return fmt.Sprintf("set %s to “%s”", k.Cat.Name(act.Path), act.Value), nil
}

// loopWith says which orders that are on would wake each other for ever with this one, or "".
func (a *Service) loopWith(ctx context.Context, o *domain.Order) (string, error) {
	on, err := a.store.Orders(ctx, true)
	if err != nil {
		return "", err
	}
	rules, names := []plan.Rule{o.Rule()}, map[int64]string{o.ID: o.Name}
	for i := range on {
		if on[i].ID != o.ID {
			rules, names[on[i].ID] = append(rules, on[i].Rule()), on[i].Name
		}
	}
	loop := plan.Loop(rules)
	if loop == nil {
		return "", nil
	}
	var words []string
	for _, id := range loop {
		words = append(words, "“"+names[id]+"”")
	}
	return "These orders would set each other off for ever: " + strings.Join(words, " → ") + ". Change a value that one of them sets, or switch one off.", nil
}

// Add makes a standing order; it is off.
func (a *Service) Add(ctx context.Context, u domain.User, in Input) (Sheet, error) {
	o := domain.Order{OwnerID: u.ID, Version: 1, CreatedAt: a.now(), UpdatedAt: a.now()}
	if err := a.into(ctx, &o, in); err != nil {
		return Sheet{}, err
	}
	err := a.store.Within(ctx, func(ctx context.Context) (err error) {
		if o.ID, err = a.store.AddOrder(ctx, o); err != nil {
			return err
		}
		return a.knows(ctx, u, &o)
	})
	if err != nil {
		return Sheet{}, err
	}
	return a.Order(ctx, u, o.ID)
}

// Change stores a standing order. One that is on stays so when nothing is wrong with it.
func (a *Service) Change(ctx context.Context, u domain.User, id int64, version int, in Input) (Sheet, error) {
	return a.change(ctx, u, access.EditOrder, id, version, func(ctx context.Context, o *domain.Order) error {
		if err := a.into(ctx, o, in); err != nil || !o.On {
			return err
		}
		return a.fit(ctx, u, o)
	})
}

func (a *Service) change(ctx context.Context, u domain.User, what access.Action, id int64, version int, change func(context.Context, *domain.Order) error) (Sheet, error) {
	err := a.store.Within(ctx, func(ctx context.Context) error {
		o, err := a.forUser(ctx, u, what, id)
		if err != nil {
			return err
		}
		if o.Version != version {
			return domain.ErrStale
		}
		if err := change(ctx, &o); err != nil {
			return err
		}
		o.UpdatedAt = a.now()
		if err := a.store.UpdateOrder(ctx, o); err != nil {
			return err
		}
		return a.knows(ctx, u, &o)
	})
	if err != nil {
		return Sheet{}, err
	}
	return a.Order(ctx, u, id)
}

// fit refuses an order that cannot act.
func (a *Service) fit(ctx context.Context, u domain.User, o *domain.Order) error {
	k, err := a.maker(ctx, u)
	if err != nil {
		return err
	}
	wrong, err := k.wrong(ctx, o)
	if err != nil {
		return err
	}
	if loop, err := a.loopWith(ctx, o); err != nil {
		return err
	} else if loop != "" {
		wrong = append(wrong, loop)
	}
	if len(wrong) > 0 {
		return &domain.StateError{Why: strings.Join(wrong, " ")}
	}
	return nil
}

// Switch switches an order on or off. What happened before it is on it does not act on.
func (a *Service) Switch(ctx context.Context, u domain.User, id int64, version int, on bool) (Sheet, error) {
	what := access.HaltOrder
	if on {
		what = access.EditOrder
	}
	out, err := a.change(ctx, u, what, id, version, func(ctx context.Context, o *domain.Order) error {
		if on {
			if err := a.fit(ctx, u, o); err != nil {
				return err
			}
		}
		if !o.On && on {
			var err error
			if o.FromEvent, o.FromEntry, err = a.store.LastEvents(ctx); err != nil {
				return err
			}
			o.LastDay = int(a.day(&u)) // those of today are acted on, if it is before nine
		}
		o.On = on
		return nil
	})
	a.plans.Nudge()
	return out, err
}

// day is the last day of which it is nine in the morning already on somebody's clock: up
// to it dates were acted on.
func (a *Service) day(u *domain.User) plan.Day {
	w, _ := plans.WhereOf(u, "", "", nil)
	return plan.DayOf(a.now().Add(-plan.MorningHour * time.Hour).In(w.Mine.Zone))
}

// Delete takes an order out of the list, or puts it back, switched off.
func (a *Service) Delete(ctx context.Context, u domain.User, id int64, back bool) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		o, err := a.store.Order(ctx, id)
		if err != nil {
			return err
		}
		if domain.May(u, access.SeeOrder, access.Thing{OwnerID: o.OwnerID}) != nil || !back && o.DeletedAt != nil {
			return domain.ErrNotFound
		}
		if err := domain.May(u, access.EditOrder, access.Thing{OwnerID: o.OwnerID}); err != nil {
			return err
		}
		if o.On, o.DeletedAt = false, nil; !back {
			o.DeletedAt = new(a.now())
		}
		return a.store.UpdateOrder(ctx, o)
	})
}

// Halt stops all standing orders, or lets them act again. What happens meanwhile is not
// acted on.
func (a *Service) Halt(ctx context.Context, u domain.User, halt bool) error {
	if err := domain.May(u, access.HaltOrders, access.Thing{}); err != nil {
		return err
	}
	if !halt {
		return a.store.StopOrders(ctx, nil)
	}
	return a.store.StopOrders(ctx, &domain.OrdersStopped{ByID: u.ID, At: a.now()})
}

// Log gives what an order did, the latest first.
func (a *Service) Log(ctx context.Context, u domain.User, id int64) ([]domain.OrderEntry, error) {
	if _, err := a.forUser(ctx, u, access.SeeOrder, id); err != nil {
		return nil, err
	}
	return a.store.OrderLog(ctx, id, 200)
}

// Drafts gives the letters of a user's orders that wait to be proofread.
func (a *Service) Drafts(ctx context.Context, u domain.User) ([]domain.OrderEntry, error) {
	return a.store.OrderDrafts(ctx, u.ID, 100)
}

// OnNewPeople says which orders act on every person who is added, in words, for who imports some.
func (a *Service) OnNewPeople(ctx context.Context) ([]string, error) {
	stopped, err := a.store.OrdersStopped(ctx)
	if err != nil || stopped != nil {
		return []string{}, err
	}
	list, err := a.store.Orders(ctx, true)
	out := []string{}
	for i := range list {
		o := &list[i]
		if o.Said.When.On != plan.OnCreated || o.Said.When.Record != "person" {
			continue
		}
		owner, err := a.store.User(ctx, o.OwnerID)
		if err != nil {
			return nil, err
		}
		k, err := a.maker(ctx, owner)
		if err != nil {
			return nil, err
		}
		words, err := k.sentence(ctx, o)
		if err != nil {
			return nil, err
		}
		out = append(out, fmt.Sprintf("“%s” of %s. %s", o.Name, owner.Name(), words))
	}
	return out, err
}

// MayHalt tells whether a user may stop all standing orders.
func MayHalt(u domain.User) bool { return domain.May(u, access.HaltOrders, access.Thing{}) == nil }
