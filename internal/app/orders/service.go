// Package orders holds the use cases about standing orders: rules that act by themselves, with
// the rights of their owner, on what happens to records.
package orders

import (
	"context"
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Limits of orders.
const (
	maxName   = 120 // bytes
	mostNamed = 100 // whom a trial names
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Wake    func()           // tells the outbox that letters wait
	Failed  func(error)      // is told what went wrong with one event or one order
	Records *records.Service
	Library *library.Service
	Compose *compose.Service
	Plans   *plans.Service
}

// Service is standing orders. Make it with New.
type Service struct {
	store   Store
	now     func() time.Time
	wake    func()
	failed  func(error)
	records *records.Service
	library *library.Service
	compose *compose.Service
	plans   *plans.Service
}

// New gives the service on what it needs. It acts when the worker of plans does.
func New(p Ports) *Service {
	a := &Service{p.Store, p.Now, p.Wake, p.Failed, p.Records, p.Library, p.Compose, p.Plans}
	p.Plans.Acting(a.Act)
	return a
}

// maker makes what orders send, for one user, one goroutine and a short while.
type maker struct {
	*compose.Maker
	a *Service
}

func (a *Service) maker(ctx context.Context, u domain.User) (*maker, error) {
	k, err := a.compose.Maker(ctx, u)
	return &maker{k, a}, err
}
