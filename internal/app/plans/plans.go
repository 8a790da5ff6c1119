package plans

import (
	"context"
	"fmt"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/plan"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Sheet is a plan as its page shows it.
type Sheet struct {
	domain.Plan
	Owner   string
	Steps   []StepSheet
	Counts  map[domain.RunState]int
	Wrong   []Wrong // what keeps people from being started on it
	News    string  // what of its letters the user does not know who has people on it
	Seen    string  // how these letters are
	MayEdit bool
	MayUse  bool
}

// StepSheet is a step as the page of its plan shows it.
type StepSheet struct {
	domain.PlanStep
	When     string // in words
	Template string // its name
	News     string // why the template cannot be used, or ""
	Subject  string
	Asks     []compose.Ask
}

// Wrong is what is wrong with a step, or with Key 0 with the plan.
type Wrong struct {
	Key int    `json:"key"`
	Why string `json:"why"`
}

// Line is a plan in the list of plans.
type Line struct {
	domain.Plan
	Owner  string
	Counts map[domain.RunState]int
	MayUse bool
	Days   int // from the first step to the last, about
}

// Plans lists the plans that a user may see, by name.
func (a *Service) Plans(ctx context.Context, u domain.User) ([]Line, error) {
	list, err := a.store.Plans(ctx)
	if err != nil {
		return nil, err
	}
	counts, err := a.store.PlanCounts(ctx)
	if err != nil {
		return nil, err
	}
	names, err := a.names(ctx)
	if err != nil {
		return nil, err
	}
	out := []Line{}
	for i := range list {
		p := &list[i]
		if domain.May(u, access.SeePlan, p.Thing()) != nil {
			continue
		}
		out = append(out, Line{*p, names[p.OwnerID], counts[p.ID], domain.May(u, access.UsePlan, p.Thing()) == nil, p.Days()})
	}
	return out, nil
}

func (a *Service) names(ctx context.Context) (map[int64]string, error) {
	users, err := a.store.Users(ctx)
	out := map[int64]string{}
	for i := range users {
		out[users[i].ID] = users[i].Name()
	}
	return out, err
}

// Plan gives a plan.
func (a *Service) Plan(ctx context.Context, u domain.User, id int64) (Sheet, error) {
	p, err := a.planFor(ctx, u, access.SeePlan, id)
	if err != nil {
		return Sheet{}, err
	}
	return a.sheet(ctx, u, &p)
}

func (a *Service) sheet(ctx context.Context, u domain.User, p *domain.Plan) (Sheet, error) {
	out := Sheet{Plan: *p, MayEdit: domain.May(u, access.EditPlan, p.Thing()) == nil, MayUse: domain.May(u, access.UsePlan, p.Thing()) == nil}
	k, err := a.maker(ctx, u)
	if err != nil {
		return out, err
	}
	names, err := a.names(ctx)
	if err != nil {
		return out, err
	}
	counts, err := a.store.PlanCounts(ctx)
	if err != nil {
		return out, err
	}
	out.Owner, out.Counts = names[p.OwnerID], counts[p.ID]
	for i := range p.Said.Steps {
		s := &p.Said.Steps[i]
		one := StepSheet{PlanStep: *s, When: s.When.Words(i == 0), Asks: []compose.Ask{}}
		if s.Kind == plan.Letter {
			w, news, err := k.Variants(ctx, s)
			if err != nil {
				return out, err
			}
			if len(w) > 0 {
				one.Template, one.Subject, one.Asks = w[0].Template.Name, render.RenderText(w[0].Template.Subject), k.AsksOf(s.Key, w, nil)
			}
			one.News = news
		}
		out.Steps = append(out.Steps, one)
	}
	if out.News, out.Seen, err = k.newsOf(ctx, p); err != nil {
		return out, err
	}
	out.Wrong, err = k.wrong(ctx, &p.Said)
	return out, err
}

// Input is a plan as it is written down.
type Input struct {
	Name      string
	WhenToUse string
	State     domain.TemplateState
	Beside    bool
	// Steps that are new have the key 0. One that has no words keeps those that it had, unless it
	// takes another template.
	Steps []domain.PlanStep
}

// into checks an input and puts it into a plan. Keys that the plan does not know are refused.
func (a *Service) into(p *domain.Plan, in Input) error {
	var bad domain.InvalidError
	refuse := func(where, why string) { bad.Fields = append(bad.Fields, domain.FieldError{Where: where, Why: why}) }
	p.Name, p.WhenToUse = strings.Join(strings.Fields(in.Name), " "), strings.TrimSpace(in.WhenToUse)
	switch {
	case p.Name == "":
		refuse("name", "is missing; give the plan a name")
	case len(p.Name) > maxName:
		refuse("name", fmt.Sprintf("is longer than %d bytes; shorten it", maxName))
	}
	if len(p.WhenToUse) > 4*maxName {
		refuse("whenToUse", fmt.Sprintf("is longer than %d bytes; shorten it", 4*maxName))
	}
	if len(in.Steps) > plan.MaxSteps {
		refuse("steps", fmt.Sprintf("are more than %d; leave some out", plan.MaxSteps))
	}
	said := domain.PlanSaid{LastKey: p.Said.LastKey, Beside: in.Beside, Steps: []domain.PlanStep{}}
	for i, s := range in.Steps {
		where := fmt.Sprintf("step %d", i+1)
		known := p.Said.Step(s.Key) != nil
		switch {
		case s.Key == 0:
			said.LastKey++
			s.Key = said.LastKey
		case !known || said.Step(s.Key) != nil:
			refuse(where, "is not one of this plan; load it again")
			continue
		}
		if before := p.Said.Step(s.Key); before != nil && s.Wording == nil && before.Kind == s.Kind && library.SameID(before.TemplateID, s.TemplateID) {
			s.Wording = before.Wording
		}
		if why := s.Check(); why != "" {
			refuse(where, why)
		}
		said.Steps = append(said.Steps, s)
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	p.Said = said
	return nil
}

// wrong says what keeps a plan from being used.
func (k *maker) wrong(ctx context.Context, said *domain.PlanSaid) ([]Wrong, error) {
	out := []Wrong{}
	if len(said.Steps) == 0 {
		return append(out, Wrong{0, "The plan has no steps yet; add one."}), nil
	}
	for i := range said.Steps {
		s := &said.Steps[i]
		add := func(why string) { out = append(out, Wrong{s.Key, why}) }
		if s.Kind != plan.Letter {
			switch _, notes := k.CompileWords(s.Words); {
			case strings.TrimSpace(s.Words) == "":
				add("Say what it is about.")
			case document.Stopping(notes):
				add(document.FirstStop(notes))
			}
			continue
		}
		w, news, err := k.Variants(ctx, s)
		if err != nil {
			return nil, err
		}
		switch {
		case news != "":
			add(news)
		case len(w) == 0:
			add("Choose a template, or write the letter here.")
		default:
			if _, notes := template.Compile(w[0].Wording, k.Cat); document.Stopping(notes) {
				add(document.FirstStop(notes))
			}
		}
	}
	return out, nil
}

// AddPlan makes a plan, as a draft.
func (a *Service) AddPlan(ctx context.Context, u domain.User, in Input) (Sheet, error) {
	now := a.now()
	p := domain.Plan{OwnerID: u.ID, State: domain.TemplateDraft, Version: 1, CreatedAt: now, UpdatedAt: now, UpdatedBy: u.ID}
	for i := range in.Steps {
		in.Steps[i].Key = 0
	}
	if err := a.into(&p, in); err != nil {
		return Sheet{}, err
	}
	return a.added(ctx, u, p)
}

func (a *Service) added(ctx context.Context, u domain.User, p domain.Plan) (Sheet, error) {
	id, err := a.store.AddPlan(ctx, p)
	if err != nil {
		return Sheet{}, err
	}
	return a.Plan(ctx, u, id)
}

// CopyPlan makes a draft of the user's own with the steps of a plan.
func (a *Service) CopyPlan(ctx context.Context, u domain.User, id int64) (Sheet, error) {
	p, err := a.planFor(ctx, u, access.SeePlan, id)
	if err != nil {
		return Sheet{}, err
	}
	now := a.now()
	p.OwnerID, p.State, p.Rights, p.Version, p.CreatedAt, p.UpdatedAt, p.UpdatedBy = u.ID, domain.TemplateDraft, access.Rights{}, 1, now, now, u.ID
	p.Name = strings.ToValidUTF8((p.Name + " (copy)")[:min(len(p.Name)+7, maxName)], "")
	return a.added(ctx, u, p)
}

// SetPlanRights says who may use a plan and who may edit it.
func (a *Service) SetPlanRights(ctx context.Context, u domain.User, id int64, r access.Rights) error {
	p, err := a.planFor(ctx, u, access.EditPlan, id)
	if err != nil {
		return err
	}
	if p.Rights, err = a.library.CheckRights(ctx, r); err != nil {
		return err
	}
	return a.store.UpdatePlan(ctx, p)
}

// DeletePlan takes a plan out of the list. Who goes through it is stopped.
func (a *Service) DeletePlan(ctx context.Context, u domain.User, id int64) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.planFor(ctx, u, access.EditPlan, id)
		if err != nil {
			return err
		}
		rows, _, err := a.store.Runs(ctx, domain.RunsQuery{PlanID: id, States: notOver, Limit: 1_000_000})
		if err != nil {
			return err
		}
		for i := range rows {
			if err := a.end(ctx, &p, &rows[i].Run, domain.RunStopped, "The plan was deleted by "+u.Name()); err != nil {
				return err
			}
		}
		return a.store.DeletePlan(ctx, id, new(a.now()))
	})
}

