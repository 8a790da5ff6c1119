// Package records holds the use cases about people, companies, deals and the fields of the
// workspace, and works out the values that a letter draws from them.
package records

import (
	"sync"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/team"
)

// Ports is what the service needs.
type Ports struct {
	Store Store
	Now   func() time.Time // in UTC, in whole milliseconds as it is stored
	Team  *team.Service
}

// Service is people, companies, deals and the fields of the workspace. Make it with New.
type Service struct {
	store Store
	now   func() time.Time
	team  *team.Service

	mu      sync.Mutex
	cat     *field.Catalogue
	grounds []string // that it was made with
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, now: p.Now, team: p.Team}
}
