package follow

import (
	"context"
	"net/http"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

// WithIn says how a run is to be.
type WithIn struct {
	DealID   *int64     `json:"dealId,omitempty"`
	LetterID *int64     `json:"letterId,omitempty" doc:"The letter that its conversation begins with"`
	Zone     string     `json:"zone,omitempty" maxLength:"60" doc:"The clock of every step; empty as the plan says"`
	At       string     `json:"at,omitempty" maxLength:"5" doc:"The hour of every step; empty as the plan says"`
	Fills    domain.Own `json:"fills,omitempty" doc:"Answers to blanks, by the key of the step and the name, such as 3?reason"`
	Anyway   bool       `json:"anyway,omitempty" doc:"Also people who are on another plan"`
}

func (in *WithIn) app() plans.With {
	return plans.With{DealID: in.DealID, LetterID: in.LetterID, Anyway: in.Anyway, Said: domain.RunSaid{Zone: in.Zone, At: in.At, Fills: in.Fills}}
}

// StartIn names who is to be started on a plan: some, or those of a list.
type StartIn struct {
	web.IDInput
	Body struct {
		WithIn
		People []int64 `json:"people,omitempty" maxItems:"5001"`
		ListID *int64  `json:"listId,omitempty"`
	}
}

func (r *routes) people(ctx context.Context, u domain.User, in *StartIn) ([]int64, error) {
	if in.Body.ListID == nil {
		return in.Body.People, nil
	}
	return r.app.Plans.InList(ctx, u, *in.Body.ListID)
}

// RulerOut is the steps of a plan on the days on which they come.
type RulerOut struct {
	PersonID  int64      `json:"personId"`
	Person    string     `json:"person"`
	Plan      string     `json:"plan"`
	Zone      string     `json:"zone" doc:"Of the recipient's clock"`
	ZoneKnown bool       `json:"zoneKnown" doc:"From their record; otherwise it is the sender's"`
	Country   string     `json:"country" doc:"Whose holidays count, empty nobody's"`
	Mine      string     `json:"mine" doc:"The zone of the sender's clock"`
	Ready     int        `json:"ready" doc:"Letters to come that are complete"`
	Letters   int        `json:"letters" doc:"Letters to come"`
	Why       []string   `json:"why" doc:"What keeps the person from being started"`
	OnPlan    string     `json:"onPlan" doc:"The plan that they are going through"`
	Before    *time.Time `json:"before,omitempty" doc:"When they went through this plan before"`
	DealID    *int64     `json:"dealId,omitempty" doc:"The deal that it is about"`
	Deals     []DealOut  `json:"deals" doc:"Open deals that it could be about"`
	Steps     []StepOut  `json:"steps"`
}

// DealOut is a deal by name.
type DealOut struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// StepOut is a step on its day.
type StepOut struct {
	Key      int             `json:"key"`
	Kind     plan.Kind       `json:"kind" enum:"letter,task,text,skipped"`
	Task     domain.TaskKind `json:"task" enum:",call,visit,note"`
	Same     bool            `json:"same"`
	Name     string          `json:"name"`
	At       time.Time       `json:"at"`
	Done     bool            `json:"done"`
	Skipped  bool            `json:"skipped"`
	Local    string          `json:"local" doc:"On the clock that it goes by, such as 2026-12-03T09:00"`
	Zone     string          `json:"zone"`
	Over     string          `json:"over" doc:"The holiday that it makes room for"`
	Moved    int             `json:"moved" doc:"By how many days a day off moved it"`
	Shift    bool            `json:"shift" doc:"The hour does not exist on that day"`
	Subject  string          `json:"subject"`
	Text     string          `json:"text"`
	Why      string          `json:"why" doc:"What is open, empty nothing"`
	Asks     []compose.Ask   `json:"asks"`
	LetterID *int64          `json:"letterId,omitempty"`
}

func rulerOf(x *plans.Ruler) RulerOut {
	out := RulerOut{
		PersonID: x.Person.ID, Person: x.Person.Name(), Plan: x.Plan, Zone: x.Zone, ZoneKnown: x.ZoneKnown, Country: x.Country, Mine: x.Mine,
		Ready: x.Ready, Letters: x.Letters, Why: x.Why, OnPlan: x.OnPlan, Before: x.Before, DealID: x.DealID, Deals: []DealOut{}, Steps: []StepOut{},
	}
	for _, d := range x.Deals {
		if d.Open() {
			out.Deals = append(out.Deals, DealOut{d.ID, d.Name})
		}
	}
	for i := range x.Steps {
		s := &x.Steps[i]
		out.Steps = append(out.Steps, StepOut{s.Key, s.Kind, s.Task, s.Same, s.Name, s.At, s.Done, s.Skipped, s.Local, s.Zone, s.Over, s.Moved, s.Shift, s.Subject, s.Text, s.Why, s.Asks, s.Letter})
	}
	return out
}

func (r *routes) starting() {
	web.Handle(r.api, web.Op("planRuler", http.MethodPost, "/api/plans/{id}/ruler", "The dates and letters of a plan for one person, as they would be now"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				WithIn
				PersonID int64   `json:"personId" minimum:"1"`
				Written  *PlanIn `json:"written,omitempty" doc:"The plan as it is being written, and not saved yet"`
			}
		}) (*web.Body[RulerOut], error) {
			var written *plans.Input
			if in.Body.Written != nil {
				written = new(in.Body.Written.app())
			}
			out, err := r.app.Plans.RulerFor(ctx, u, in.ID, in.Body.PersonID, in.Body.WithIn.app(), written)
			return web.OK(rulerOf(&out)), err
		})
	web.Handle(r.api, web.Op("planOutlook", http.MethodPost, "/api/plans/{id}/outlook", "What a plan looks like for many people"),
		func(ctx context.Context, u domain.User, in *StartIn) (*web.Body[plans.Outlook], error) {
			people, err := r.people(ctx, u, in)
			if err != nil {
				return nil, err
			}
			out, err := r.app.Plans.OutlookFor(ctx, u, in.ID, people, in.Body.WithIn.app())
			return web.OK(out), err
		})
	web.Handle(r.api, web.Making(web.Op("startPlan", http.MethodPost, "/api/plans/{id}/start", "Start people on a plan")),
		func(ctx context.Context, u domain.User, in *StartIn) (*web.Body[plans.Started], error) {
			people, err := r.people(ctx, u, in)
			if err != nil {
				return nil, err
			}
			out, err := r.app.Plans.Start(ctx, u, in.ID, people, in.Body.WithIn.app())
			return web.OK(out), err
		})
}

