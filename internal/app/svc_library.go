package app

import (
	"sync"
	"time"

	"lucidletter/core/field"
)

// LibraryPorts is what the service needs.
type LibraryPorts struct {
	Store    Store
	Composer Composer
	Reader   MailReader
	NewID    func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now      func() time.Time // in UTC, in whole milliseconds as it is stored
	Team     *TeamService
	Records  *RecordsService
}

// LibraryService does templates, passages, stationery and documents, and what they say about a person. Make it with New.
type LibraryService struct {
	store    Store
	composer Composer
	reader   MailReader
	newID    func() string
	now      func() time.Time
	team     *TeamService
	records  *RecordsService

	mu        sync.Mutex
	digests   map[versionKey]digest
	digestsOf *field.Catalogue // that the digests were worked out with
	reaches   map[string]*reachCount
	reachUsed int64
}

// NewLibraryService gives the service on what it needs.
func NewLibraryService(p LibraryPorts) *LibraryService {
	return &LibraryService{store: p.Store, composer: p.Composer, reader: p.Reader, newID: p.NewID, now: p.Now, team: p.Team, records: p.Records, digests: map[versionKey]digest{}, reaches: map[string]*reachCount{}}
}
