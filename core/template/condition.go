package template

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
)

// condition is an only-when made ready: its field and typed literals.
type condition struct {
	slot     int
	names    field.Record
	not      bool
	op       string
	values   []field.Value
	fromDay  []bool // the value counts days from today
	impossib bool   // could not be understood; never holds
	path     string
	label    string // of its field
}

var todayForm = regexp.MustCompile(`^today(?:\s*([+-])\s*(\d{1,5}))?$`)

// compileLiteral types a literal by its field. Days from today come as a date
// value whose units are the difference.
func compileLiteral(d field.Def, s string) (v field.Value, fromToday bool, err error) {
	if d.Type == field.Date {
		if m := todayForm.FindStringSubmatch(s); m != nil {
			days, _ := strconv.ParseInt(m[2], 10, 64) // none is 0
			if m[1] == "-" {
				days = -days
			}
			return field.Value{Type: field.Date, Units: days}, true, nil
		}
	}
	t := d.Type
	if t == field.Email || t == field.URL || t == field.Phone || t == field.Long {
		t = field.Text
	}
	if v, err = field.Parse(t, s, d.Choices); err != nil && (t == field.Number || t == field.Money) {
		v, err = field.ParseTyped(t, s)
	}
	return v, false, err
}

// undecided tells why a condition cannot be decided, or "": an amount is in another
// currency than the one that it is compared with.
func (c *condition) undecided(v *field.Values) string {
	if c.impossib || !strings.ContainsAny(c.op, "<>") || !v.Serves(c.names) {
		return ""
	}
	have := v.At(c.slot)
	if have.Type != field.Money {
		return ""
	}
	for _, want := range c.values {
		if _, same := field.Compare(have, want); !same {
			return fmt.Sprintf("%s is in %s, and the template compares it with an amount in %s. Write what should stand here, or delete this.", c.label, have.Text, want.Text)
		}
	}
	return ""
}

// openGap is what stands in a letter for an only-when that cannot be decided.
func (c *condition) openGap(why string) *document.Attrs {
	return &document.Attrs{Path: "?only when " + c.path, Label: "Only when " + c.label, Kind: document.BlankLong, Hint: why}
}

// holds tells whether the condition is met.
func (c *condition) holds(v *field.Values) bool {
	if c.impossib {
		return false
	}
	have := field.Value{}
	if v.Serves(c.names) {
		have = v.At(c.slot)
	}
	// "!=" is the opposite of "=", also for what is missing or cannot be
	// compared.
	return c.met(have, v) != (c.not != (c.op == "!="))
}

func (c *condition) met(have field.Value, v *field.Values) bool {
	if c.op == "" {
		return have.Filled()
	}
	for i, want := range c.values {
		if c.fromDay[i] {
			today := v.Get("today")
			if !today.Filled() {
				return false
			}
			want.Units += today.Units
		}
		order, same := field.Compare(have, want)
		if same && holdsOrder(c.op, order) {
			return true
		}
	}
	return false
}

func holdsOrder(op string, order int) bool {
	switch op {
	case "=", "!=", "in":
		return order == 0
	case "<":
		return order < 0
	case "<=":
		return order <= 0
	case ">":
		return order > 0
	}
	return order >= 0
}

// ordered tells whether less and greater make sense for a type.
func ordered(t field.Type) bool { return t == field.Number || t == field.Money || t == field.Date }
