package store

import (
	"context"
	"slices"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
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

// Companies gives a window of the companies in which every word of a search begins a word
// of the name or the city, and how many fit.
func (s *Store) Companies(ctx context.Context, q domain.RecordsQuery) ([]domain.CompanyRow, int, error) {
	where := sq.And{sq.Expr("c.deleted_at IS NULL")}
	for word := range strings.FieldsSeq(nameKey(q.Search)) {
		where = append(where, sq.Expr(`instr(' ' || c.name_key || ' ' || lower(c.city), ?) > 0`, " "+word))
	}
	sel := sq.Select("c.id", "c.name", "c.city").From("companies c").Where(where)
	rows := []domain.CompanyRow{}
	total, err := s.window(ctx, &q, sel, &rows, query.CompanyColumn, "c.name_key", "c.id")
	if err != nil {
		return nil, 0, err
	}
	return rows, total, s.fillCells(ctx, "companies c ON c.id = k.value", q.Columns, query.CompanyColumn, len(rows), func(i int) (int64, *[]string) { return rows[i].ID, &rows[i].Cells })
}

// window reads a window of records into rows, and counts how many fit. They are sorted by the
// column of the query, else as usual.
func (s *Store) window(ctx context.Context, q *domain.RecordsQuery, sel sq.SelectBuilder, rows any, value func(path string) sq.Sqlizer, usual ...string) (total int, err error) {
	text, args, err := sq.Select("count(*)").FromSelect(sel, "x").ToSql()
	if err == nil {
		err = s.once(ctx, &total, text, args...)
	}
	if err != nil {
		return 0, wrap("count records", err)
	}
	if q.By.Path != "" {
		order, more := query.SortedBy(&q.By, value(q.By.Path))
		sel = sel.OrderByClause("("+order+") IS NULL, "+order+map[bool]string{false: " ASC", true: " DESC"}[q.Down], append(slices.Clone(more), more...)...)
	}
	text, args, err = sel.OrderBy(usual...).Limit(uint64(max(0, q.Limit))).Offset(uint64(max(0, q.Offset))).ToSql()
	if err == nil {
		err = s.once(ctx, rows, text, args...)
	}
	return total, wrap("list records", err)
}

type companyRow struct {
	domain.Company
	NameKey string `db:"name_key"`
}
