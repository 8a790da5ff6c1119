// Package desk holds the use cases about letters while they are written: beginning, filling
// gaps, correcting, choosing who gets them, the proof, and sending.
package desk

import (
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store    Store
	Reader   domain.MailReader
	NewID    func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now      func() time.Time // in UTC, in whole milliseconds as it is stored
	Team     *team.Service
	Records  *records.Service
	Library  *library.Service
	Compose  *compose.Service
	Outbound *outbound.Service
	Email    *outbound.Email
	Wake     func() // tells that letters were put into the outbox
}

// Service is letters while they are written: filling, correcting, looking at them as they go out. Make it with New.
type Service struct {
	store    Store
	reader   domain.MailReader
	newID    func() string
	now      func() time.Time
	team     *team.Service
	records  *records.Service
	library  *library.Service
	compose  *compose.Service
	outbound *outbound.Service
	email    *outbound.Email
	wake     func()
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, reader: p.Reader, newID: p.NewID, now: p.Now, team: p.Team, records: p.Records, library: p.Library, compose: p.Compose, outbound: p.Outbound, email: p.Email, wake: p.Wake}
}
