package records

import (
	"context"

	"lucidletter/internal/domain"
)

// DealSheet is everything that the page of a deal shows.
type DealSheet struct {
	domain.DealRow
	Fields []RecordField       `json:"fields" doc:"Its values, filled or not"`
	People []domain.DealPerson `json:"people" doc:"The main contact first"`
}

// DealPage gives one deal with its people.
func (a *Service) DealPage(ctx context.Context, id int64) (DealSheet, error) {
	row, err := a.store.DealRow(ctx, id)
	if err != nil {
		return DealSheet{}, err
	}
	row.Read()
	out := DealSheet{DealRow: row}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	out.Fields = valuesOfDeal(&row.Deal).list(cat)
	out.People, err = a.store.DealPeople(ctx, id)
	return out, err
}
