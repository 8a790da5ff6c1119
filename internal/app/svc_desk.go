package app

import (
	"time"
)

// DeskPorts is what the service needs.
type DeskPorts struct {
	Store     Store
	Composer  Composer
	Reader    MailReader
	NewID     func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	PublicURL string           // where recipients reach the pages of the program
	Now       func() time.Time // in UTC, in whole milliseconds as it is stored
	Team      *TeamService
	Records   *RecordsService
	Library   *LibraryService
}

// DeskService does letters while they are written: filling, correcting, looking at them as they go out. Make it with New.
type DeskService struct {
	store     Store
	composer  Composer
	reader    MailReader
	newID     func() string
	publicURL string
	now       func() time.Time
	team      *TeamService
	records   *RecordsService
	library   *LibraryService
}

// NewDeskService gives the service on what it needs.
func NewDeskService(p DeskPorts) *DeskService {
	return &DeskService{store: p.Store, composer: p.Composer, reader: p.Reader, newID: p.NewID, publicURL: p.PublicURL, now: p.Now, team: p.Team, records: p.Records, library: p.Library}
}
