package app

// On is the service on another store and its records, or on the same within an
// act that may be undone: it keeps what it works out apart.
func (a *LibraryService) On(s Store, records *RecordsService) *LibraryService {
	return NewLibraryService(LibraryPorts{Store: s, Composer: a.composer, Reader: a.reader, NewID: a.newID, Now: a.now, Team: a.team, Records: records})
}
