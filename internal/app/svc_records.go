package app

import (
	"sync"
	"time"

	"lucidletter/core/field"
)

// RecordsPorts is what the service needs.
type RecordsPorts struct {
	Store Store
	Now   func() time.Time // in UTC, in whole milliseconds as it is stored
	Team  *TeamService
}

// RecordsService does people, companies, deals and the fields of the workspace. Make it with New.
type RecordsService struct {
	store Store
	now   func() time.Time
	team  *TeamService

	mu  sync.Mutex
	cat *field.Catalogue
}

// NewRecordsService gives the service on what it needs.
func NewRecordsService(p RecordsPorts) *RecordsService {
	return &RecordsService{store: p.Store, now: p.Now, team: p.Team}
}
