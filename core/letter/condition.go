package letter

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"lucidletter/core/field"
)

// The comparisons of an only-when; "" asks whether the field is filled.
var conditionForm = regexp.MustCompile(`^(\S+?)\s*(?:(=|!=|<=|>=|<|>)\s*(.+)|\bin\s*\((.*)\))?$`)

// readCondition reads `path`, `path op literal` and `path in (a, b)`.
func readCondition(s string, not bool) (Node, error) {
	m := conditionForm.FindStringSubmatch(strings.TrimSpace(s))
	if m == nil || !pathForm.MatchString(m[1]) {
		return Node{}, fmt.Errorf("%q is not a condition; write it as deal.amount, deal.amount >= 10000 EUR or deal.stage in (quoted, agreed)", s)
	}
	a := &Attrs{Path: m[1], Not: not, Op: m[2]}
	switch {
	case m[2] != "":
		a.Literals = []string{readLiteral(m[3])}
	case strings.HasSuffix(strings.TrimSpace(s), ")"):
		a.Op = "in"
		for _, part := range splitList(m[4]) {
			if lit := readLiteral(part); lit != "" {
				a.Literals = append(a.Literals, lit)
			}
		}
		if len(a.Literals) == 0 {
			return Node{}, fmt.Errorf("the list of %s in () is empty", a.Path)
		}
	}
	return Node{Type: When, Attrs: a}, nil
}

// readLiteral gives a literal without its quotes.
func readLiteral(s string) string {
	s = strings.TrimSpace(s)
	if len(s) >= 2 && s[0] == '"' && s[len(s)-1] == '"' {
		return unescape(s[1 : len(s)-1])
	}
	return s
}

// splitList splits at commas outside quotes.
func splitList(s string) []string {
	var out []string
	start, quoted := 0, false
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '\\':
			i++
		case s[i] == '"':
			quoted = !quoted
		case s[i] == ',' && !quoted:
			out = append(out, s[start:i])
			start = i + 1
		}
	}
	return append(out, s[start:])
}

func printCondition(a *Attrs) string {
	switch a.Op {
	case "":
		return a.Path
	case "in":
		quoted := make([]string, len(a.Literals))
		for i, l := range a.Literals {
			quoted[i] = printLiteral(l)
		}
		return a.Path + " in (" + strings.Join(quoted, ", ") + ")"
	}
	if len(a.Literals) == 0 {
		return a.Path + " " + a.Op
	}
	return a.Path + " " + a.Op + " " + printLiteral(a.Literals[0])
}

var bareLiteral = regexp.MustCompile(`^[A-Za-z0-9.+-]+( [A-Z]{3})?$`)

func printLiteral(l string) string {
	if bareLiteral.MatchString(l) {
		return l
	}
	return `"` + escapeArg(l) + `"`
}

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
func (c *condition) openGap(why string) *Attrs {
	return &Attrs{Path: "?only when " + c.path, Label: "Only when " + c.label, Kind: BlankLong, Hint: why}
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
