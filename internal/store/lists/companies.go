package lists

import (
	"context"
	"slices"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

// NameKey is the form under which two names of a company are the same.
func NameKey(name string) string { return strings.Join(strings.Fields(strings.ToLower(name)), " ") }

// Companies gives a window of the companies in which every word of a search begins a word
// of the name or the city, and how many fit.
func (s *Table) Companies(ctx context.Context, q domain.RecordsQuery) ([]domain.CompanyRow, int, error) {
	where := sq.And{sq.Expr("c.deleted_at IS NULL")}
	for word := range strings.FieldsSeq(NameKey(q.Search)) {
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
func (s *Table) window(ctx context.Context, q *domain.RecordsQuery, sel sq.SelectBuilder, rows any, value func(path string) sq.Sqlizer, usual ...string) (total int, err error) {
	text, args, err := sq.Select("count(*)").FromSelect(sel, "x").ToSql()
	if err == nil {
		err = s.db.Ask(ctx, &total, text, args...)
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
		err = s.db.Ask(ctx, rows, text, args...)
	}
	return total, wrap("list records", err)
}
