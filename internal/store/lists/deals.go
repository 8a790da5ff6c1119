package lists

import (
	"context"
	"fmt"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/query"
)

// DealColumns are the columns of a deal, of deals d.
const DealColumns = `d.id, d.name, d.company_id, d.main_contact_id, d.stage, d.amount_minor, d.zero_given, d.currency, d.close_date, d.owner_id, d.own, d.created_at, d.deleted_at`

func dealRows() sq.SelectBuilder {
	return sq.Select(DealColumns, "coalesce(c.name, '') AS company", "coalesce(trim(p.first_name || ' ' || p.last_name), '') AS contact",
		"coalesce(u.first_name || ' ' || u.last_name, '') AS owner").
		From("deals d").LeftJoin("companies c ON c.id = d.company_id AND c.deleted_at IS NULL").LeftJoin("people p ON p.id = d.main_contact_id AND p.deleted_at IS NULL").LeftJoin("users u ON u.id = d.owner_id")
}

// Deals gives a window of the deals in which every word of a search stands, and how many fit.
// By themselves the open ones come first, those that close first at the top.
func (s *Table) Deals(ctx context.Context, q domain.RecordsQuery) ([]domain.DealRow, int, error) {
	sel := dealRows().Where("d.deleted_at IS NULL")
	for word := range strings.FieldsSeq(q.Search) {
		sel = sel.Where("instr(lower(d.name || ' ' || d.stage || ' ' || coalesce(c.name, '') || ' ' || coalesce(p.first_name || ' ' || p.last_name, '')), ?) > 0", strings.ToLower(word))
	}
	rows := []domain.DealRow{}
	total, err := s.window(ctx, &q, sel, &rows, query.DealColumn, "NOT ("+query.OpenDeal+")", "d.close_date = ''", "d.close_date", "d.id")
	if err != nil {
		return nil, 0, err
	}
	return rows, total, s.fillCells(ctx, "deals d ON d.id = k.value", q.Columns, query.DealColumn, len(rows), func(i int) (int64, *[]string) { return rows[i].ID, &rows[i].Cells })
}

// DealRow gives one deal as lists show it.
func (s *Table) DealRow(ctx context.Context, id int64) (d domain.DealRow, err error) {
	query, args, err := dealRows().Where(sq.Eq{"d.id": id}).ToSql()
	if err != nil {
		return d, fmt.Errorf("load deal: %w", err)
	}
	err = s.db.Get(ctx, "load deal", &d, query, args...)
	return d, err
}

// CompanyDeals lists the deals with a company, the open ones first.
func (s *Table) CompanyDeals(ctx context.Context, id int64) ([]domain.DealRow, error) {
	query, args, err := dealRows().Where(sq.Eq{"d.company_id": id}).Where("d.deleted_at IS NULL").OrderBy("NOT ("+query.OpenDeal+")", "d.close_date", "d.id").Limit(200).ToSql()
	if err != nil {
		return nil, wrap("list deals of company", err)
	}
	rows := []domain.DealRow{}
	err = s.db.Select(ctx, "list deals of company", &rows, query, args...)
	return rows, err
}
