package query

import (
	"strconv"
	"strings"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/core/field"
	"lucidletter/core/filter"
)

// moment writes a time as RFC 3339 does, nothing as nothing.
func moment(value string) string { return "strftime('%Y-%m-%dT%H:%M:%SZ', " + value + ")" }

const ownerName = "(SELECT u.first_name || ' ' || u.last_name FROM users u WHERE u.id = "

// PersonColumn is the value of a column of a person p.
func PersonColumn(path string) sq.Sqlizer {
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
		return sq.Expr("CASE WHEN ? THEN 'true' END", tested(&filter.Bound{}, &filter.Test{Field: path}, filter.Yes, false))
	}
	return valueOf(path)
}

// CompanyColumn is the value of a column of a company c, DealColumn of a deal d.
func CompanyColumn(path string) sq.Sqlizer {
	switch path {
	case "people":
		return sq.Expr("nullif((SELECT count(*) FROM people p WHERE p.company_id = c.id AND p.deleted_at IS NULL), 0)")
	case "deals":
		return sq.Expr("nullif((SELECT count(*) FROM deals d WHERE d.company_id = c.id AND d.deleted_at IS NULL AND " + OpenDeal + "), 0)")
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

func DealColumn(path string) sq.Sqlizer {
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

// SortedBy is what a list is sorted by for a column: words without their case, figures by
// what they are, choices in their order; NULL for who has none.
func SortedBy(f *filter.Field, value sq.Sqlizer) (order string, args []any) {
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

// LowerASCII is what lower of SQLite does.
func LowerASCII(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' {
			return r + 'a' - 'A'
		}
		return r
	}, s)
}

// PlainText is a value of a JSON array as text.
func PlainText(v any) string {
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
