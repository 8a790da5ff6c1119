package app

// on is the service on another store.
func (a *TransferService) on(s Store) *TransferService {
	records := a.records.On(s)
	return NewTransferService(TransferPorts{Store: s, Now: a.now, Team: a.team, Records: records, Library: a.library.On(s, records)})
}
