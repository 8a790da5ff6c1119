package markup

import (
	"fmt"
	"regexp"
	"strings"

	"lucidletter/core/document"
)

// The comparisons of an only-when; "" asks whether the field is filled.
var conditionForm = regexp.MustCompile(`^(\S+?)\s*(?:(=|!=|<=|>=|<|>)\s*(.+)|\bin\s*\((.*)\))?$`)

// ReadCondition reads `path`, `path op literal` and `path in (a, b)`.
func ReadCondition(s string, not bool) (document.Node, error) {
	m := conditionForm.FindStringSubmatch(strings.TrimSpace(s))
	if m == nil || !pathForm.MatchString(m[1]) {
		return document.Node{}, fmt.Errorf("%q is not a condition; write it as deal.amount, deal.amount >= 10000 EUR or deal.stage in (quoted, agreed)", s)
	}
	a := &document.Attrs{Path: m[1], Not: not, Op: m[2]}
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
			return document.Node{}, fmt.Errorf("the list of %s in () is empty", a.Path)
		}
	}
	return document.Node{Type: document.When, Attrs: a}, nil
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

// PrintCondition writes a condition in the text form, without its braces.
func PrintCondition(a *document.Attrs) string {
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
