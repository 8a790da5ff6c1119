// Package follow carries plans, runs, standing orders and tasks over HTTP.
package follow

import (
	"context"
	"net/http"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// routes are the operations of this package.
type routes struct {
	api *web.API
	app *app.App
}

// Register registers the operations.
func Register(api *web.API, a *app.App) {
	r := &routes{api, a}
	r.plans()
	r.planChanges()
	r.wordings()
	r.starting()
	r.runs()
	r.tasks()
	r.orders()
}

// PlanStepOut is a step of a plan.
type PlanStepOut struct {
	Key        int             `json:"key"`
	Kind       plan.Kind       `json:"kind" enum:"letter,task,text"`
	When       plan.Timing     `json:"when"`
	Words      string          `json:"words" doc:"Of a task or a text message, in the text form"`
	Same       bool            `json:"same" doc:"It goes on in the conversation"`
	TemplateID *int64          `json:"templateId,omitempty"`
	Template   string          `json:"template"`
	News       string          `json:"news" doc:"Why the template cannot be used, empty: it can"`
	OwnWording bool            `json:"ownWording" doc:"It has words of this plan alone"`
	Subject    string          `json:"subject"`
	Task       domain.TaskKind `json:"task" enum:",call,visit,note"`
	Asks       []compose.Ask   `json:"asks"`
	In         string          `json:"in" doc:"When it comes, in words"`
}

// PlanOut is a plan as its page shows it.
type PlanOut struct {
	ID        int64                `json:"id"`
	Name      string               `json:"name"`
	WhenToUse string               `json:"whenToUse"`
	State     domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
	Next      []string             `json:"next" doc:"The states that it can be stored in"`
	Owner     string               `json:"owner"`
	Rights    access.Rights        `json:"rights"`
	Beside    bool                 `json:"beside" doc:"Somebody may be on it who is on another plan too"`
	Version   int                  `json:"version"`
	Steps     []PlanStepOut        `json:"steps"`
	Counts    RunCounts            `json:"counts"`
	Wrong     []plans.Wrong        `json:"wrong" doc:"What keeps people from being started on it"`
	PartNews  string               `json:"partNews" doc:"What of its letters was changed since the user looked who has people on it; they wait to be proofread"`
	PartSeen  string               `json:"partSeen" doc:"How these letters are, for whoever looks at them"`
	MayEdit   bool                 `json:"mayEdit"`
	MayUse    bool                 `json:"mayUse"`
	UpdatedAt time.Time            `json:"updatedAt"`
}

// LookedInput is what somebody has looked at.
type LookedInput struct {
	web.IDInput
	Body struct {
		Seen string `json:"seen" maxLength:"40" doc:"What partSeen said"`
	}
}

// RunCounts are how many people of a plan stand where.
type RunCounts struct {
	Going    int `json:"going"`
	Waiting  int `json:"waiting"`
	Paused   int `json:"paused"`
	Finished int `json:"finished"`
	Stopped  int `json:"stopped"`
}

func countsOf(m map[domain.RunState]int) RunCounts {
	return RunCounts{m[domain.RunGoing], m[domain.RunWaiting], m[domain.RunPaused], m[domain.RunFinished], m[domain.RunStopped]}
}

func planOf(s *plans.Sheet) PlanOut {
	out := PlanOut{
		ID: s.ID, Name: s.Name, WhenToUse: s.WhenToUse, State: s.State, Next: []string{}, Owner: s.Owner, Rights: s.Rights, Beside: s.Said.Beside, Version: s.Version, Steps: []PlanStepOut{},
		Counts: countsOf(s.Counts), Wrong: s.Wrong, PartNews: s.News, PartSeen: s.Seen, MayEdit: s.MayEdit, MayUse: s.MayUse, UpdatedAt: s.UpdatedAt,
	}
	for _, n := range s.State.Next() {
		out.Next = append(out.Next, string(n))
	}
	for i := range s.Steps {
		x := &s.Steps[i]
		out.Steps = append(out.Steps, PlanStepOut{
			Key: x.Key, Kind: x.Kind, When: x.PlanStep.When, Words: x.Words, Same: x.Same, TemplateID: x.TemplateID, Template: x.Template, News: x.News, OwnWording: x.Wording != nil,
			Subject: x.Subject, Task: x.Task, Asks: x.Asks, In: x.When,
		})
	}
	return out
}

func planAnswer(s plans.Sheet, err error) (*web.Body[PlanOut], error) {
	if err != nil {
		return nil, err
	}
	return web.OK(planOf(&s)), nil
}

// PlanLine is a plan in the list of plans.
type PlanLine struct {
	ID        int64                `json:"id"`
	Name      string               `json:"name"`
	WhenToUse string               `json:"whenToUse"`
	State     domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
	Owner     string               `json:"owner"`
	Steps     int                  `json:"steps"`
	Letters   int                  `json:"letters"`
	Days      int                  `json:"days" doc:"About how long it takes"`
	Counts    RunCounts            `json:"counts"`
	MayUse    bool                 `json:"mayUse"`
	Templates []int64              `json:"templates" doc:"Those of its letters"`
}

// PlanIn is a plan as it is written down.
type PlanIn struct {
	Name      string       `json:"name" maxLength:"200"`
	WhenToUse string       `json:"whenToUse,omitempty" maxLength:"600"`
	Beside    bool         `json:"beside,omitempty"`
	Steps     []PlanStepIn `json:"steps" maxItems:"60"`
}

// PlanStepIn is a step as it is written down. Key is 0 for a new one; the words of a letter of
// a known step stay as they are unless it takes another template.
type PlanStepIn struct {
	Key        int             `json:"key,omitempty"`
	Kind       plan.Kind       `json:"kind" enum:"letter,task,text"`
	When       plan.Timing     `json:"when"`
	Words      string          `json:"words,omitempty" maxLength:"8000"`
	Same       bool            `json:"same,omitempty"`
	TemplateID *int64          `json:"templateId,omitempty"`
	Task       domain.TaskKind `json:"task,omitempty" enum:",call,visit,note"`
}

func (in *PlanIn) app() plans.Input {
	out := plans.Input{Name: in.Name, WhenToUse: in.WhenToUse, Beside: in.Beside}
	for _, s := range in.Steps {
		out.Steps = append(out.Steps, domain.PlanStep{Key: s.Key, Kind: s.Kind, When: s.When, Words: s.Words, Same: s.Same, TemplateID: s.TemplateID, Task: s.Task})
	}
	return out
}

func (r *routes) plans() {
	web.Handle(r.api, web.Op("plans", http.MethodGet, "/api/plans", "The plans that I may see, by name"),
		func(ctx context.Context, u domain.User, _ *struct{}) (*web.Body[[]PlanLine], error) {
			list, err := r.app.Plans.Plans(ctx, u)
			out := []PlanLine{}
			for i := range list {
				p := &list[i]
				one := PlanLine{ID: p.ID, Name: p.Name, WhenToUse: p.WhenToUse, State: p.State, Owner: p.Owner, Steps: len(p.Said.Steps), Days: p.Days, Counts: countsOf(p.Counts), MayUse: p.MayUse, Templates: append([]int64{}, p.Said.Templates()...)}
				for k := range p.Said.Steps {
					if p.Said.Steps[k].Kind == plan.Letter {
						one.Letters++
					}
				}
				out = append(out, one)
			}
			return web.OK(out), err
		})
	web.Handle(r.api, web.Making(web.Op("addPlan", http.MethodPost, "/api/plans", "Make a plan, as a draft")),
		func(ctx context.Context, u domain.User, in *struct{ Body PlanIn }) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.AddPlan(ctx, u, in.Body.app()))
		})
	web.Handle(r.api, web.Op("plan", http.MethodGet, "/api/plans/{id}", "One plan with its steps"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.Plan(ctx, u, in.ID))
		})
	web.Handle(r.api, web.Op("planShelf", http.MethodGet, "/api/plan-shelf", "The starter plans to copy from"),
		func(context.Context, domain.User, *struct{}) (*web.Body[[]ShelfPlanOut], error) {
			list, err := r.app.Plans.Shelf()
			out := []ShelfPlanOut{}
			for i := range list {
				out = append(out, ShelfPlanOut{list[i].Key, list[i].Moment, list[i].Name, list[i].WhenToUse, list[i].Lines()})
			}
			return web.OK(out), err
		})
	web.Handle(r.api, web.Making(web.Op("copyShelfPlan", http.MethodPost, "/api/plan-shelf/{key}", "Make a draft of my own from a starter plan")),
		func(ctx context.Context, u domain.User, in *struct {
			Key string `path:"key" maxLength:"80"`
		}) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.CopyFromShelf(ctx, u, in.Key))
		})
	web.Handle(r.api, web.Op("holidayCountries", http.MethodGet, "/api/holiday-countries", "The countries whose public holidays are known, by name"),
		func(context.Context, domain.User, *struct{}) (*web.Body[[]CountryOut], error) {
			out := []CountryOut{}
			for _, code := range plan.Countries() {
				out = append(out, CountryOut{code, field.CountryName(code)})
			}
			return web.OK(out), nil
		})
}

