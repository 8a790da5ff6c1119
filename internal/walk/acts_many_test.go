package walk

import (
	"errors"
	"fmt"

	"lucidletter/core/plan"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
)

func (w *walker) some() []int64 {
	var out []int64
	for range 1 + w.r.IntN(8) {
		out = append(out, w.one(w.people))
	}
	return out
}

func (w *walker) startRound() error {
	template := w.one(w.templates)
	id, err := w.b.App.Rounds.StartRound(ctx, w.user(), rounds.Start{People: w.some(), TemplateID: &template})
	if err == nil {
		w.rounds = append(w.rounds, id)
	}
	return err
}

// round opens one of the rounds as who sends it.
func (w *walker) round() (domain.User, rounds.Sheet, error) {
	id := w.one(w.rounds)
	for _, u := range w.users {
		if s, err := w.b.App.Rounds.Round(ctx, u, id); err == nil {
			return u, s, nil
		} else if !errors.Is(err, domain.ErrNotFound) {
			return u, s, err
		}
	}
	return domain.User{}, rounds.Sheet{}, domain.ErrNotFound
}

func (w *walker) workOnRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	if err := w.b.App.Rounds.Check(ctx, s.ID); err != nil {
		return err
	}
	switch w.r.IntN(5) {
	case 0:
		return w.b.App.Rounds.Fill(ctx, u, s.ID, s.Version, w.pick("?reason", "person.city"), "Spring")
	case 1:
		_, err = w.b.App.Rounds.ChangeLetter(ctx, u, s.ID, w.one(w.people))
		return err
	case 2:
		return w.b.App.Rounds.KeepTemplate(ctx, u, s.ID, s.Version)
	case 3:
		return w.b.App.Rounds.SetTemplate(ctx, u, s.ID, s.Version, w.one(w.templates))
	}
	_, err = w.b.App.Rounds.Do(ctx, u, s.ID, rounds.Act(w.pick("aside", "back", "check", "instead", "take")), []int64{w.one(w.people)}, "", "")
	return err
}

func (w *walker) sendRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	if err := w.b.App.Rounds.Check(ctx, s.ID); err != nil {
		return err
	}
	if s, err = w.b.App.Rounds.Round(ctx, u, s.ID); err != nil {
		return err
	}
	_, err = w.b.App.Rounds.Send(ctx, u, s.ID, s.Version, s.Groups.Ready, domain.RoundWhen{All: true, OverHours: w.r.IntN(2) * 5})
	return err
}

func (w *walker) moveRound() error {
	u, s, err := w.round()
	if err != nil {
		return err
	}
	switch w.r.IntN(5) {
	case 0:
		return w.b.App.Rounds.Stop(ctx, u, s.ID)
	case 1:
		return w.b.App.Rounds.Reopen(ctx, u, s.ID)
	case 2:
		return w.b.App.Rounds.Pause(ctx, u, s.ID)
	}
	return w.b.App.Rounds.GoOn(ctx, u, s.ID)
}

func (w *walker) addPlan() error {
	template, u := w.one(w.templates), w.user()
	letter := func(days int) domain.PlanStep {
		return domain.PlanStep{Kind: plan.Letter, When: plan.Timing{Days: days, Working: true}, TemplateID: &template, Same: days > 0}
	}
	p, err := w.b.App.Plans.AddPlan(ctx, u, plans.Input{Name: fmt.Sprint("Plan ", w.r.IntN(1000)), Steps: []domain.PlanStep{letter(0), letter(w.r.IntN(4)), {Kind: plan.Task, When: plan.Timing{Days: 1}, Task: domain.TaskCall, Words: "Call {{person.first_name}}"}}})
	if err == nil {
		w.plans = append(w.plans, p.ID)
		_, err = w.b.App.Plans.SetPlanState(ctx, u, p.ID, p.Version, domain.TemplateReady)
	}
	return err
}

func (w *walker) startPlan() error {
	_, err := w.b.App.Plans.Start(ctx, w.user(), w.one(w.plans), w.some(), plans.With{Anyway: w.r.IntN(4) == 0})
	return err
}

func (w *walker) actOnRun() error {
	var runs int64
	if err := w.b.Store.DB().QueryRow(`SELECT count(*) FROM runs`).Scan(&runs); err != nil || runs == 0 {
		return err
	}
	return w.b.App.Plans.Do(ctx, w.user(), 1+w.r.Int64N(runs), plans.Act(w.pick("stop", "pause", "go on", "go on", "skip", "now", "remake")), "")
}

func (w *walker) order() error {
	u := w.user()
	if id := w.one(w.orders); id != 0 && w.r.IntN(2) == 0 {
		o, err := w.b.App.Orders.Order(ctx, u, id)
		if err == nil {
			_, err = w.b.App.Orders.Switch(ctx, u, id, o.Version, w.r.IntN(2) == 0)
		}
		return err
	}
	template := w.one(w.templates)
	said := domain.OrderSaid{When: plan.Trigger{On: plan.On(w.pick("replied", "clicked"))}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}}
	switch w.r.IntN(3) {
	case 0:
		said.When = plan.Trigger{On: plan.OnCreated, Record: "person"}
	case 1:
		said = domain.OrderSaid{When: plan.Trigger{On: plan.OnChanged, Record: "person", Path: "person.city", Value: "York"}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Look at {{person.first_name}}"}, {Do: plan.StopPlan}}}
	}
	o, err := w.b.App.Orders.Add(ctx, u, orders.Input{Name: fmt.Sprint("Order ", w.r.IntN(1000)), Said: said})
	if err == nil {
		w.orders = append(w.orders, o.ID)
		_, err = w.b.App.Orders.Switch(ctx, u, o.ID, o.Version, true)
	}
	return err
}
