package desk

import (
	"context"
	"errors"
	"slices"

	"lucidletter/internal/domain"
)

// StartInternal makes a draft to colleagues about a deal. The values are those of
// the deal and its main contact; the letter is filed on the deal alone.
func (a *Service) StartInternal(ctx context.Context, u domain.User, dealID int64, colleagues []int64, templateID *int64) (LetterSheet, error) {
	d, err := a.store.Deal(ctx, dealID)
	if err != nil {
		return LetterSheet{}, err
	}
	if d.MainContactID == nil {
		return LetterSheet{}, domain.Invalid("dealId", "has no main contact, whose values a letter needs; give it one first")
	}
	to, err := a.colleagues(ctx, colleagues)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.startFor(ctx, u, &u, *d.MainContactID, templateID, &dealID, func(l *domain.Letter) { l.ToColleagues(to) })
}

// SetColleagues saves the wording of an internal letter for other colleagues.
func (a *Service) SetColleagues(ctx context.Context, u domain.User, id int64, w Wording, colleagues []int64) (LetterSheet, error) {
	to, err := a.colleagues(ctx, colleagues)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		if !l.Internal {
			return &domain.StateError{Why: "This letter goes to a person. To write to colleagues, start from the deal."}
		}
		l.ToColleagues(to)
		return nil
	})
}

// colleagues gives the addresses of users, each once.
func (a *Service) colleagues(ctx context.Context, ids []int64) ([]domain.Address, error) {
	var out []domain.Address
	for i, id := range ids {
		if slices.Contains(ids[:i], id) {
			continue
		}
		u, err := a.store.User(ctx, id)
		if errors.Is(err, domain.ErrNotFound) {
			return nil, domain.Invalid("colleagues", "hold somebody who does not work here; choose again")
		}
		if err != nil {
			return nil, err
		}
		out = append(out, domain.Address{Name: u.Name(), Email: u.Email})
	}
	switch {
	case len(out) == 0:
		return nil, domain.Invalid("colleagues", "are missing; choose who gets the letter")
	case len(out) > MaxCopies:
		return nil, domain.Invalid("colleagues", "are more than %d; remove some", MaxCopies)
	}
	return out, nil
}
