package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
)

const companyColumns = `id, name, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at, deleted_at`

// Company gives one company.
func (s *Store) Company(ctx context.Context, id int64) (c domain.Company, err error) {
	err = s.get(ctx, "load company", &c, `SELECT `+companyColumns+` FROM companies WHERE id = ?`, id)
	return c, err
}

// CompanyByName gives the first company of a name, whatever its case and space.
func (s *Store) CompanyByName(ctx context.Context, name string) (c domain.Company, err error) {
	err = s.get(ctx, "find company", &c, `SELECT `+companyColumns+` FROM companies WHERE name_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 1`, lists.NameKey(name))
	return c, err
}

// AddCompany stores a company.
func (s *Store) AddCompany(ctx context.Context, c domain.Company) (int64, error) {
	return s.add(ctx, "add company", `INSERT INTO companies (name, name_key, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at)
		VALUES (:name, :name_key, :website, :industry, :employees, :phone, :street, :postal_code, :city, :country, :owner_id, :own, :created_at)`, companyRow{c, lists.NameKey(c.Name)})
}

// UpdateCompany stores the values of a company.
func (s *Store) UpdateCompany(ctx context.Context, c domain.Company) error {
	_, err := s.change(ctx, "store company", `UPDATE companies SET name = :name, name_key = :name_key, website = :website, industry = :industry, employees = :employees, phone = :phone,
		street = :street, postal_code = :postal_code, city = :city, country = :country, own = :own, owner_id = :owner_id WHERE id = :id`, companyRow{c, lists.NameKey(c.Name)})
	if err != nil {
		return err
	}
	return s.companyNamed(ctx, c.ID, c.Name)
}

// companyNamed has the people of a company found and sorted by a name; "" when the company
// is not there any more.
func (s *Store) companyNamed(ctx context.Context, id int64, name string) error {
	if _, err := s.exec(ctx, "sort by company", `UPDATE people SET company_sort = lower(?) WHERE company_id = ? AND kind <> 'lead'`, name, id); err != nil {
		return err
	}
	var list []domain.Person
	if err := s.list(ctx, "list people of company", &list, `SELECT `+personColumns+` FROM people WHERE company_id = ? AND deleted_at IS NULL`, id); err != nil {
		return err
	}
	rows, err := s.rowsOf(ctx, list...)
	if err != nil {
		return err
	}
	for i := range rows {
		if err := s.reindex(ctx, &rows[i]); err != nil {
			return err
		}
	}
	return nil
}

// DeleteCompany marks a company as deleted or, with nil, puts it back; or ErrNotFound.
func (s *Store) DeleteCompany(ctx context.Context, id int64, at *time.Time) error {
	return s.Within(ctx, func(ctx context.Context) error {
		if err := s.mark(ctx, "companies", id, at); err != nil {
			return err
		}
		c, err := s.Company(ctx, id)
		if err != nil {
			return err
		}
		if at != nil {
			c.Name = ""
		}
		return s.companyNamed(ctx, id, c.Name)
	})
}

// mark marks a row of a table as deleted, or takes the mark away; or ErrNotFound.
func (s *Store) mark(ctx context.Context, table string, id int64, at *time.Time) error {
	hit, err := s.one(ctx, "delete or put back a record", `UPDATE `+table+` SET deleted_at = ? WHERE id = ? AND (deleted_at IS NULL) = (? IS NOT NULL)`, at, id, at)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

type companyRow struct {
	domain.Company
	NameKey string `db:"name_key"`
}
