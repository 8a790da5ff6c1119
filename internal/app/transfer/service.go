// Package transfer holds the use cases that bring many things in and take them out: files of
// people, archives of the library.
package transfer

import (
	"time"

	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Failed  func(error)      // is told what went wrong with one import
	Team    *team.Service
	Records *records.Service
	Library *library.Service
}

// Service is what is brought in and taken out. Make it with New.
type Service struct {
	store   Store
	now     func() time.Time
	failed  func(error)
	team    *team.Service
	records *records.Service
	library *library.Service

	importing chan struct{} // tells RunImports that there is one
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, now: p.Now, failed: p.Failed, team: p.Team, records: p.Records, library: p.Library, importing: make(chan struct{}, 1)}
}

// on is the service on another store.
func (a *Service) on(s Store) *Service {
	records := a.records.On(s)
	return New(Ports{Store: s, Now: a.now, Failed: a.failed, Team: a.team, Records: records, Library: a.library.On(s, records)})
}
