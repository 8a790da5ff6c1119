package app

import (
	"context"

	"lucidletter/core/field"
)

// DealRow is a deal as lists show it.
type DealRow struct {
	DealLine
	Company string `json:"company" db:"company"`
	Contact string `json:"contact" db:"contact"`
	Owner   string `json:"owner" db:"owner"`
}

// DealPerson is a contact of a deal.
type DealPerson struct {
	ID       int64  `json:"id" db:"id"`
	Name     string `json:"name" db:"name"`
	Email    string `json:"email" db:"email"`
	JobTitle string `json:"jobTitle" db:"job_title"`
	Main     bool   `json:"main" db:"main"`
}

// DealSheet is everything that the page of a deal shows.
type DealSheet struct {
	DealRow
	Fields []RecordField `json:"fields" doc:"Its values, filled or not"`
	People []DealPerson  `json:"people" doc:"The main contact first"`
}

// AllDeals lists the deals whose name, company or contact holds all words of a
// search, the open ones first, those that close first at the top.
func (a *App) AllDeals(ctx context.Context, search string) ([]DealRow, error) {
	rows, err := a.Store.AllDeals(ctx, search, 500)
	for i := range rows {
		rows[i].read()
	}
	return rows, err
}

func (d *DealRow) read() {
	d.Amount = string(field.NewReader("en-GB").Append(nil, field.MoneyOf(d.AmountMinor, d.Currency), ""))
}

// DealPage gives one deal with its people.
func (a *App) DealPage(ctx context.Context, id int64) (DealSheet, error) {
	row, err := a.Store.DealRow(ctx, id)
	if err != nil {
		return DealSheet{}, err
	}
	row.read()
	out := DealSheet{DealRow: row}
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return out, err
	}
	out.Fields = valuesOfDeal(&row.Deal).list(cat)
	out.People, err = a.Store.DealPeople(ctx, id)
	return out, err
}
