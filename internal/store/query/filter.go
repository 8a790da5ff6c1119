// Package query turns filters and columns of package filter into conditions and values of SQL, with
// bound values only. A person is p there, a company c, a deal d.
package query

import (
	"database/sql/driver"
	"fmt"
	"slices"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"
	"modernc.org/sqlite"

	"lucidletter/core/field"
	"lucidletter/core/filter"
)

// What SQL does not compare as people do is compared by the functions of package filter.
func init() {
	sqlite.MustRegisterDeterministicScalarFunction("value_holds", 5, func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
		value, _ := args[2].(string)
		today, err := time.Parse(time.DateOnly, fmt.Sprint(args[4]))
		return filter.ValueHolds(filter.Kind(fmt.Sprint(args[0])), filter.Op(fmt.Sprint(args[1])), value, fmt.Sprint(args[3]), today), err
	})
	sqlite.MustRegisterDeterministicScalarFunction("money_order", 1, func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
		text, _ := args[0].(string)
		return moneyOrder(text), nil
	})
	sqlite.MustRegisterDeterministicScalarFunction("money_text", 3, func(_ *sqlite.FunctionContext, args []driver.Value) (driver.Value, error) {
		minor, _ := args[0].(int64)
		code, _ := args[1].(string)
		if nothing, _ := args[2].(int64); minor == 0 && nothing == 0 {
			return "", nil
		}
		return field.MoneyOf(minor, code).String(), nil
	})
}

// Filtered is the condition of a filter on people p.
func Filtered(b filter.Bound) sq.Sqlizer { return part(&b, &b.Expr, true) }

// part is the condition of a part. Of tests that must all hold the one that fewest people fit, by
// its field, is looked up by an index, where byIndex; the others are tried on whom that finds.
func part(b *filter.Bound, e *filter.Expr, byIndex bool) sq.Sqlizer {
	switch {
	case len(e.All) > 0:
		best := 0
		for i := range e.All {
			if rank(&e.All[i]) < rank(&e.All[best]) {
				best = i
			}
		}
		out := sq.And{}
		for i := range e.All {
			out = append(out, part(b, &e.All[i], byIndex && i == best))
		}
		return out
	case len(e.Any) > 0:
		out := sq.Or{}
		for i := range e.Any {
			out = append(out, part(b, &e.Any[i], byIndex))
		}
		return out
	case e.Not != nil:
		return sq.Expr("NOT (?)", part(b, e.Not, false))
	case e.Test != nil:
		op, not := e.Test.Op.Positive()
		if c := tested(b, e.Test, op, byIndex && !not); not {
			return sq.Expr("NOT (?)", c)
		} else {
			return c
		}
	}
	return sq.Expr("1")
}

// events are the kinds of entries that a moment is one of.
var events = map[string]string{"opened": "('opened', 'document')", "clicked": "('clicked')", "answered": AnswersLetter}

// tested is the condition of one test without its "not"; it is never NULL.
func tested(b *filter.Bound, t *filter.Test, op filter.Op, byIndex bool) sq.Sqlizer {
	switch t.Field {
	case "kind":
		if op == filter.Filled {
			return sq.Expr("1")
		}
		return sq.Expr("p.kind = ?", t.Value)
	case "owner":
		if t.Value == "me" {
			return sq.Expr("p.owner_id IS ?", b.Me)
		}
		return sq.Expr("p.owner_id IS CAST(? AS INTEGER)", t.Value)
	case "created":
		return happened(b, t, op, "p.created_at")
	case "written":
		return sq.Expr("(p.last_letter_at IS NOT NULL AND ?)", happened(b, t, op, "p.last_letter_at"))
	case "opened", "clicked", "answered":
		return sq.Expr("EXISTS (SELECT 1 FROM history h WHERE h.person_id = p.id AND NOT h.machine AND h.kind IN "+events[t.Field]+" AND ?)", happened(b, t, op, "h.at"))
	case "bad":
		return sq.Expr("EXISTS (SELECT 1 FROM bad_addresses b WHERE b.email_key = p.email_key AND b.email_key <> '' AND b.deleted_at IS NULL)")
	case "optedout":
		return sq.Expr("(p.opted_out_at IS NOT NULL OR EXISTS (SELECT 1 FROM opt_outs o WHERE o.email_key = p.email_key AND o.email_key <> '' AND o.deleted_at IS NULL))")
	}
	compared := func(value sq.Sqlizer) sq.Sqlizer {
		if op == filter.Filled {
			return sq.Expr("trim(coalesce(?, '')) <> ''", value)
		}
		held := sq.Expr("value_holds(?, ?, coalesce(?, ''), ?, ?)", string(b.Kinds[t.Field]), string(op), value, t.Value, b.Now.UTC().Format(time.DateOnly))
		if quick := comparedPlainly(b.Kinds[t.Field], op, value, t.Value); quick != nil {
			return sq.Expr("CASE WHEN coalesce(?, '') GLOB '*[^ -~]*' THEN ? ELSE ? END", value, held, quick)
		}
		return held
	}
	value := valueOf(t.Field)
	if column := Indexed[t.Field]; column != "" && op == filter.Is && byIndex {
		if with := filter.Fold(t.Value); plain(with) {
			// Each side of the OR says all that its index says, so that both are taken.
			return sq.Expr("(p.deleted_at IS NULL AND trim(p."+column+") <> '' AND lower(trim(p."+column+")) = ? OR p.deleted_at IS NULL AND p."+column+" > '' AND p."+column+" GLOB '*[^ -~]*' AND value_holds(?, ?, p."+column+", ?, ?))",
				with, string(b.Kinds[t.Field]), string(op), t.Value, b.Now.UTC().Format(time.DateOnly))
		}
	}
	if strings.HasPrefix(t.Field, "deal.") {
		return sq.Expr("EXISTS (SELECT 1 FROM deals d WHERE d.deleted_at IS NULL AND (d.main_contact_id = p.id OR d.id IN (SELECT deal_id FROM deal_contacts WHERE person_id = p.id)) AND ?)", compared(value))
	}
	return compared(value)
}

