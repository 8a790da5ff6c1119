// Package plans holds the use cases about plans: timed series of letters and tasks, and the
// people who go through them. A worker takes each step when it is due, one transaction a step;
// what is not complete waits for its owner.
package plans

import (
	"context"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Limits of plans.
const (
	MaxStart = 5000 // people who are started at once
	maxName  = 120  // bytes
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Wake    func()           // tells the outbox that letters wait
	Failed  func(error)      // is told what went wrong with one run, one event or one order
	Team    *team.Service
	Records *records.Service
	Library *library.Service
	Desk    *desk.Service
	Compose *compose.Service
}

// Service is plans and their runs. Make it with New.
type Service struct {
	store   Store
	now     func() time.Time
	wake    func()
	failed  func(error)
	team    *team.Service
	records *records.Service
	library *library.Service
	desk    *desk.Service
	compose *compose.Service
	acting  func(context.Context) (more bool, err error)
	woken   chan struct{}
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, now: p.Now, wake: p.Wake, failed: p.Failed, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk, compose: p.Compose, woken: make(chan struct{}, 1)}
}

// Acting has the worker do something more before it takes steps: f tells whether there may be more.
// Standing orders act then, which start and stop plans.
func (a *Service) Acting(f func(context.Context) (more bool, err error)) { a.acting = f }

// maker makes what the steps of plans are, for one user, one goroutine and a short while.
type maker struct {
	*compose.Maker
	a         *Service
	scheduler plan.Scheduler
}

func (a *Service) maker(ctx context.Context, u domain.User) (*maker, error) {
	k, err := a.compose.Maker(ctx, u)
	return &maker{Maker: k, a: a}, err
}

// Unseen stands for the name of a plan that is not shown to a user.
const Unseen = "a plan you can’t see"

// planFor loads a plan for what a user wants to do with it. What they may not see, and what
// was deleted, is ErrNotFound.
func (a *Service) planFor(ctx context.Context, u domain.User, what access.Action, id int64) (domain.Plan, error) {
	p, err := a.store.Plan(ctx, id)
	switch {
	case err != nil:
		return p, err
	case p.DeletedAt != nil, domain.May(u, access.SeePlan, p.Thing()) != nil:
		return p, domain.ErrNotFound
	}
	return p, domain.May(u, what, p.Thing())
}

// WhereOf gives the places that the dates of a run go by; see plan.WhereOf.
func WhereOf(u *domain.User, timeZone, country string, said *domain.RunSaid) (w plan.Where, known bool) {
	chosen := ""
	if said != nil {
		chosen = said.Zone
	}
	return plan.WhereOf(u.TimeZone, field.CountryCode(u.Country), timeZone, field.CountryCode(country), chosen)
}
