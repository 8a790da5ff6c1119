package lists

import (
	"context"
	"encoding/json"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/filter"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// fillCells gives n records the values of columns, in canonical form; row tells the id of one
// and where its values go.
func (s *Table) fillCells(ctx context.Context, from string, columns []filter.TableColumn, value func(path string) sq.Sqlizer, n int, row func(i int) (int64, *[]string)) error {
	if n == 0 || len(columns) == 0 {
		return nil
	}
	ids, places := make([]int64, n), map[int64]*[]string{}
	for i := range ids {
		id, place := row(i)
		ids[i], places[id] = id, place
	}
	asked, err := database.Packed(ids)
	if err != nil {
		return err
	}
	parts, args := []string{}, []any{}
	for i := range columns {
		part, more, err := sq.Expr("coalesce(?, '')", value(columns[i].Path)).ToSql()
		if err != nil {
			return wrap("read columns", err)
		}
		parts, args = append(parts, part), append(args, more...)
	}
	var rows []struct {
		ID   int64  `db:"id"`
		Text string `db:"text"`
	}
	err = s.db.Ask(ctx, &rows, "SELECT k.value AS id, json_array("+strings.Join(parts, ", ")+") AS text FROM json_each(?) k CROSS JOIN "+from, append(args, asked)...)
	if err != nil {
		return wrap("read columns", err)
	}
	for i := range rows {
		var list []any
		if err := json.Unmarshal([]byte(rows[i].Text), &list); err != nil {
			return wrap("read columns", err)
		}
		cells := make([]string, len(list))
		for j, v := range list {
			cells[j] = query.PlainText(v)
		}
		*places[rows[i].ID] = cells
	}
	return nil
}
