// Package rounds holds the use cases about rounds: one template to many people, one letter
// each. Who of a selection is ready, has a gap or is skipped is checked step by step; the
// letters are made when they are due, a few ahead of the outbox, and each is checked again.
package rounds

import (
	"context"
	"sync"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Limits of a round.
const (
	MaxPeople = 100_000 // in one round
	maxName   = 120     // bytes
	checkStep = 100     // people who are checked in one transaction
	ahead     = 200     // letters of a round in the outbox at most
	goStep    = 50      // letters that are put there in one transaction
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	NewID   func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Wake    func()           // tells the outbox that letters wait
	Failed  func(error)      // is told what went wrong with one round or one of its people
	Team    *team.Service
	Records *records.Service
	Library *library.Service
	Desk    *desk.Service
	Compose *compose.Service
	Plans   Plans
}

// Plans is what of plans rounds need. Its errors are those of the plans service.
type Plans interface {
	// MayStart tells whether a user may start people on a plan.
	MayStart(ctx context.Context, u domain.User, id int64) (name string, err error)
	// StartAfter starts somebody on a plan in the conversation of a letter; why says why not.
	StartAfter(ctx context.Context, u domain.User, id int64, l *domain.Letter) (why string, err error)
}

// Service is rounds and recipes. Make it with New.
type Service struct {
	store   Store
	now     func() time.Time
	newID   func() string
	wake    func()
	failed  func(error)
	team    *team.Service
	records *records.Service
	library *library.Service
	desk    *desk.Service
	compose *compose.Service
	plans   Plans

	woken   chan struct{}
	mu      sync.Mutex
	looks   map[int64]bool      // rounds that somebody looks at, whose people are to be checked
	fits    map[int64]*offer    // how many each template fits, by round
	checked map[int64]time.Time // when everybody of a round was last checked
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, now: p.Now, newID: p.NewID, wake: p.Wake, failed: p.Failed, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk, compose: p.Compose, plans: p.Plans,
		woken: make(chan struct{}, 1), looks: map[int64]bool{}, fits: map[int64]*offer{}, checked: map[int64]time.Time{}}
}

// mayEdit refuses a round of somebody else, as if it were not there.
func mayEdit(u domain.User, r *domain.Round) error {
	if domain.May(u, access.EditRound, access.Thing{OwnerID: r.OwnerID}) != nil {
		return domain.ErrNotFound
	}
	return nil
}
