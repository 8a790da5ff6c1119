// Package library holds the use cases about what letters are made from: templates and their
// wordings, folders, passages, stationery, documents. A Setting is what every merge for one
// person needs.
package library

import (
	"sync"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store    Store
	Composer domain.Composer
	Reader   domain.MailReader
	NewID    func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now      func() time.Time // in UTC, in whole milliseconds as it is stored
	Team     *team.Service
	Records  *records.Service
}

// Service is templates, passages, stationery and documents, and what they say about a person. Make it with New.
type Service struct {
	store    Store
	composer domain.Composer
	reader   domain.MailReader
	newID    func() string
	now      func() time.Time
	team     *team.Service
	records  *records.Service

	mu         sync.Mutex
	digests    map[versionKey]digest
	stationery map[versionKey]stationeryPrograms
	digestsOf  *field.Catalogue // that these were worked out with
	counting   chan struct{}    // held by the count that takes a step
	reaches    map[string]*reachCount
	reachUsed  int64
	held       holding
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, composer: p.Composer, reader: p.Reader, newID: p.NewID, now: p.Now, team: p.Team, records: p.Records, digests: map[versionKey]digest{}, stationery: map[versionKey]stationeryPrograms{}, reaches: map[string]*reachCount{}, counting: make(chan struct{}, 1)}
}

// On is the service on another store and its records, or on the same within an
// act that may be undone: it keeps what it works out apart.
func (a *Service) On(s Store, records *records.Service) *Service {
	return New(Ports{Store: s, Composer: a.composer, Reader: a.reader, NewID: a.newID, Now: a.now, Team: a.team, Records: records})
}