// RunOut is somebody going through a plan.
type RunOut struct {
	ID          int64              `json:"id"`
	PlanID      int64              `json:"planId"`
	Plan        string             `json:"plan"`
	PersonID    int64              `json:"personId"`
	Person      string             `json:"person"`
	Company     string             `json:"company"`
	Owner       string             `json:"owner"`
	Mine        bool               `json:"mine"`
	State       domain.RunState    `json:"state" enum:"going,waiting,paused,finished,stopped"`
	Reason      string             `json:"reason"`
	News        bool               `json:"news" doc:"It waits since the words of its letter were changed"`
	Next        string             `json:"next" doc:"The name of the step that comes next"`
	NextAt      *time.Time         `json:"nextAt,omitempty"`
	NotBefore   *time.Time         `json:"notBefore,omitempty" doc:"Until when they are away"`
	LetterID    *int64             `json:"letterId,omitempty" doc:"The letter that waits to be proofread"`
	LetterState domain.LetterState `json:"letterState"`
	Done        int                `json:"done"`
	Of          int                `json:"of"`
	Fills       domain.Own         `json:"fills"`
	StartedAt   time.Time          `json:"startedAt"`
	EndedAt     *time.Time         `json:"endedAt,omitempty"`
}

func runOf(x *plans.RunLine) RunOut {
	if !x.Mine { // what was answered is its owner's
		x.Said.Fills = nil
	}
	return RunOut{
		ID: x.ID, PlanID: x.PlanID, Plan: x.Plan, PersonID: x.PersonID, Person: x.Name(), Company: x.Company, Owner: x.Owner, Mine: x.Mine, State: x.State, Reason: x.Reason, News: x.Said.News,
		Next: x.Next, NextAt: x.StepAt, NotBefore: x.NotBefore, LetterID: x.LetterID, LetterState: x.Letter, Done: x.Done, Of: max(x.Of, x.Done), Fills: x.Said.Fills, StartedAt: x.StartedAt, EndedAt: x.EndedAt,
	}
}

// RunsOut is a window of runs.
type RunsOut struct {
	Runs  []RunOut `json:"runs"`
	Total int      `json:"total"`
}

// RunSheetOut is a run with its steps on their days.
type RunSheetOut struct {
	Run   RunOut   `json:"run"`
	Ruler RulerOut `json:"ruler"`
}

func (r *routes) runs() {
	web.Handle(r.api, web.Op("runs", http.MethodGet, "/api/runs", "Who goes through plans: of a plan, of a person, or mine"),
		func(ctx context.Context, u domain.User, in *struct {
			Plan   int64             `query:"plan" minimum:"0"`
			Person int64             `query:"person" minimum:"0"`
			State  []domain.RunState `query:"state,explode" maxItems:"5" doc:"Those in these states; none: all"`
			Search string            `query:"q" maxLength:"200"`
			Offset int               `query:"offset" minimum:"0"`
			Limit  int               `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (*web.Body[RunsOut], error) {
			list, total, err := r.app.Plans.Runs(ctx, u, domain.RunsQuery{PlanID: in.Plan, PersonID: in.Person, States: in.State, Search: in.Search, Offset: in.Offset, Limit: in.Limit})
			out := RunsOut{Runs: []RunOut{}, Total: total}
			for i := range list {
				out.Runs = append(out.Runs, runOf(&list[i]))
			}
			return web.OK(out), err
		})
	web.Handle(r.api, web.Op("run", http.MethodGet, "/api/runs/{id}", "A run of mine with its steps on their days"),
		func(ctx context.Context, u domain.User, in *web.IDInput) (*web.Body[RunSheetOut], error) {
			line, ruler, err := r.app.Plans.RunRuler(ctx, u, in.ID)
			if err != nil {
				return nil, err
			}
			return web.OK(RunSheetOut{runOf(&line), rulerOf(&ruler)}), nil
		})
	web.Handle(r.api, web.Making(web.Op("runAct", http.MethodPost, "/api/runs/{id}/act", "Stop a run, pause it, let it go on, skip its next step, have it come now or later")),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				Act plans.Act `json:"act" enum:"stop,pause,go on,skip,now,delay,remake"`
				To  string    `json:"to,omitempty" maxLength:"10" doc:"The day until which it is put off"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Plans.Do(ctx, u, in.ID, in.Body.Act, in.Body.To)
		})
	web.Handle(r.api, web.Op("setRunFills", http.MethodPut, "/api/runs/{id}/fills", "Answer blanks of the letters of a run that are still to come"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				Fills domain.Own `json:"fills"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Plans.SetFills(ctx, u, in.ID, in.Body.Fills)
		})
}
