// Package filter says which people a list holds: a tree of tests on their fields, their
// company, their deals, their letters and what came back. In goes a tree or its text form,
// out come what is wrong with it, its text form, and whether it holds for given values. The
// store turns the same tree into a query.
//
// A test of the deals holds when it does for one of them. Every "not" is the opposite of the
// test without it, so that what is missing fits it. Words are compared without case and
// without spaces at their ends; days are those of the calendar.
//
// Limits: 60 tests, 8 deep, values of 200 bytes, 3650 days.
package filter

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"lucidletter/core/field"
)

// Limits of a filter.
const (
	MaxTests = 60
	MaxDepth = 8
	MaxValue = 200
	MaxDays  = 3650
)

// Expr is a filter: one of a test, all of some filters, any of some, or the opposite of one.
// The zero Expr holds for everybody.
type Expr struct {
	All  []Expr `json:"all,omitempty"`
	Any  []Expr `json:"any,omitempty"`
	Not  *Expr  `json:"not,omitempty"`
	Test *Test  `json:"test,omitempty"`
}

// Op is how a field is compared.
type Op string

// The comparisons. The words behind "not" are the opposite of those without.
const (
	Is       Op = "is"
	IsNot    Op = "is not"
	Has      Op = "has"
	HasNot   Op = "has not"
	Starts   Op = "starts"
	Filled   Op = "is filled"
	Missing  Op = "is missing"
	MoreThan Op = "more than"
	LessThan Op = "less than"
	Before   Op = "before"
	After    Op = "after"
	InLast   Op = "in last" // so many days; 0 is today
	NotLast  Op = "not in last"
	InNext   Op = "in next"
	Yes      Op = "yes"
	No       Op = "no"
)

// opposite gives the comparison that a "not" is the opposite of.
var opposite = map[Op]Op{IsNot: Is, HasNot: Has, Missing: Filled, NotLast: InLast, No: Yes}

// Positive gives the comparison without its "not", and whether there was one.
func (o Op) Positive() (Op, bool) {
	if p, ok := opposite[o]; ok {
		return p, true
	}
	return o, false
}

// Test compares one field. Value is in canonical form; days for InLast, NotLast, InNext; of
// an owner "me" or the number of a user.
type Test struct {
	Field string `json:"field"`
	Op    Op     `json:"op"`
	Value string `json:"value,omitempty"`
}

// Kind is how the values of a field are compared.
type Kind string

// The kinds.
const (
	Words  Kind = "words"
	Choice Kind = "choice"
	Number Kind = "number"
	Money  Kind = "money"
	Day    Kind = "day"
	Moment Kind = "moment" // of something that happened
	YesNo  Kind = "yesno"
	Owner  Kind = "owner"
)

var opsOf = map[Kind][]Op{
	Words: {Is, IsNot, Has, HasNot, Starts, Filled, Missing}, Choice: {Is, IsNot, Filled, Missing}, Number: {Is, IsNot, MoreThan, LessThan, Filled, Missing},
	Money: {Is, IsNot, MoreThan, LessThan, Filled, Missing}, Day: {Is, IsNot, Before, After, InLast, NotLast, InNext, Filled, Missing},
	Moment: {InLast, NotLast, Before, After, Filled, Missing}, YesNo: {Yes, No}, Owner: {Is, IsNot},
}

// Field is something that a filter can ask about.
type Field struct {
	Path    string   `json:"path"`
	Label   string   `json:"label"`
	Kind    Kind     `json:"kind" enum:"words,choice,number,money,day,moment,yesno,owner"`
	Ops     []Op     `json:"ops"`
	Choices []string `json:"choices"`
}

// The fields that no record has: what is known of people besides.
var besides = []Field{
	{Path: "kind", Label: "Kind", Kind: Choice, Choices: []string{"lead", "contact"}},
	{Path: "owner", Label: "Owner", Kind: Owner},
	{Path: "created", Label: "Added", Kind: Moment},
	{Path: "written", Label: "Written to", Kind: Moment},
	{Path: "opened", Label: "Opened a letter", Kind: Moment},
	{Path: "clicked", Label: "Followed a link", Kind: Moment},
	{Path: "answered", Label: "Answered", Kind: Moment},
	{Path: "bad", Label: "Address no longer works", Kind: YesNo},
	{Path: "optedout", Label: "Asked not to be written to", Kind: YesNo},
}

var kinds = map[field.Type]Kind{
	field.Text: Words, field.Long: Words, field.Email: Words, field.Phone: Words, field.URL: Words,
	field.Choice: Choice, field.Number: Number, field.Money: Money, field.Date: Day, field.YesNo: YesNo,
}

// Fields gives what a filter can ask about in a workspace: first what is known besides, then
// the fields of people, companies and deals.
func Fields(cat *field.Catalogue) []Field {
	out := []Field{}
	for _, f := range besides {
		f.Ops, f.Choices = opsOf[f.Kind], append([]string{}, f.Choices...)
		out = append(out, f)
	}
	for _, d := range cat.Fields() {
		if f, ok := fieldOf(d); ok {
			f.Label = cat.Name(d.Path)
			out = append(out, f)
		}
	}
	return out
}