// Indexed are the columns of people with an index by their words, lower(trim(column)).
var Indexed = map[string]string{"person.city": "city", "person.country": "country", "person.first_name": "first_name", "person.job_title": "job_title"}

// ranks are these, those first of which fewest people have the same value.
var ranks = []string{"person.first_name", "person.city", "person.job_title", "person.country"}

func rank(e *filter.Expr) int {
	if e.Test != nil && e.Test.Op == filter.Is {
		if at := slices.Index(ranks, e.Test.Field); at >= 0 {
			return at
		}
	}
	return len(ranks)
}

// plain tells whether words are of plain letters.
func plain(words string) bool {
	return words != "" && strings.IndexFunc(words, func(r rune) bool { return r < ' ' || r > '~' }) < 0
}

// comparedPlainly compares words of plain letters without the functions of package filter; nil
// when it cannot.
func comparedPlainly(kind filter.Kind, op filter.Op, value sq.Sqlizer, with string) sq.Sqlizer {
	with = filter.Fold(with)
	if kind != filter.Words && kind != filter.Choice || !plain(with) {
		return nil
	}
	switch op {
	case filter.Is:
		return sq.Expr("lower(trim(coalesce(?, ''))) = ?", value, with)
	case filter.Has:
		return sq.Expr("instr(lower(trim(coalesce(?, ''))), ?) > 0", value, with)
	case filter.Starts:
		return sq.Expr("instr(lower(trim(coalesce(?, ''))), ?) = 1", value, with)
	}
	return nil
}

// happened is the condition of a moment in a column that is not NULL.
func happened(b *filter.Bound, t *filter.Test, op filter.Op, column string) sq.Sqlizer {
	now := b.Now.UTC()
	days := 0
	_, _ = fmt.Sscan(t.Value, &days)
	switch op {
	case filter.InLast:
		return sq.Expr("("+column+" >= ? AND "+column+" < ?)", filter.DayAway(now, -days), filter.DayAway(now, 1))
	case filter.Before, filter.After:
		day, err := time.Parse(time.DateOnly, t.Value)
		switch {
		case err != nil:
			return sq.Expr("0")
		case op == filter.Before:
			return sq.Expr(column+" < ?", day)
		}
		return sq.Expr(column+" >= ?", day.AddDate(0, 0, 1))
	}
	return sq.Expr("1")
}

// ofPerson and its sisters are the columns of standard fields.
var ofPerson = columnsOf("person", "honorific", "first_name", "last_name", "email", "phone", "job_title", "city", "country", "language", "time_zone", "basis", "basis_since", "basis_source")
var ofCompany = columnsOf("company", "website", "industry", "employees", "phone", "street", "postal_code", "city", "country")
var ofDeal = columnsOf("deal", "name", "stage", "close_date")

func columnsOf(record string, names ...string) map[string]string {
	out := map[string]string{}
	for _, name := range names {
		out[record+"."+name] = name
	}
	return out
}

var ofKind = map[string]string{
	"lead.status": "p.lead_status", "lead.source": "p.lead_source", "lead.company_name": "p.company_name", "contact.department": "p.department", "contact.since": "p.contact_since",
}

// valueOf gives the value of a field of a person p, of its company, or of a deal d, in
// canonical form; NULL or "" when there is none.
func valueOf(path string) sq.Sqlizer {
	record, _, _ := strings.Cut(path, ".")
	company := func(value string, args ...any) sq.Sqlizer {
		return sq.Expr("(SELECT "+value+" FROM companies c WHERE c.id = p.company_id AND p.kind = 'contact' AND c.deleted_at IS NULL)", args...)
	}
	key := `$."` + path + `"`
	switch {
	case ofPerson[path] != "":
		return sq.Expr("p." + ofPerson[path])
	case ofKind[path] != "":
		return sq.Expr("CASE p.kind WHEN ? THEN "+ofKind[path]+" END", record)
	case path == "company.name":
		return sq.Expr("CASE p.kind WHEN 'lead' THEN p.company_name ELSE ? END", company("c.name"))
	case ofCompany[path] != "":
		return company("c." + ofCompany[path])
	case ofDeal[path] != "":
		return sq.Expr("d." + ofDeal[path])
	case path == "deal.amount":
		return sq.Expr("money_text(d.amount_minor, d.currency, d.zero_given)")
	case record == "deal":
		return sq.Expr("json_extract(d.own, ?)", key)
	case record == "company":
		return company("json_extract(c.own, ?)", key)
	case record == "person":
		return sq.Expr("json_extract(p.own, ?)", key)
	}
	return sq.Expr("CASE p.kind WHEN ? THEN json_extract(p.own, ?) END", record, key)
}
