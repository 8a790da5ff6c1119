package app

import (
	"time"
)

// InboxPorts is what the service needs.
type InboxPorts struct {
	Store    Store
	Reader   MailReader
	NewID    func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now      func() time.Time // in UTC, in whole milliseconds as it is stored
	Team     *TeamService
	Records  *RecordsService
	Library  *LibraryService
	Desk     *DeskService
	Delivery *DeliveryService
}

// InboxService does what comes back, the history that it stands in, and what is to be done about it. Make it with New.
type InboxService struct {
	store    Store
	reader   MailReader
	newID    func() string
	now      func() time.Time
	team     *TeamService
	records  *RecordsService
	library  *LibraryService
	desk     *DeskService
	delivery *DeliveryService
}

// NewInboxService gives the service on what it needs.
func NewInboxService(p InboxPorts) *InboxService {
	return &InboxService{store: p.Store, reader: p.Reader, newID: p.NewID, now: p.Now, team: p.Team, records: p.Records, library: p.Library, desk: p.Desk, delivery: p.Delivery}
}
