package store

import (
	"context"
	"encoding/json"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/filter"
	"lucidletter/internal/store/query"
)

// cells gives the values of columns of some records by their ids, in canonical form.
func (s *Store) cells(ctx context.Context, from string, ids []int64, columns []filter.TableColumn, value func(path string) sq.Sqlizer) (map[int64][]string, error) {
	if len(ids) == 0 || len(columns) == 0 {
		return nil, nil
	}
	asked, err := writeJSON(ids)
	if err != nil {
		return nil, err
	}
	parts, args := []string{}, []any{}
	for i := range columns {
		part, more, err := sq.Expr("coalesce(?, '')", value(columns[i].Path)).ToSql()
		if err != nil {
			return nil, wrap("read columns", err)
		}
		parts, args = append(parts, part), append(args, more...)
	}
	rows, err := s.reader(ctx).QueryContext(ctx, "SELECT k.value, json_array("+strings.Join(parts, ", ")+") FROM json_each(?) k CROSS JOIN "+from, append(args, asked)...)
	if err != nil {
		return nil, wrap("read columns", err)
	}
	defer func() { _ = rows.Close() }()
	out := map[int64][]string{}
	for rows.Next() {
		var id int64
		var text string
		var list []any
		if err := rows.Scan(&id, &text); err != nil {
			return nil, wrap("read columns", err)
		}
		if err := json.Unmarshal([]byte(text), &list); err != nil {
			return nil, wrap("read columns", err)
		}
		out[id] = make([]string, len(list))
		for i, v := range list {
			out[id][i] = query.PlainText(v)
		}
	}
	return out, wrap("read columns", rows.Err())
}
