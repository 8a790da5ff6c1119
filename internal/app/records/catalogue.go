package records

import (
	"context"
	"fmt"
	"slices"

	"lucidletter/core/field"
)

// Catalogue gives the fields of the workspace.
func (a *Service) Catalogue(ctx context.Context) (*field.Catalogue, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	set, err := a.team.Settings(ctx)
	if err != nil {
		return nil, err
	}
	if a.cat != nil && slices.Equal(a.grounds, set.Grounds) {
		return a.cat, nil
	}
	own, err := a.store.OwnFields(ctx)
	if err != nil {
		return nil, fmt.Errorf("load own fields: %w", err)
	}
	a.cat, a.grounds = field.New(append(own, field.Def{Path: "person.basis", Type: field.Choice, Choices: set.Grounds})), set.Grounds
	return a.cat, nil
}

// ForgetCatalogue makes the next call read the own fields again.
func (a *Service) ForgetCatalogue() {
	a.mu.Lock()
	a.cat = nil
	a.mu.Unlock()
}

// AddOwnField adds a field of the workspace.
func (a *Service) AddOwnField(ctx context.Context, d field.Def) error {
	defer a.ForgetCatalogue()
	return a.store.AddOwnField(ctx, d)
}

// Apart is the service for an act that may be undone: it keeps nothing for others.
func (a *Service) Apart() *Service { return a.On(a.store) }

// On is the service on another store.
func (a *Service) On(s Store) *Service {
	return New(Ports{Store: s, Now: a.now, Team: a.team})
}
