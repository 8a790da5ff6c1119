package store

import (
	"context"
	"encoding/json"
	"strconv"
	"strings"
	"sync"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/filter"
)

// plainText is a value of a JSON array as text.
func plainText(v any) string {
	switch v := v.(type) {
	case string:
		return v
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case bool:
		return strconv.FormatBool(v)
	}
	return ""
}

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
			out[id][i] = plainText(v)
		}
	}
	return out, wrap("read columns", rows.Err())
}

// foundLists keeps the ids of lists that were found a moment ago, so that somebody who goes
// through one does not have it found for every page. A list holds as long as nobody is added
// or changed, and keptFor at most: what came back changes lists too.
type foundLists struct {
	mu      sync.Mutex
	edition int64
	lists   map[string]foundList
	held    int // ids in all
}

type foundList struct {
	ids []int64
	at  time.Time
}

const keptFor, mostHeld = 10 * time.Second, 3_000_000

func foundKey(query string, args []any) string {
	text, _ := json.Marshal(args) // of strings, numbers and times
	return query + string(text)
}

func (f *foundLists) of(edition int64, query string, args []any) ([]int64, bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	l, ok := f.lists[foundKey(query, args)]
	return l.ids, ok && f.edition == edition && time.Since(l.at) < keptFor
}

func (f *foundLists) keep(edition int64, query string, args []any, ids []int64) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.edition != edition || f.lists == nil || f.held+len(ids) > mostHeld {
		f.edition, f.lists, f.held = edition, map[string]foundList{}, 0
	}
	if len(ids) > mostHeld {
		return
	}
	key := foundKey(query, args)
	f.held += len(ids) - len(f.lists[key].ids)
	f.lists[key] = foundList{ids, time.Now()}
}
