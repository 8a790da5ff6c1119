package store

import (
	"context"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

const companyColumns = `id, name, website, industry, employees, phone, street, postal_code, city, country, owner_id, own, created_at, deleted_at`

// Company gives one company.
func (s *Store) Company(ctx context.Context, id int64) (c domain.Company, err error) {
	err = s.get(ctx, "load company", &c, `SELECT `+companyColumns+` FROM companies WHERE id = ?`, id)
	return c, err
}

// nameKey is the form under which two names of a company are the same.
func nameKey(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), " ") }

// CompanyByName gives the first company of a name, whatever its case and space.
func (s *Store) CompanyByName(ctx context.Context, name string) (c domain.Company, err error) {
	err = s.get(ctx, "find company", &c, `SELECT `+companyColumns+` FROM companies WHERE name_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 1`, nameKey(name))
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
		street = :street, postal_code = :postal_code, city = :city, country = :country, own = :own, owner_id = :owner_id WHERE id = :id`, companyRow{c, nameKey(c.Name)})
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
	for i := range list {
		if err := s.reindex(ctx, list[i]); err != nil {
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

// Companies gives a window of the companies in which every word of a search begins a word
// of the name or the city, by name, and how many fit.
func (s *Store) Companies(ctx context.Context, q domain.CompaniesQuery) ([]domain.CompanyRow, int, error) {
	where := sq.And{sq.Expr("c.deleted_at IS NULL")}
	for word := range strings.FieldsSeq(nameKey(q.Search)) {
		where = append(where, sq.Expr(`instr(' ' || c.name_key || ' ' || lower(c.city), ?) > 0`, " "+word))
	}
	query, args, err := sq.Select("count(*)").From("companies c").Where(where).ToSql()
	if err != nil {
		return nil, 0, wrap("count companies", err)
	}
	total := 0
	if err := s.get(ctx, "count companies", &total, query, args...); err != nil {
		return nil, 0, err
	}
	query, args, err = sq.Select("c.id", "c.name", "c.city", "c.country", "c.industry", "coalesce(u.first_name || ' ' || u.last_name, '') AS owner",
		"(SELECT count(*) FROM people p WHERE p.company_id = c.id AND p.deleted_at IS NULL) AS people",
		"(SELECT count(*) FROM deals d WHERE d.company_id = c.id AND d.deleted_at IS NULL AND d.stage NOT IN ('won', 'lost')) AS deals").
		From("companies c").LeftJoin("users u ON u.id = c.owner_id").Where(where).OrderBy("c.name_key", "c.id").Limit(uint64(max(0, q.Limit))).Offset(uint64(max(0, q.Offset))).ToSql()
	if err != nil {
		return nil, 0, wrap("list companies", err)
	}
	rows := []domain.CompanyRow{}
	err = s.list(ctx, "list companies", &rows, query, args...)
	return rows, total, err
}

type companyRow struct {
	domain.Company
	NameKey string `db:"name_key"`
}
