// Package inbox holds the use cases about what comes back: replies, returned letters,
// opt-outs, the history that they stand in.
package inbox

import (
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Reader  domain.MailReader
	NewID   func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Team    *team.Service
	Records *records.Service
	Library *library.Service
	Desk    *desk.Service
}

// Service is what comes back, the history that it stands in, and what is to be done about it. Make it with New.
type Service struct {
	store   Store
	reader  domain.MailReader
	newID   func() string
	now     func() time.Time
	team    *team.Service
	records *records.Service
	library *library.Service
	desk    *desk.Service
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, reader: p.Reader, newID: p.NewID, now: p.Now, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk}
}