// PutBackPlan undoes DeletePlan. Who was stopped stays so.
func (a *Service) PutBackPlan(ctx context.Context, u domain.User, id int64) error {
	p, err := a.store.Plan(ctx, id)
	if err != nil {
		return err
	}
	if domain.May(u, access.EditPlan, p.Thing()) != nil {
		return domain.ErrNotFound
	}
	return a.store.DeletePlan(ctx, id, nil)
}

// notOver are the states of runs of which something may still come.
var notOver = []domain.RunState{domain.RunGoing, domain.RunWaiting, domain.RunPaused}

// StepWording gives what the letter of a step is merged from, as it is edited.
func (a *Service) StepWording(ctx context.Context, u domain.User, id int64, key int) (library.TemplateSheet, error) {
	p, err := a.planFor(ctx, u, access.EditPlan, id)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	s := p.Said.Step(key)
	if s == nil || s.Kind != plan.Letter {
		return library.TemplateSheet{}, domain.ErrNotFound
	}
	k, err := a.maker(ctx, u)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	list, _, err := k.Variants(ctx, s)
	if err != nil {
		return library.TemplateSheet{}, err
	}
	if len(list) > 0 {
		return library.SheetOf(k.Cat, k.Book, list[0].Template), nil
	}
	t, _, _, err := library.Input{Kind: document.BodyFormatted}.Read()
	return library.SheetOf(k.Cat, k.Book, domain.Template{Name: p.Name, Subject: t.Subject, Body: t.Body}), err
}