// ShelfPlanOut is a starter plan.
type ShelfPlanOut struct {
	Key       string   `json:"key"`
	Moment    string   `json:"moment"`
	Name      string   `json:"name"`
	WhenToUse string   `json:"whenToUse"`
	Steps     []string `json:"steps" doc:"What comes when, in a few words"`
}

// CountryOut is a country.
type CountryOut struct {
	Code string `json:"code"`
	Name string `json:"name"`
}

// ChangePlanIn changes a version of a plan.
type ChangePlanIn struct {
	web.IDInput
	Body struct {
		PlanIn
		Version int    `json:"version" minimum:"1" doc:"The one that the change was made on"`
		Seen    string `json:"seen,omitempty" maxLength:"40" doc:"Of the effects that were looked at, when people are on the plan"`
	}
}

func (r *routes) planChanges() {
	web.Handle(r.api, web.Op("changePlan", http.MethodPut, "/api/plans/{id}", "Change a plan"),
		func(ctx context.Context, u domain.User, in *ChangePlanIn) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.ChangePlan(ctx, u, in.ID, in.Body.Version, in.Body.app(), in.Body.Seen))
		})
	web.Handle(r.api, web.Op("planEffects", http.MethodPost, "/api/plans/{id}/effects", "What a change would do to those who are on a plan"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body PlanIn
		}) (*web.Body[plans.Effects], error) {
			out, err := r.app.Plans.PreviewChange(ctx, u, in.ID, in.Body.app())
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("setPlanState", http.MethodPut, "/api/plans/{id}/state", "Make a plan ready, a draft again, or withdraw it"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				State   domain.TemplateState `json:"state" enum:"draft,ready,withdrawn"`
				Version int                  `json:"version" minimum:"1"`
			}
		}) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.SetPlanState(ctx, u, in.ID, in.Body.Version, in.Body.State))
		})
	web.Handle(r.api, web.Making(web.Op("copyPlan", http.MethodPost, "/api/plans/{id}/copy", "Make a draft of my own with the steps of a plan")),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[PlanOut], error) {
			return planAnswer(r.app.Plans.CopyPlan(ctx, u, in.ID))
		})
	web.Handle(r.api, web.Op("setPlanRights", http.MethodPut, "/api/plans/{id}/rights", "Who may use a plan and who may edit it"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body access.Rights
		}) (*struct{}, error) {
			return nil, r.app.Plans.SetPlanRights(ctx, u, in.ID, in.Body)
		})
	web.Handle(r.api, web.Op("deletePlan", http.MethodDelete, "/api/plans/{id}", "Delete a plan; who is on it is stopped"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Plans.DeletePlan(ctx, u, in.ID)
		})
	web.Handle(r.api, web.Op("lookedAtPlan", http.MethodPost, "/api/plans/{id}/looked", "Take the letters of a plan as they are now, for everybody whom the user has on it"),
		func(ctx context.Context, u domain.User, in *LookedInput) (*struct{}, error) {
			return nil, r.app.Plans.Looked(ctx, u, in.ID, in.Body.Seen)
		})
	web.Handle(r.api, web.Op("putBackPlan", http.MethodPost, "/api/plans/{id}/put-back", "Restore a plan that was deleted; who was stopped stays so"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*struct{}, error) {
			return nil, r.app.Plans.PutBackPlan(ctx, u, in.ID)
		})
}
