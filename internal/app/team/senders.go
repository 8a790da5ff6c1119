package team

import (
	"context"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/internal/domain"
)

// FromAddresses lists what the user may write from, the own address first.
func (a *Service) FromAddresses(ctx context.Context, u domain.User) ([]domain.FromAddress, error) {
	list, err := a.store.FromAddresses(ctx, u.ID)
	if err != nil {
		return nil, err
	}
	own := slices.IndexFunc(list, func(f domain.FromAddress) bool { return field.EmailKey(f.Email) == field.EmailKey(u.Email) })
	mine := domain.FromAddress{UserID: u.ID, Signature: render.Formatted(document.NewPlain(u.Signature))}
	if strings.TrimSpace(u.Signature) == "" {
		mine.Signature = document.Document{}
	}
	if own >= 0 {
		mine = list[own]
		list = slices.Delete(list, own, own+1)
	}
	mine.Name, mine.Email = u.Name(), u.Email
	list = slices.Insert(list, 0, mine)
	shared, err := a.sharedAddresses(ctx, &u, list)
	return append(list, shared...), err
}

// FromAddress gives one of them, or ErrNotFound.
func (a *Service) FromAddress(ctx context.Context, u domain.User, email string) (domain.FromAddress, error) {
	list, err := a.FromAddresses(ctx, u)
	if err != nil {
		return domain.FromAddress{}, err
	}
	for _, f := range list {
		if field.EmailKey(f.Email) == field.EmailKey(email) {
			return f, nil
		}
	}
	return domain.FromAddress{}, domain.ErrNotFound
}
