package records

import (
	"context"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/filter"
	"lucidletter/internal/domain"
)

// Asked is how somebody wants to see a table, in the text forms of package filter.
type Asked struct {
	Where   string // a filter, of people only
	Columns string // "" the usual ones
	Sort    string // the path of a column, "" the usual order
}

// PeopleTable is a window of the people with the columns that it has.
type PeopleTable struct {
	domain.PeoplePage
	Columns []filter.TableColumn
}

// oldSorts are names of columns that stand in saved lists and in addresses.
var oldSorts = map[string]string{"company": "company.name", "last": "written", "added": "created"}

// sortOf gives the column that a table is sorted by; one that is not there any more is none.
func sortOf(cat *field.Catalogue, of field.Record, sort string) filter.Field {
	if path, old := oldSorts[sort]; old && of == field.Person {
		sort = path
	}
	if sort == string(of)+".name" || of == field.Person && sort == "name" {
		return filter.Field{Path: sort, Kind: filter.Words}
	}
	f, _ := filter.FindColumn(cat, of, sort)
	return f
}

// bind puts what somebody asked for into a query of people.
func (a *Service) bind(ctx context.Context, u domain.User, asked Asked, q *domain.PeopleQuery) error {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	q.By, q.Offset = sortOf(cat, field.Person, asked.Sort), max(0, q.Offset)
	if strings.TrimSpace(asked.Where) == "" {
		return nil
	}
	e, err := filter.Parse(asked.Where)
	if err == nil {
		e, err = filter.Check(cat, e)
	}
	if err != nil {
		return badFilter(err)
	}
	q.Where = filter.Bind(cat, e, a.now(), u.ID)
	return nil
}

// People gives a window of the people table: those that a filter and a search find.
func (a *Service) People(ctx context.Context, u domain.User, asked Asked, q domain.PeopleQuery) (domain.PeoplePage, error) {
	q.Limit = max(1, min(q.Limit, 500))
	if err := a.bind(ctx, u, asked, &q); err != nil {
		return domain.PeoplePage{}, err
	}
	return a.store.People(ctx, q)
}

// CountPeople counts whom a filter and a search find, or no more than one beyond q.Most.
func (a *Service) CountPeople(ctx context.Context, u domain.User, asked Asked, q domain.PeopleQuery) (int, error) {
	if err := a.bind(ctx, u, asked, &q); err != nil {
		return 0, err
	}
	return a.store.CountPeople(ctx, q)
}

// PeopleTable is People with the values of columns, written for people.
func (a *Service) PeopleTable(ctx context.Context, u domain.User, asked Asked, q domain.PeopleQuery) (PeopleTable, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return PeopleTable{}, err
	}
	out := PeopleTable{Columns: filter.ReadColumns(cat, field.Person, asked.Columns)}
	q.Columns = out.Columns
	if out.PeoplePage, err = a.People(ctx, u, asked, q); err != nil {
		return out, err
	}
	for i := range out.Rows {
		shownCells(out.Columns, out.Rows[i].Cells)
	}
	return out, nil
}

// shownCells writes the values of columns as they are read; days and times stay.
func shownCells(columns []filter.TableColumn, cells []string) {
	reader := field.NewReader("en-GB")
	for i := range cells {
		t := map[filter.Kind]field.Type{filter.Number: field.Number, filter.Money: field.Money}[columns[i].Kind]
		switch {
		case t != "":
			if v, err := field.Parse(t, cells[i], nil); err == nil {
				cells[i] = string(reader.Append(nil, v, ""))
			}
		case columns[i].Kind == filter.YesNo:
			cells[i] = map[string]string{"true": "yes", "false": "no"}[cells[i]]
		}
	}
}

// IDsIn gives the ids of whom a filter and a search find, in their order, up to a number.
func (a *Service) IDsIn(ctx context.Context, u domain.User, asked Asked, q domain.PeopleQuery, most int) ([]int64, error) {
	if err := a.bind(ctx, u, asked, &q); err != nil {
		return nil, err
	}
	q.Limit = max(0, most)
	return a.store.PeopleFound(ctx, q)
}

// ColumnFields gives what a table can show beside the name.
func (a *Service) ColumnFields(ctx context.Context, of field.Record) ([]filter.Field, error) {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	return filter.Columns(cat, of), nil
}

// Companies gives a window of the companies, how many there are, and the columns.
func (a *Service) Companies(ctx context.Context, asked Asked, q domain.RecordsQuery) ([]domain.CompanyRow, int, []filter.TableColumn, error) {
	if err := a.bindRecords(ctx, field.Company, asked, &q); err != nil {
		return nil, 0, nil, err
	}
	rows, total, err := a.store.Companies(ctx, q)
	for i := range rows {
		shownCells(q.Columns, rows[i].Cells)
	}
	return rows, total, q.Columns, err
}

// Deals gives a window of the deals that hold all words of a search, how many there are, and
// the columns. By themselves the open ones come first, and of those what closes first.
func (a *Service) Deals(ctx context.Context, asked Asked, q domain.RecordsQuery) ([]domain.DealRow, int, []filter.TableColumn, error) {
	if err := a.bindRecords(ctx, field.Deal, asked, &q); err != nil {
		return nil, 0, nil, err
	}
	rows, total, err := a.store.Deals(ctx, q)
	for i := range rows {
		rows[i].Read()
		shownCells(q.Columns, rows[i].Cells)
	}
	return rows, total, q.Columns, err
}

func (a *Service) bindRecords(ctx context.Context, of field.Record, asked Asked, q *domain.RecordsQuery) error {
	cat, err := a.Catalogue(ctx)
	if err != nil {
		return err
	}
	q.By, q.Columns = sortOf(cat, of, asked.Sort), filter.ReadColumns(cat, of, asked.Columns)
	q.Limit, q.Offset = max(1, min(q.Limit, 500)), max(0, q.Offset)
	return nil
}
