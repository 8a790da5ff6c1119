package transfer

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"strings"

	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// firmSeen is a company that rows of a file are about, with the values that it will have.
type firmSeen struct {
	c       domain.Company // without an ID when it is not there yet
	changed bool
}

func companyKey(name string) string { return strings.ToLower(strings.Join(strings.Fields(name), " ")) }

// company finds the company of a contact, or has it made when there is none of the
// name, and gives it the values of the row; a lead keeps the name as it was given. Settled
// is to be called when the row is taken.
func (r *importRun) company(ctx context.Context, p *domain.Person, cells map[string]string, out *domain.ImportRow) (settled func(), err error) {
	name := cells["company.name"]
	if p.Kind == field.Lead {
		if name != "" {
			if err := records.SetPersonField(r.cat, p, "lead.company_name", name); err != nil {
				return nil, renamed(err, "lead.company_name", "company.name")
			}
			out.CompanyName = p.CompanyName
		}
		delete(cells, "company.name")
		for path := range cells {
			return nil, domain.Invalid(path, "belongs to a company; a lead has only company.name")
		}
		return func() {}, nil
	}
	if name == "" {
		for path := range cells {
			return nil, domain.Invalid(path, "belongs to a company, and the row names none (company.name)")
		}
		return func() {}, nil
	}
	if err := records.SetCompanyField(r.cat, new(domain.Company), "company.name", name); err != nil {
		return nil, err
	}
	firm, err := r.firm(ctx, name)
	if err != nil {
		return nil, err
	}
	next, changed := firm.c, false
	var bad domain.InvalidError
	for path := range cells {
		if err := r.canonical(cells, path); err != nil {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: err.Error()})
		} else if path != "company.name" && records.CompanyField(r.cat, &next, path) != cells[path] {
			changed = true
			bad.Add(records.SetCompanyField(r.cat, &next, path, cells[path]))
		}
	}
	if err := r.told(&bad); err != nil {
		return nil, err
	}
	if !changed {
		cells = map[string]string{"company.name": name}
	}
	if firm.c.ID == 0 || changed || p.CompanyID == nil || *p.CompanyID != firm.c.ID {
		out.Firm = cells
	}
	if firm.c.ID != 0 {
		id := firm.c.ID
		if p.CompanyID == nil || *p.CompanyID != id {
			p.CompanyID = &id
		}
	}
	return func() {
		r.counts(firm, changed)
		firm.c = next
	}, nil
}

// renamed says of one path what an error says of another.
func renamed(err error, path, as string) error {
	var bad *domain.InvalidError
	if errors.As(err, &bad) {
		for i := range bad.Fields {
			if bad.Fields[i].Where == path {
				bad.Fields[i].Where = as
			}
		}
	}
	return err
}

// firm gives the company of a name as it is, or will be after the rows before.
func (r *importRun) firm(ctx context.Context, name string) (*firmSeen, error) {
	key := companyKey(name)
	if firm := r.firms[key]; firm != nil {
		return firm, nil
	}
	there, err := r.s.CompanyByName(ctx, name)
	if errors.Is(err, domain.ErrNotFound) {
		there, err = domain.Company{Name: name}, nil
	}
	if err != nil {
		return nil, err
	}
	firm := &firmSeen{c: there}
	r.firms[key] = firm
	return firm, nil
}

func (r *importRun) counts(firm *firmSeen, changed bool) {
	switch {
	case firm.changed:
	case firm.c.ID == 0:
		r.report.Companies.Created++
		firm.changed = true
	case changed:
		r.report.Companies.Updated++
		firm.changed = true
	}
}

// deal decides about the deal of a row: one of the name with the same person or the same
// company is updated, else it is made.
func (r *importRun) deal(ctx context.Context, p *domain.Person, cells map[string]string, out *domain.ImportRow) error {
	if len(cells) == 0 {
		return nil
	}
	name := cells["deal.name"]
	if name == "" {
		for path := range cells {
			return domain.Invalid(path, "belongs to a deal, and the row names none (deal.name)")
		}
	}
	whose := fmt.Sprint(p.Email, " ", p.FirstName, " ", p.LastName, " ", out.Firm["company.name"], " ", domain.IDOf(p.CompanyID))
	if key := r.hash(companyKey(name), companyKey(whose)); r.deals[key] {
		return domain.Invalid("deal.name", "%q stands in a row before this one, with the same person and company; keep one of the two rows", name)
	} else {
		r.deals[key] = true
	}
	var d domain.Deal
	there, err := r.a.dealOf(ctx, name, p)
	if err != nil {
		return err
	}
	if there != nil {
		d = *there
	}
	var bad domain.InvalidError
	changed := false
	for path := range cells {
		if err := r.canonical(cells, path); err != nil {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: err.Error()})
			continue
		}
		was := records.DealField(r.cat, &d, path)
		if bad.Add(records.SetDealField(r.cat, &d, path, cells[path])); was != records.DealField(r.cat, &d, path) {
			changed = true
		}
	}
	if err := r.told(&bad); err != nil {
		return err
	}
	switch {
	case there == nil:
		r.report.Deals.Created++
	case changed:
		r.report.Deals.Updated++
	default:
		return nil
	}
	out.Deal = maps.Clone(cells)
	return nil
}

// dealOf gives the deal of a name that a person is the main contact of, or that is with their
// company; without either, one that nobody has.
func (a *Service) dealOf(ctx context.Context, name string, p *domain.Person) (*domain.Deal, error) {
	list, err := a.store.DealsNamed(ctx, name)
	if err != nil {
		return nil, err
	}
	// A row that names somebody who is not there yet has no deal yet, whatever their company has.
	nobody := p.ID == 0 && p.Email == "" && p.FirstName == "" && p.LastName == ""
	for i := range list {
		d := &list[i]
		switch {
		case p.ID != 0 && d.MainContactID != nil && *d.MainContactID == p.ID,
			nobody && p.CompanyID != nil && d.CompanyID != nil && *d.CompanyID == *p.CompanyID,
			nobody && p.CompanyID == nil && d.MainContactID == nil && d.CompanyID == nil:
			return d, nil
		}
	}
	return nil, nil
}
