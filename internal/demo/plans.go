package demo

import (
	"fmt"
	"slices"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
)

// letterIn is a letter of a plan in words of its own.
type letterIn struct {
	days          int
	same          bool
	subject, body string
}

func (l *letterIn) step() (domain.PlanStep, error) {
	t, _, _, err := library.Input{Subject: l.subject, Body: l.body, Kind: document.BodyPlain}.Read()
	return domain.PlanStep{
		Kind: plan.Letter, When: plan.Timing{Days: l.days, Working: true}, Same: l.same, Wording: &domain.RoundWording{Subject: t.Subject, Body: t.Body},
	}, err
}

const (
	firstPlan    = "After the first letter"
	firstFollow  = "Dear {{person.first_name}},\n\nDid my last letter reach you? I would like to hear what {{company.name|your business}} needs from a cold room before the season starts.\n\nWould Tuesday or Thursday suit you for a call?\n"
	secondFollow = "Dear {{person.first_name}},\n\nMany of our customers in {{person.city}} asked first what a room costs to run. I have put the figures for three sizes together and can send them to you today.\n\nShall I?\n"
	lastFollow   = "Dear {{person.first_name}},\n\nI have not heard from you, so I take it that a cold room is not on your list at the moment. I will not write about it again.\n\nIf that changes, a reply to this email reaches me directly.\n"
)

// plans makes plans, and has some people of the first user go through one.
func (m *maker) plans() error {
	lead, rep := m.byUser[m.ids[4]], m.byUser[m.ids[0]]
	one, err := m.plan(lead, firstPlan, "A lead who has had a first letter and has not answered", []letterIn{
		{3, true, "Following up", firstFollow}, {4, true, "What it costs to run", secondFollow}, {6, true, "My last letter about this", lastFollow},
	}, 2, domain.PlanStep{Kind: plan.Task, When: plan.Timing{Days: 2, Working: true, Clock: plan.Mine}, Task: domain.TaskCall, Words: "Call {{person.full_name}} on {{person.phone|(no number on record)}}: is a cold room a subject at all?"})
	if err != nil {
		return err
	}
	if _, err := m.plan(lead, "Quote without an answer", "A quote is out and nobody has answered", []letterIn{
		{2, false, "Your quote: any questions?", "Dear {{person.first_name}},\n\nYou have had our quote for {{deal.name}} for a few days now. Is anything in it unclear, or missing?\n"},
		{5, true, "Shall I keep the price?", "Dear {{person.first_name}},\n\nShall I keep the price for {{deal.name}} until the end of the month? A short yes is enough.\n"},
	}, 1, domain.PlanStep{Kind: plan.Task, When: plan.Timing{Days: 2, Working: true, Clock: plan.Mine}, Task: domain.TaskCall, Words: "Call {{person.full_name}} about the quote for {{deal.name}}: who decides, and by when?"}); err != nil {
		return err
	}
	if err := m.onPlan(rep, one); err != nil {
		return err
	}
	return m.orders(rep, one)
}

// orders makes standing orders of a user: one is on, one can be tried.
func (m *maker) orders(u domain.User, p plans.Sheet) error {
	for i, in := range []orders.Input{
		{Name: "Somebody clicked", Said: domain.OrderSaid{When: plan.Trigger{On: plan.OnClick}, Filter: `owner is "me"`, Do: []domain.OrderAct{
			{Do: plan.MakeTask, Task: domain.TaskCall, Words: "Call {{person.full_name}} on {{person.phone|(no number on record)}}: they looked at a link in your letter", Days: 1},
		}}},
		{Name: "A new lead of mine", Said: domain.OrderSaid{When: plan.Trigger{On: plan.OnCreated, Record: "person"}, Filter: `kind is "lead" and owner is "me"`, Do: []domain.OrderAct{
			{Do: plan.StartPlan, PlanID: &p.ID},
		}}},
	} {
		o, err := m.a.Orders.Add(m.ctx, u, in)
		if err == nil && i == 0 {
			_, err = m.a.Orders.Switch(m.ctx, u, o.ID, o.Version, true)
		}
		if err != nil {
			return fmt.Errorf("standing order %q: %w", in.Name, err)
		}
	}
	return nil
}

// plan makes a plan of letters with a task behind some of them, ready to use.
func (m *maker) plan(u domain.User, name, when string, letters []letterIn, after int, task domain.PlanStep) (plans.Sheet, error) {
	in := plans.Input{Name: name, WhenToUse: when}
	for i := range letters {
		if i == after {
			in.Steps = append(in.Steps, task)
		}
		s, err := letters[i].step()
		if err != nil {
			return plans.Sheet{}, err
		}
		in.Steps = append(in.Steps, s)
	}
	p, err := m.a.Plans.AddPlan(m.ctx, u, in)
	if err == nil {
		p, err = m.a.Plans.SetPlanState(m.ctx, u, p.ID, p.Version, domain.TemplateReady)
	}
	if err != nil {
		return p, fmt.Errorf("plan %q: %w", name, err)
	}
	return p, nil
}

// onPlan starts people of a user who had a letter lately and have not answered.
func (m *maker) onPlan(u domain.User, p plans.Sheet) error {
	rows, err := m.s.Letters(m.ctx, domain.LettersQuery{SenderID: u.ID, States: []domain.LetterState{domain.Sent}, Limit: 60})
	if err != nil {
		return err
	}
	var seen []int64
	for _, l := range rows {
		if len(seen) == 9 {
			break
		}
		if slices.Contains(seen, l.PersonID) || m.today.Sub(*l.SentAt) > 21*24*time.Hour {
			continue
		}
		if came, err := m.s.EndedSince(m.ctx, l.PersonID, *l.SentAt); err != nil || came != "" {
			if err != nil {
				return err
			}
			continue
		}
		out, err := m.a.Plans.Start(m.ctx, u, p.ID, []int64{l.PersonID}, plans.With{LetterID: &l.ID})
		if err != nil {
			return err
		}
		if len(out.Runs) > 0 {
			seen = append(seen, l.PersonID)
		}
	}
	return nil
}