func fieldOf(d field.Def) (Field, bool) {
	askable := slices.Contains([]field.Record{field.Person, field.Lead, field.Contact, field.Company, field.Deal}, d.Record) &&
		!strings.HasPrefix(d.Path, "deal.main_contact.") && !strings.HasSuffix(d.Path, ".created") && !slices.Contains([]string{"person.full_name", "person.kind"}, d.Path)
	kind := kinds[d.Type]
	return Field{d.Path, d.Label, kind, opsOf[kind], append([]string{}, d.Choices...)}, askable && kind != ""
}

// find gives the field of a path.
func find(cat *field.Catalogue, path string) (Field, bool) {
	for _, f := range besides {
		if f.Path == path {
			f.Ops = opsOf[f.Kind]
			return f, true
		}
	}
	ref, ok := cat.Find(path)
	if !ok || ref.Def.Path != path {
		return Field{}, false
	}
	return fieldOf(ref.Def)
}

// KindOf gives how a field is compared; "" when a filter cannot ask about it.
func KindOf(cat *field.Catalogue, path string) Kind {
	f, _ := find(cat, path)
	return f.Kind
}

// Error says what is wrong with a filter, and what to do.
type Error struct{ Why string }

func (e *Error) Error() string { return e.Why }

// Check gives the filter with its values in canonical form, or an *Error.
func Check(cat *field.Catalogue, e Expr) (Expr, error) {
	n := 0
	return check(cat, e, 1, &n)
}

func check(cat *field.Catalogue, e Expr, depth int, n *int) (out Expr, err error) {
	if depth > MaxDepth {
		return e, &Error{fmt.Sprintf("the filter is nested deeper than %d; take some brackets out", MaxDepth)}
	}
	parts := 0
	for _, there := range []bool{len(e.All) > 0, len(e.Any) > 0, e.Not != nil, e.Test != nil} {
		if there {
			parts++
		}
	}
	if parts > 1 {
		return e, &Error{"a part of the filter is a test, all of some, any of some or not one; it is several of these"}
	}
	list := func(of []Expr) (all []Expr, err error) {
		for i := range of {
			one, err := check(cat, of[i], depth+1, n)
			if err != nil {
				return nil, err
			}
			all = append(all, one)
		}
		return all, nil
	}
	switch {
	case len(e.All) > 0:
		out.All, err = list(e.All)
	case len(e.Any) > 0:
		out.Any, err = list(e.Any)
	case e.Not != nil:
		one, err := check(cat, *e.Not, depth+1, n)
		return Expr{Not: &one}, err
	case e.Test != nil:
		if *n++; *n > MaxTests {
			return e, &Error{fmt.Sprintf("the filter has more than %d conditions; make two lists of it", MaxTests)}
		}
		t, err := e.Test.check(cat)
		return Expr{Test: &t}, err
	}
	return out, err
}

func (t Test) check(cat *field.Catalogue) (Test, error) {
	f, ok := find(cat, t.Field)
	switch {
	case !ok:
		return t, &Error{fmt.Sprintf("there is no field %s to filter by; it may have been deleted, choose another", t.Field)}
	case !slices.Contains(f.Ops, t.Op):
		return t, &Error{fmt.Sprintf("%s cannot be compared by “%s”; choose another comparison", f.Label, t.Op)}
	case len(t.Value) > MaxValue:
		return t, &Error{fmt.Sprintf("what %s is compared with is longer than %d bytes", f.Label, MaxValue)}
	}
	given := strings.TrimSpace(t.Value)
	switch p, _ := t.Op.Positive(); {
	case p == Filled || p == Yes:
		t.Value = ""
		return t, nil
	case given == "":
		return t, &Error{fmt.Sprintf("%s is compared with nothing; write what, or choose “is missing”", f.Label)}
	case p == InLast || p == InNext:
		days, err := strconv.Atoi(given)
		if err != nil || days < 0 || days > MaxDays {
			return t, &Error{fmt.Sprintf("%q is no number of days from 0 to %d", given, MaxDays)}
		}
		t.Value = strconv.Itoa(days)
		return t, nil
	case f.Kind == Owner:
		if id, err := strconv.ParseInt(given, 10, 64); given != "me" && (err != nil || id < 1) {
			return t, &Error{fmt.Sprintf("%q is no colleague; choose one, or me", given)}
		}
		t.Value = given
		return t, nil
	case p == Before || p == After:
		v, err := field.ParseGiven(field.Def{Path: t.Field, Label: f.Label, Type: field.Date}, given, "")
		if err != nil {
			return t, &Error{fmt.Sprintf("%s: %v", f.Label, err)}
		}
		t.Value = v.String()
		return t, nil
	case f.Kind == Words:
		t.Value = given
		return t, nil
	case f.Kind == Choice:
		if len(f.Choices) > 0 && !slices.Contains(f.Choices, given) {
			return t, &Error{fmt.Sprintf("%s is never %q; choose one of %s", f.Label, given, strings.Join(f.Choices, ", "))}
		}
		t.Value = given
		return t, nil
	}
	ref, _ := cat.Find(t.Field)
	v, err := field.ParseGiven(ref.Def, given, "")
	if err != nil {
		return t, &Error{fmt.Sprintf("%s: %v", f.Label, err)}
	}
	t.Value = v.String()
	return t, nil
}

// Fold is the form under which two words are the same.
func Fold(s string) string { return strings.ToLower(strings.TrimSpace(s)) }

// DayAway is the first moment of the calendar day so many days away.
func DayAway(now time.Time, days int) time.Time {
	return time.Date(now.Year(), now.Month(), now.Day()+days, 0, 0, 0, 0, time.UTC)
}
