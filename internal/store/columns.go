package store

import (
	"context"
	"encoding/json"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/filter"
	"lucidletter/internal/store/query"
)

// fillCells gives n records the values of columns, in canonical form; row tells the id of one
// and where its values go.
func (s *Store) fillCells(ctx context.Context, from string, columns []filter.TableColumn, value func(path string) sq.Sqlizer, n int, row func(i int) (int64, *[]string)) error {
	if n == 0 || len(columns) == 0 {
		return nil
	}
	ids, places := make([]int64, n), map[int64]*[]string{}
	for i := range ids {
		id, place := row(i)
		ids[i], places[id] = id, place
	}
	asked, err := writeJSON(ids)
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
	rows, err := s.reader(ctx).QueryContext(ctx, "SELECT k.value, json_array("+strings.Join(parts, ", ")+") FROM json_each(?) k CROSS JOIN "+from, append(args, asked)...)
	if err != nil {
		return wrap("read columns", err)
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		var id int64
		var text string
		var list []any
		if err := rows.Scan(&id, &text); err != nil {
			return wrap("read columns", err)
		}
		if err := json.Unmarshal([]byte(text), &list); err != nil {
			return wrap("read columns", err)
		}
		cells := make([]string, len(list))
		for i, v := range list {
			cells[i] = query.PlainText(v)
		}
		*places[id] = cells
	}
	return wrap("read columns", rows.Err())
}
