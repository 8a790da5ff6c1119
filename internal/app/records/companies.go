package records

import (
	"context"

	"lucidletter/internal/domain"
)

// CompanySheet is everything that the page of a company shows.
type CompanySheet struct {
	domain.Company
	Owner  string              `json:"owner"`
	People []domain.DealPerson `json:"people"`
	Deals  []domain.DealRow    `json:"deals"`

	Fields []RecordField `json:"fields" doc:"Its values, filled or not"`
}

// CompanyPage gives one company with its people and deals.
func (a *Service) CompanyPage(ctx context.Context, id int64) (CompanySheet, error) {
	c, err := a.store.Company(ctx, id)
	if err != nil {
		return CompanySheet{}, err
	}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return CompanySheet{}, err
	}
	out := CompanySheet{Company: c, Fields: valuesOfCompany(&c).list(cat)}
	if c.OwnerID != nil {
		owner, err := a.store.User(ctx, *c.OwnerID)
		if err != nil {
			return out, err
		}
		out.Owner = owner.Name()
	}
	if out.People, err = a.store.CompanyPeople(ctx, id); err != nil {
		return out, err
	}
	out.Deals, err = a.store.CompanyDeals(ctx, id)
	for i := range out.Deals {
		out.Deals[i].Read()
	}
	return out, err
}
