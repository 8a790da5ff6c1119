// Package outbound is the road on which letters go: whoever sends, from the desk, with a round, a plan or
// a standing order, puts a letter into the outbox here; from there it is claimed, looked at for the last
// time, handed over by its channel, and settled.
package outbound

import (
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Channel Channel
	Journal Journal
	Wake    func()           // tells that letters were put into the outbox
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Failed  func(error)      // is told what went wrong with one letter, which was set aside
	Team    *team.Service
	Records *records.Service
	Compose *compose.Service
}

// Service is letters on their way: claimed, handed over, settled. Make it with New.
type Service struct {
	store   Store
	channel Channel
	journal Journal
	wake    func()
	now     func() time.Time
	failed  func(error)
	team    *team.Service
	records *records.Service
	compose *compose.Service
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, channel: p.Channel, journal: p.Journal, wake: p.Wake, now: p.Now, failed: p.Failed, team: p.Team, records: p.Records, compose: p.Compose}
}
