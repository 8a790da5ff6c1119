package store

import (
	"context"
	"strings"

	"lucidletter/internal/domain"
)

const companyColumns = `id, name, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at`

// Company gives one company.
func (s *Store) Company(ctx context.Context, id int64) (c domain.Company, err error) {
	err = s.get(ctx, "load company", &c, `SELECT `+companyColumns+` FROM companies WHERE id = ?`, id)
	return c, err
}

// nameKey is the form under which two names of a company are the same.
func nameKey(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), " ") }

// CompanyByName gives the first company of a name, whatever its case and space.
func (s *Store) CompanyByName(ctx context.Context, name string) (c domain.Company, err error) {
	err = s.get(ctx, "find company", &c, `SELECT `+companyColumns+` FROM companies WHERE name_key = ? ORDER BY id LIMIT 1`, nameKey(name))
	return c, err
}

// AddCompany stores a company.
func (s *Store) AddCompany(ctx context.Context, c domain.Company) (int64, error) {
	return s.add(ctx, "add company", `INSERT INTO companies (name, name_key, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at)
		VALUES (:name, :name_key, :website, :industry, :employees, :phone, :street, :postal_code, :city, :country, :owner_id, :own, :created_at)`, companyRow{c, nameKey(c.Name)})
}

// UpdateCompany stores the values of a company.
func (s *Store) UpdateCompany(ctx context.Context, c domain.Company) error {
	_, err := s.change(ctx, "store company", `UPDATE companies SET name = :name, name_key = :name_key, website = :website, industry = :industry, employees = :employees, phone = :phone,
		street = :street, postal_code = :postal_code, city = :city, country = :country, own = :own WHERE id = :id`, companyRow{c, nameKey(c.Name)})
	if err == nil {
		_, err = s.exec(ctx, "sort by company", `UPDATE people SET company_sort = lower(?) WHERE company_id = ? AND kind <> 'lead'`, c.Name, c.ID)
	}
	return err
}

type companyRow struct {
	domain.Company
	NameKey string `db:"name_key"`
}