// SetStepWording gives the letter of a step words of this plan alone; nil takes those of its
// template again. What the template forbids stays forbidden.
func (a *Service) SetStepWording(ctx context.Context, u domain.User, id int64, key, version int, in *library.Input) error {
	return a.store.Within(ctx, func(ctx context.Context) error {
		p, err := a.planFor(ctx, u, access.EditPlan, id)
		if err != nil {
			return err
		}
		s := p.Said.Step(key)
		switch {
		case s == nil || s.Kind != plan.Letter:
			return domain.ErrNotFound
		case p.Version != version:
			return domain.ErrStale
		}
		if s.Wording = nil; in != nil {
			if err := a.ownWords(ctx, u, s, in); err != nil {
				return err
			}
		}
		p.UpdatedAt, p.UpdatedBy = a.now(), u.ID
		return a.store.UpdatePlan(ctx, p)
	})
}

func (a *Service) ownWords(ctx context.Context, u domain.User, s *domain.PlanStep, in *library.Input) error {
	k, err := a.maker(ctx, u)
	if err != nil {
		return err
	}
	t, _, wrong, err := in.Read()
	if err != nil {
		return err
	}
	base, _, err := k.Variants(ctx, &domain.PlanStep{TemplateID: s.TemplateID})
	if err != nil {
		return err
	}
	s.Wording = &domain.RoundWording{Subject: t.Subject, Body: t.Body}
	own, _, err := k.Variants(ctx, s)
	if err != nil {
		return err
	}
	_, notes := template.Compile(own[0].Wording, k.Cat)
	if notes = append(wrong, notes...); len(base) > 0 {
		notes = append(notes, compose.Breaks(k.Cat, &base[0], &own[0])...)
	}
	return compose.NotesError(notes)
}
