package app

import (
	"time"
)

// TransferPorts is what the service needs.
type TransferPorts struct {
	Store   Store
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Team    *TeamService
	Records *RecordsService
	Library *LibraryService
}

// TransferService does what is brought in and taken out. Make it with New.
type TransferService struct {
	store   Store
	now     func() time.Time
	team    *TeamService
	records *RecordsService
	library *LibraryService

	importing chan struct{} // tells RunImports that there is one
}

// NewTransferService gives the service on what it needs.
func NewTransferService(p TransferPorts) *TransferService {
	return &TransferService{store: p.Store, now: p.Now, team: p.Team, records: p.Records, library: p.Library, importing: make(chan struct{}, 1)}
}
