package orders

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/core/template"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Input is a standing order as it is written down.
type Input struct {
	Name string
	Said domain.OrderSaid
}

// into checks the form of an input and puts it into an order.
func (a *Service) into(ctx context.Context, o *domain.Order, in Input) error {
	var bad domain.InvalidError
	refuse := func(where, why string) { bad.Fields = append(bad.Fields, domain.FieldError{Where: where, Why: why}) }
	o.Name = strings.Join(strings.Fields(in.Name), " ")
	switch {
	case o.Name == "":
		refuse("name", "is missing; give the order a name")
	case len(o.Name) > maxName:
		refuse("name", fmt.Sprintf("is longer than %d bytes; shorten it", maxName))
	}
	if len(in.Said.Do) > maxActs {
		refuse("do", fmt.Sprintf("are more than %d; make a second order", maxActs))
	}
	for i := range in.Said.Do {
		act := &in.Said.Do[i]
		if !slices.Contains([]plan.Do{plan.SendLetter, plan.SendNote, plan.StartPlan, plan.StopPlan, plan.MakeTask, plan.SetField}, act.Do) {
			refuse("do", fmt.Sprintf("%q is nothing that an order can do", act.Do))
		}
		if len(act.Words) > domain.MaxPlanWords || len(act.Value) > domain.MaxPlanWords {
			refuse("do", fmt.Sprintf("has words of more than %d bytes; shorten them", domain.MaxPlanWords))
		}
		if act.Days < 0 || act.Days > plan.MaxDays {
			refuse("do", fmt.Sprintf("is not due in 0 to %d days; choose fewer", plan.MaxDays))
		}
	}
	if in.Said.Filter != "" {
		sheet, err := a.records.ReadFilter(ctx, in.Said.Filter)
		if err != nil {
			return err
		}
		in.Said.Filter = sheet.Text
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	o.Said = in.Said
	return nil
}

// wrong says what keeps an order from being switched on.
func (k *maker) wrong(ctx context.Context, o *domain.Order) ([]string, error) {
	out := []string{}
	add := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	t := &o.Said.When
	if why := t.Check(); why != "" {
		add("When it acts: %s.", why)
	}
	if t.On == plan.OnChanged || t.On == plan.OnDate {
		ref, ok := k.Cat.Find(t.Path)
		switch {
		case !ok && t.Path != "":
			add("The field that it acts on is gone; choose another.")
		case ok && t.On == plan.OnDate && ref.Def.Type != field.Date:
			add("%s is no date; choose a field that holds one.", k.Cat.Name(t.Path))
		}
	}
	if o.Said.Filter != "" {
		if _, err := k.a.records.ReadFilter(ctx, o.Said.Filter); err != nil {
			add("Its filter cannot be used any more: %v.", err)
		}
	}
	if len(o.Said.Do) == 0 {
		add("Say what it does.")
	}
	for i := range o.Said.Do {
		why, err := k.wrongAct(ctx, &o.Said.Do[i], t)
		if err != nil {
			return nil, err
		}
		if why != "" {
			add("%s", why)
		}
	}
	return out, nil
}

// wrongAct says why an act cannot be done, or "".
func (k *maker) wrongAct(ctx context.Context, act *domain.OrderAct, t *plan.Trigger) (string, error) {
	switch act.Do {
	case plan.SendLetter, plan.SendNote:
		if act.TemplateID == nil {
			return "Choose the template that it sends.", nil
		}
		if act.Do == plan.SendNote && len(act.Colleagues) == 0 {
			return "Choose which colleagues get the note.", nil
		}
		m, err := k.Template(ctx, *act.TemplateID)
		if err != nil || m.News != "" {
			return m.News, err
		}
		for _, w := range m.List {
			for _, d := range w.Program.Blanks() {
				if !d.Optional {
					return fmt.Sprintf("The template “%s” has the blank “%s”, which somebody has to fill. Choose a template without blanks.", w.Template.Name, d.Label()), nil
				}
			}
			if _, notes := template.Compile(w.Wording, k.Cat); document.Stopping(notes) {
				return document.FirstStop(notes), nil
			}
		}
	case plan.StartPlan, plan.StopPlan:
		if act.PlanID == nil {
			if act.Do == plan.StartPlan {
				return "Choose the plan that it starts.", nil
			}
			return "", nil
		}
		return k.wrongPlan(ctx, act)
	case plan.MakeTask:
		if strings.TrimSpace(act.Words) == "" {
			return "Say what the task is.", nil
		}
		if _, notes := k.CompileWords(act.Words); document.Stopping(notes) {
			return document.FirstStop(notes), nil
		}
	case plan.SetField:
		return k.wrongField(act, t), nil
	}
	return "", nil
}

func (k *maker) wrongPlan(ctx context.Context, act *domain.OrderAct) (string, error) {
	p, err := k.a.store.Plan(ctx, *act.PlanID)
	switch {
	case errors.Is(err, domain.ErrNotFound):
		return "The plan is gone; choose another.", nil
	case err != nil:
		return "", err
	case p.DeletedAt != nil || domain.May(k.User, access.SeePlan, p.Thing()) != nil:
		return "The plan is gone; choose another.", nil
	case act.Do == plan.StartPlan && (p.State != domain.TemplateReady || domain.May(k.User, access.UsePlan, p.Thing()) != nil):
		return fmt.Sprintf("The plan “%s” is not ready to be used; choose another.", p.Name), nil
	}
	return "", nil
}

func (k *maker) wrongField(act *domain.OrderAct, t *plan.Trigger) string {
	ref, ok := k.Cat.Find(act.Path)
	if !ok {
		return "Choose the field that it sets."
	}
	var err error
	if ref.Def.Record == field.Deal {
		if t.Record != "deal" {
			return fmt.Sprintf("%s is a value of a deal, and this order is about people. Choose a field of people.", k.Cat.Name(act.Path))
		}
		err = records.SetDealField(k.Cat, &domain.Deal{Name: "x", Currency: "EUR"}, act.Path, act.Value)
	} else {
		if ref.Def.Type == field.Email || act.Path == "person.first_name" || act.Path == "person.last_name" {
			return "A name or an address is each person’s own; an order can’t set it."
		}
		kind := field.Lead
		if ref.Def.Record == field.Contact {
			kind = field.Contact
		}
		err = records.SetPersonField(k.Cat, &domain.Person{Kind: kind}, act.Path, act.Value)
	}
	if err != nil {
		return fmt.Sprintf("%s cannot be set to “%s”: %v.", k.Cat.Name(act.Path), act.Value, err)
	}
	return ""
}
