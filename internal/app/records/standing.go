package records

import (
	"context"
	"errors"

	"lucidletter/core/eligibility"
	"lucidletter/internal/domain"
)

// Standing gathers what of a person and of an address keeps letters from going there.
func (a *Service) Standing(ctx context.Context, p *domain.Person, to string) (eligibility.Facts, error) {
	s, err := a.Suppression(ctx, to)
	if err != nil {
		return eligibility.Facts{}, err
	}
	into := ""
	if p.DeletedAt != nil {
		into, err = a.mergedInto(ctx, p.ID)
	}
	return p.Standing(to, s, into), err
}

// Blockers gives why a person gets no letter at an address, the weightiest reason first.
func (a *Service) Blockers(ctx context.Context, p *domain.Person, to string) ([]eligibility.Reason, error) {
	f, err := a.Standing(ctx, p, to)
	if err != nil {
		return nil, err
	}
	return eligibility.AppendReasons(nil, &f), nil
}

// GoneWords says what became of a record that was deleted, and what can be done.
func (a *Service) GoneWords(ctx context.Context, p *domain.Person) (string, error) {
	into, err := a.mergedInto(ctx, p.ID)
	return eligibility.Reason{Code: eligibility.Deleted, Args: eligibility.Args{Who: into}}.Sentence(p.Name()), err
}

// mergedInto names the record that took the place of one that was deleted, "" when none did.
func (a *Service) mergedInto(ctx context.Context, id int64) (string, error) {
	kept, err := a.store.KeptOf(ctx, id)
	if errors.Is(err, domain.ErrNotFound) || err == nil && kept == id {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	other, err := a.store.Person(ctx, kept)
	return other.Name(), err
}
