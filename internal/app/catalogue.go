package app

import (
	"context"
	"fmt"

	"lucidletter/core/field"
)

// Catalogue gives the fields of the workspace.
func (a *RecordsService) Catalogue(ctx context.Context) (*field.Catalogue, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.cat != nil {
		return a.cat, nil
	}
	own, err := a.store.OwnFields(ctx)
	if err != nil {
		return nil, fmt.Errorf("load own fields: %w", err)
	}
	a.cat = field.New(own)
	return a.cat, nil
}

// forgetCatalogue makes the next call read the own fields again.
func (a *RecordsService) forgetCatalogue() {
	a.mu.Lock()
	a.cat = nil
	a.mu.Unlock()
}

// AddOwnField adds a field of the workspace.
func (a *RecordsService) AddOwnField(ctx context.Context, d field.Def) error {
	defer a.forgetCatalogue()
	return a.store.AddOwnField(ctx, d)
}

// On is the service on another store, or on the same within an act that may be undone.
func (a *RecordsService) On(s Store) *RecordsService {
	return NewRecordsService(RecordsPorts{Store: s, Now: a.now, Team: a.team})
}
