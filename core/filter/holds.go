package filter

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"lucidletter/core/field"
)

// Person gives the values of one person by path, in canonical form: none or one, of deals one
// of each; of a Moment in RFC 3339; of an owner the number.
type Person func(path string) []string

// Holds tells whether a checked filter holds for a person, on a day, for a user: what the
// query of the store gives, worked out slowly.
func Holds(cat *field.Catalogue, e Expr, of Person, now time.Time, me int64) bool {
	each := func(one Expr) bool { return Holds(cat, one, of, now, me) }
	switch {
	case len(e.All) > 0:
		return !slices.ContainsFunc(e.All, func(one Expr) bool { return !each(one) })
	case len(e.Any) > 0:
		return slices.ContainsFunc(e.Any, each)
	case e.Not != nil:
		return !each(*e.Not)
	case e.Test != nil:
		op, not := e.Test.Op.Positive()
		kind := KindOf(cat, e.Test.Field)
		return not != slices.ContainsFunc(of(e.Test.Field), func(v string) bool { return holds(kind, op, v, e.Test.Value, now, me) })
	}
	return true
}

func holds(kind Kind, op Op, value, with string, now time.Time, me int64) bool {
	if strings.TrimSpace(value) == "" {
		return false
	}
	if op == Filled {
		return true
	}
	if op == Yes {
		return value == "true"
	}
	switch kind {
	case Words, Choice:
		value, with = Fold(value), Fold(with)
		return op == Is && value == with || op == Has && strings.Contains(value, with) || op == Starts && strings.HasPrefix(value, with)
	case Owner:
		if with == "me" {
			with = strconv.FormatInt(me, 10)
		}
		return value == with
	case Number, Money:
		t := field.Number
		if kind == Money {
			t = field.Money
		}
		a, err1 := field.Parse(t, value, nil)
		b, err2 := field.Parse(t, with, nil)
		order, ok := field.Compare(a, b)
		return err1 == nil && err2 == nil && ok && (op == Is && order == 0 || op == MoreThan && order > 0 || op == LessThan && order < 0)
	}
	day, _, _ := strings.Cut(value, "T")
	today := now.UTC().Format(time.DateOnly)
	days, _ := strconv.Atoi(with)
	switch op {
	case Is:
		return day == with
	case Before:
		return day < with
	case After:
		return day > with
	case InLast:
		return day >= DayAway(now.UTC(), -days).Format(time.DateOnly) && day <= today
	case InNext:
		return day >= today && day <= DayAway(now.UTC(), days).Format(time.DateOnly)
	}
	return false
}

// Bound is a checked filter with what its tests mean: how each field is compared, which day
// it is, who asks.
type Bound struct {
	Expr
	Kinds map[string]Kind
	Now   time.Time
	Me    int64
}

// Bind puts a checked filter together with what its tests mean.
func Bind(cat *field.Catalogue, e Expr, now time.Time, me int64) Bound {
	b := Bound{e, map[string]Kind{}, now, me}
	e.each(func(t *Test) { b.Kinds[t.Field] = KindOf(cat, t.Field) })
	return b
}

// Empty tells whether it holds for everybody.
func (e *Expr) Empty() bool {
	n := 0
	e.each(func(*Test) { n++ })
	return n == 0
}

func (e *Expr) each(do func(*Test)) {
	for _, list := range [][]Expr{e.All, e.Any} {
		for i := range list {
			list[i].each(do)
		}
	}
	if e.Not != nil {
		e.Not.each(do)
	}
	if e.Test != nil {
		do(e.Test)
	}
}

// ValueHolds tells whether one value compares so, as Holds does.
func ValueHolds(kind Kind, op Op, value, with string, now time.Time) bool {
	return holds(kind, op, value, with, now, 0)
}
