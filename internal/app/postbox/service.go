// Package postbox holds the use cases about the post office that letters go to without a mail server:
// what arrived there, and how its people behave.
package postbox

import (
	"time"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store  Store
	Reader domain.MailReader
	World  PostWorld        // nil when letters go to a mail server of the workspace’s own
	Now    func() time.Time // in UTC, in whole milliseconds as it is stored
	Team   *team.Service
}

// Service is the post office. Make it with New.
type Service struct {
	store  Store
	reader domain.MailReader
	world  PostWorld
	now    func() time.Time
	team   *team.Service
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, reader: p.Reader, world: p.World, now: p.Now, team: p.Team}
}
