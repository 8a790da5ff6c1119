package follow

import (
	"context"
	"net/http"
	"strings"
	"time"

	"lucidletter/internal/app/tasks"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/web"
)

type calendarOut struct {
	URL string `json:"url"`
}

// tasks are what is to be done.
func (r *routes) tasks() {
	web.Handle(r.api, web.Op("tasks", http.MethodGet, "/api/tasks", "What I have to do, the earliest first"),
		func(ctx context.Context, u domain.User, in *struct {
			Person int64 `query:"person" minimum:"0" doc:"Of one person alone"`
			Limit  int   `query:"limit" minimum:"1" maximum:"500" default:"100"`
			Offset int   `query:"offset" minimum:"0"`
		}) (*web.Body[domain.TasksPage], error) {
			page, err := r.app.Tasks.TasksPage(ctx, u, in.Person, in.Limit, in.Offset)
			return web.OK(page), err
		})
	web.Handle(r.api, web.Op("tasksDue", http.MethodGet, "/api/tasks/due", "What became due since I last asked"),
		func(ctx context.Context, u domain.User, in *struct {
			Since time.Time `query:"since" doc:"The time of the last answer; without it nothing was due"`
		}) (*web.Body[domain.TasksDue], error) {
			var since *time.Time
			if !in.Since.IsZero() {
				since = &in.Since
			}
			due, err := r.app.Tasks.TasksDue(ctx, u, since)
			return web.OK(due), err
		})
	web.Handle(r.api, web.Making(web.Op("addTask", http.MethodPost, "/api/tasks", "Write a task down")),
		func(ctx context.Context, u domain.User, in *struct {
			Body struct {
				Text     string          `json:"text"`
				Kind     domain.TaskKind `json:"kind,omitempty" enum:",call,visit,note"`
				DueAt    time.Time       `json:"dueAt"`
				PersonID *int64          `json:"personId,omitempty"`
				DealID   *int64          `json:"dealId,omitempty"`
			}
		}) (*web.Body[domain.Task], error) {
			t, err := r.app.Tasks.AddTask(ctx, u, tasks.TaskInput(in.Body))
			return web.OK(t), err
		})
	web.Handle(r.api, web.Op("snooze", http.MethodPost, "/api/tasks/{id}/snooze", "Put a task off"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				To time.Time `json:"to"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Tasks.Snooze(ctx, u, in.ID, in.Body.To)
		})
	web.Handle(r.api, web.Op("calendar", http.MethodPost, "/api/calendar", "The private address of my tasks as a calendar"),
		func(ctx context.Context, u domain.User, in *struct {
			Renew bool `query:"renew" doc:"The old address ends"`
		}) (*web.Body[calendarOut], error) {
			token, err := r.app.Tasks.CalendarToken(ctx, u, in.Renew)
			return web.OK(calendarOut{strings.TrimSuffix(r.app.PublicURL(), "/") + "/calendar/" + token + ".ics"}), err
		})
	web.Handle(r.api, web.Op("taskDone", http.MethodPost, "/api/tasks/{id}/done", "Settle a task, or bring it back"),
		func(ctx context.Context, u domain.User, in *struct {
			web.IDInput
			Body struct {
				Done bool `json:"done"`
			}
		}) (*struct{}, error) {
			return nil, r.app.Tasks.TaskDone(ctx, u, in.ID, in.Body.Done)
		})
}
