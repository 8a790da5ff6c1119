package transfer

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// MaxExport is how many people are taken out at once.
const MaxExport = 50_000

// ExportColumn is a value that people are taken out with.
type ExportColumn struct{ Path, Name string }

// ExportedPerson is somebody who is taken out, with values in canonical form by path.
type ExportedPerson struct {
	Person domain.Person
	Owner  string
	Values map[string]string
}

// PeopleExport is people with all their values, read as they are written down.
type PeopleExport struct {
	Columns []ExportColumn
	a       *Service
	ids     []int64
}

// ExportPeople takes people out: those of the ids, or those that a search and a filter in its
// text form find.
func (a *Service) ExportPeople(ctx context.Context, u domain.User, ids []int64, asked records.Asked, q domain.PeopleQuery) (*PeopleExport, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return nil, err
	}
	columns := []ExportColumn{}
	for _, d := range cat.Fields() {
		if Importable(d) {
			columns = append(columns, ExportColumn{d.Path, cat.Name(d.Path)})
		}
	}
	if len(ids) == 0 {
		if ids, err = a.records.IDsIn(ctx, u, asked, q, MaxExport+1); err != nil {
			return nil, err
		}
	}
	if len(ids) > MaxExport {
		return nil, &domain.StateError{Why: fmt.Sprintf("More than %d people can’t be exported at once; narrow the list.", MaxExport)}
	}
	return &PeopleExport{columns, a, ids}, nil
}

// Each gives one after another, some hundred in memory at a time.
func (e *PeopleExport) Each(ctx context.Context, f func(*ExportedPerson) error) error {
	owners, firms := map[int64]string{}, map[int64]string{}
	for ids := range slices.Chunk(e.ids, 500) {
		list, err := e.a.store.PeopleOf(ctx, ids)
		if err != nil {
			return err
		}
		byID := map[int64]*domain.Person{}
		for i := range list {
			byID[list[i].ID] = &list[i]
		}
		for _, id := range ids {
			p := byID[id]
			if p == nil || p.DeletedAt != nil {
				continue
			}
			one, err := e.a.exported(ctx, p, e.Columns, owners, firms)
			if err == nil {
				err = f(&one)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}

func (a *Service) exported(ctx context.Context, p *domain.Person, columns []ExportColumn, owners, firms map[int64]string) (ExportedPerson, error) {
	out := ExportedPerson{Person: *p, Values: map[string]string{}}
	for _, c := range columns {
		at := p.Column(c.Path)
		before, _, _ := strings.Cut(c.Path, ".")
		record := field.Record(before)
		switch {
		case record != field.Person && record != p.Kind:
		case at != nil:
			out.Values[c.Path] = *at
		default:
			out.Values[c.Path] = p.Own[c.Path]
		}
	}
	company := p.CompanyName
	if p.Kind == field.Contact {
		company = ""
		if p.CompanyID != nil {
			name, known := firms[*p.CompanyID]
			if !known {
				c, err := a.store.Company(ctx, *p.CompanyID)
				if err != nil {
					return out, err
				}
				if c.DeletedAt == nil {
					name = c.Name
				}
				firms[c.ID] = name
			}
			company = name
		}
	}
	out.Values["company.name"] = company
	delete(out.Values, "lead.company_name") // the same
	if p.OwnerID != nil {
		name, known := owners[*p.OwnerID]
		if !known {
			u, err := a.store.User(ctx, *p.OwnerID)
			if err != nil {
				return out, err
			}
			name = u.Name()
			owners[u.ID] = name
		}
		out.Owner = name
	}
	return out, nil
}
