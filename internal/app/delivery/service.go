// Package delivery holds the use cases about letters on their way: claimed, handed over,
// settled; and the post office that they go to without a mail server.
package delivery

import (
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store     Store
	Composer  domain.Composer
	Transport Transport
	Reader    domain.MailReader
	Journal   Journal
	World     PostWorld        // nil when letters go to a mail server of the workspace’s own
	NewID     func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	ReturnTo  string           // where mail servers return letters, "" the sender’s own address
	Wake      func()           // tells that letters were put into the outbox
	Now       func() time.Time // in UTC, in whole milliseconds as it is stored
	Failed    func(error)      // is told what went wrong with one letter, which was set aside
	Team      *team.Service
	Records   *records.Service
	Library   *library.Service
	Desk      *desk.Service
	Compose   *compose.Service
}

// Service is letters on their way: claimed, handed over, settled. Make it with New.
type Service struct {
	store     Store
	composer  domain.Composer
	transport Transport
	reader    domain.MailReader
	journal   Journal
	world     PostWorld
	newID     func() string
	returnTo  string
	wake      func()
	now       func() time.Time
	failed    func(error)
	team      *team.Service
	records   *records.Service
	library   *library.Service
	desk      *desk.Service
	compose   *compose.Service

	unreminded map[int64]time.Time // users whom no email could be sent to, and when; of the reminding worker alone
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, composer: p.Composer, transport: p.Transport, reader: p.Reader, journal: p.Journal, world: p.World, newID: p.NewID, returnTo: p.ReturnTo, wake: p.Wake, now: p.Now, failed: p.Failed, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk, compose: p.Compose, unreminded: map[int64]time.Time{}}
}
