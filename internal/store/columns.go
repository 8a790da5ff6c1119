package store

import (
	"context"
	"encoding/json"
	"strconv"
	"strings"
	"sync"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/field"
	"lucidletter/core/filter"
)

// moment writes a time as RFC 3339 does, nothing as nothing.
func moment(value string) string { return "strftime('%Y-%m-%dT%H:%M:%SZ', " + value + ")" }

const ownerName = "(SELECT u.first_name || ' ' || u.last_name FROM users u WHERE u.id = "

// columnValue is the value of a column of a person p.
func columnValue(path string) sq.Sqlizer {
	happened := func(kinds string) sq.Sqlizer {
		return sq.Expr(moment("(SELECT max(h.at) FROM history h WHERE h.person_id = p.id AND NOT h.machine AND h.kind IN " + kinds + ")"))
	}
	switch path {
	case "kind":
		return sq.Expr("p.kind")
	case "status":
		return sq.Expr("CASE p.kind WHEN 'lead' THEN p.lead_status ELSE 'contact' END")
	case "owner":
		return sq.Expr(ownerName + "p.owner_id)")
	case "letter":
		return sq.Expr("p.last_subject")
	case "written":
		return sq.Expr(moment("p.last_letter_at"))
	case "created":
		return sq.Expr(moment("p.created_at"))
	case "opened", "clicked", "answered":
		return happened(events[path])
	case "bad", "optedout":
		return sq.Expr("CASE WHEN ? THEN 'true' END", tested(&filter.Bound{}, &filter.Test{Field: path}, filter.Yes))
	}
	return valueOf(path)
}

// companyValue is the value of a column of a company c, dealValue of a deal d.
func companyValue(path string) sq.Sqlizer {
	switch path {
	case "people":
		return sq.Expr("nullif((SELECT count(*) FROM people p WHERE p.company_id = c.id AND p.deleted_at IS NULL), 0)")
	case "deals":
		return sq.Expr("nullif((SELECT count(*) FROM deals d WHERE d.company_id = c.id AND d.deleted_at IS NULL AND d.stage NOT IN ('won', 'lost')), 0)")
	case "owner":
		return sq.Expr(ownerName + "c.owner_id)")
	case "created":
		return sq.Expr(moment("c.created_at"))
	}
	if path == "company.name" {
		return sq.Expr("c.name")
	}
	if ofCompany[path] != "" {
		return sq.Expr("c." + ofCompany[path])
	}
	return sq.Expr("json_extract(c.own, ?)", `$."`+path+`"`)
}

func dealValue(path string) sq.Sqlizer {
	switch path {
	case "company":
		return sq.Expr("(SELECT c.name FROM companies c WHERE c.id = d.company_id AND c.deleted_at IS NULL)")
	case "contact":
		return sq.Expr("(SELECT trim(p.first_name || ' ' || p.last_name) FROM people p WHERE p.id = d.main_contact_id AND p.deleted_at IS NULL)")
	case "owner":
		return sq.Expr(ownerName + "d.owner_id)")
	case "created":
		return sq.Expr(moment("d.created_at"))
	}
	return valueOf(path)
}

// sortedBy is what a list is sorted by for a column: words without their case, figures by
// what they are, choices in their order; NULL for who has none.
func sortedBy(f *filter.Field, value sq.Sqlizer) (order string, args []any) {
	var by sq.Sqlizer
	switch {
	case f.Kind == filter.Number:
		by = sq.Expr("CAST(nullif(?, '') AS REAL)", value)
	case f.Kind == filter.Money:
		by = sq.Expr("money_order(coalesce(?, ''))", value)
	case f.Kind == filter.Choice && len(f.Choices) > 0:
		parts, among := strings.Builder{}, []any{value}
		parts.WriteString("CASE ?")
		for i, c := range f.Choices {
			parts.WriteString(" WHEN ? THEN ?")
			among = append(among, c, i)
		}
		by = sq.Expr(parts.String()+" END", among...)
	default:
		by = sq.Expr("nullif(lower(trim(?)), '')", value)
	}
	order, args, err := by.ToSql()
	if err != nil {
		return "NULL", nil
	}
	return order, args
}

// moneyOrder is a text that sorts sums as people do: by currency, then by how much; nil of
// none.
func moneyOrder(text string) any {
	v, err := field.Parse(field.Money, text, nil)
	if err != nil || v.Type == "" {
		return nil
	}
	return field.OrderKey(v)
}

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
