package app

import (
	"time"
)

// DeliveryPorts is what the service needs.
type DeliveryPorts struct {
	Store     Store
	Composer  Composer
	Transport Transport
	Reader    MailReader
	Journal   Journal
	World     PostWorld        // nil when letters go to a mail server of the workspace’s own
	NewID     func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	ReturnTo  string           // where mail servers return letters, "" the sender’s own address
	Wake      func()           // tells that letters were put into the outbox
	Now       func() time.Time // in UTC, in whole milliseconds as it is stored
	Team      *TeamService
	Records   *RecordsService
	Library   *LibraryService
	Desk      *DeskService
}

// DeliveryService does letters on their way: claimed, handed over, settled. Make it with New.
type DeliveryService struct {
	store     Store
	composer  Composer
	transport Transport
	reader    MailReader
	journal   Journal
	world     PostWorld
	newID     func() string
	returnTo  string
	wake      func()
	now       func() time.Time
	team      *TeamService
	records   *RecordsService
	library   *LibraryService
	desk      *DeskService
}

// NewDeliveryService gives the service on what it needs.
func NewDeliveryService(p DeliveryPorts) *DeliveryService {
	return &DeliveryService{store: p.Store, composer: p.Composer, transport: p.Transport, reader: p.Reader, journal: p.Journal, world: p.World, newID: p.NewID, returnTo: p.ReturnTo, wake: p.Wake, now: p.Now, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk}
}
