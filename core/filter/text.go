package filter

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// The text form of a filter, as the API, the command line and addresses take it:
//
//	filter    = any
//	any       = all { "or" all }
//	all       = one { "and" one }
//	one       = "not" one | "(" filter ")" | test
//	test      = path comparison [ value ]
//	value     = "…" with \" and \\ in it, or a word without spaces
//
// such as: kind is lead and (person.city is "York" or person.job_title is missing).
// The words are those of Op; behind "in last 14" and the like stands "days". An empty text
// holds for everybody.

// Print gives the text form.
func Print(e Expr) string { return write(e, 0) }

const (
	inAny = 1
	inAll = 2
	inNot = 3
)

func write(e Expr, in int) string {
	join := func(list []Expr, word string, level int) string {
		var parts []string
		for _, one := range list {
			if s := write(one, level); s != "" {
				parts = append(parts, s)
			}
		}
		s := strings.Join(parts, " "+word+" ")
		if len(parts) > 1 && in > 0 {
			s = "(" + s + ")"
		}
		return s
	}
	switch {
	case len(e.All) > 0:
		return join(e.All, "and", inAll)
	case len(e.Any) > 0:
		return join(e.Any, "or", inAny)
	case e.Not != nil:
		return "not " + write(*e.Not, inNot)
	case e.Test != nil:
		return e.Test.String()
	}
	return ""
}

// String gives the text form of a test.
func (t Test) String() string {
	s := t.Field + " " + string(t.Op)
	switch p, _ := t.Op.Positive(); p {
	case Filled, Yes:
		return s
	case InLast, InNext:
		return s + " " + t.Value + " days"
	}
	return s + " " + strconv.Quote(t.Value)
}

// byLength are the comparisons as they are looked for: "is not" before "is".
var byLength = func() []Op {
	list := []Op{Is, IsNot, Has, HasNot, Starts, Filled, Missing, MoreThan, LessThan, Before, After, InLast, NotLast, InNext, Yes, No}
	slices.SortFunc(list, func(a, b Op) int { return len(b) - len(a) })
	return list
}()

type token struct {
	text   string
	quoted bool
	at     int
}

type parser struct {
	tokens []token
	at     int
	depth  int
}

// Parse reads the text form, or gives an *Error with the place. What the fields are is left
// to Check.
func Parse(text string) (Expr, error) {
	if len(text) > 64*MaxValue {
		return Expr{}, &Error{fmt.Sprintf("the filter is longer than %d bytes", 64*MaxValue)}
	}
	tokens, err := scan(text)
	if err != nil || len(tokens) == 0 {
		return Expr{}, err
	}
	p := &parser{tokens: tokens}
	e, err := p.any()
	if err == nil && p.at < len(p.tokens) {
		err = p.wrong("“and”, “or” or the end")
	}
	return e, err
}

func scan(text string) ([]token, error) {
	var out []token
	for i := 0; i < len(text); {
		r, size := utf8.DecodeRuneInString(text[i:])
		switch {
		case unicode.IsSpace(r):
			i += size
		case r == '(' || r == ')':
			out = append(out, token{string(r), false, i})
			i++
		case r == '"':
			quoted, err := strconv.QuotedPrefix(text[i:])
			if err != nil {
				return nil, &Error{fmt.Sprintf("at %d: the quotation mark is not closed, or what stands behind \\ is not known", i+1)}
			}
			words, err := strconv.Unquote(quoted)
			if err != nil {
				return nil, &Error{fmt.Sprintf("at %d: what stands between the quotation marks cannot be read", i+1)}
			}
			out = append(out, token{words, true, i})
			i += len(quoted)
		default:
			n := strings.IndexFunc(text[i:], func(r rune) bool { return unicode.IsSpace(r) || r == '(' || r == ')' || r == '"' })
			if n < 0 {
				n = len(text) - i
			}
			out = append(out, token{text[i : i+n], false, i})
			i += n
		}
	}
	return out, nil
}

func (p *parser) is(word string) bool {
	return p.at < len(p.tokens) && !p.tokens[p.at].quoted && p.tokens[p.at].text == word
}

func (p *parser) wrong(want string) error {
	if p.at >= len(p.tokens) {
		return &Error{"the filter ends where " + want + " should stand"}
	}
	t := p.tokens[p.at]
	return &Error{fmt.Sprintf("at %d: %q stands where %s should", t.at+1, t.text, want)}
}

func (p *parser) any() (Expr, error) {
	return p.list("or", p.all, func(l []Expr) Expr { return Expr{Any: l} })
}

func (p *parser) all() (Expr, error) {
	return p.list("and", p.one, func(l []Expr) Expr { return Expr{All: l} })
}

func (p *parser) list(word string, next func() (Expr, error), of func([]Expr) Expr) (Expr, error) {
	first, err := next()
	if err != nil || !p.is(word) {
		return first, err
	}
	list := []Expr{first}
	for p.is(word) {
		p.at++
		one, err := next()
		if err != nil {
			return one, err
		}
		list = append(list, one)
	}
	return of(list), nil
}

func (p *parser) one() (Expr, error) {
	if p.depth++; p.depth > 4*MaxDepth {
		return Expr{}, &Error{fmt.Sprintf("the filter is nested deeper than %d; take some brackets out", MaxDepth)}
	}
	defer func() { p.depth-- }()
	switch {
	case p.is("not"):
		p.at++
		e, err := p.one()
		return Expr{Not: &e}, err
	case p.is("("):
		p.at++
		e, err := p.any()
		if err != nil {
			return e, err
		}
		if !p.is(")") {
			return e, p.wrong("“and”, “or” or “)”")
		}
		p.at++
		return e, nil
	}
	return p.test()
}

func (p *parser) test() (Expr, error) {
	if p.at >= len(p.tokens) || p.tokens[p.at].quoted || slices.Contains([]string{")", "and", "or"}, p.tokens[p.at].text) {
		return Expr{}, p.wrong("a field such as person.city")
	}
	t := Test{Field: p.tokens[p.at].text}
	p.at++
	for _, op := range byLength {
		if p.takes(op) {
			t.Op = op
			break
		}
	}
	if t.Op == "" {
		return Expr{}, p.wrong("a comparison such as is, has or in last")
	}
	switch positive, _ := t.Op.Positive(); positive {
	case Filled, Yes:
		return Expr{Test: &t}, nil
	default:
		if p.at >= len(p.tokens) || !p.tokens[p.at].quoted && (p.is("(") || p.is(")")) {
			return Expr{}, p.wrong("what it is compared with")
		}
		t.Value = p.tokens[p.at].text
		p.at++
		if (positive == InLast || positive == InNext) && (p.is("days") || p.is("day")) {
			p.at++
		}
	}
	return Expr{Test: &t}, nil
}

// takes goes on behind the words of a comparison when they stand here.
func (p *parser) takes(op Op) bool {
	words := strings.Fields(string(op))
	if p.at+len(words) > len(p.tokens) {
		return false
	}
	for i, w := range words {
		if t := p.tokens[p.at+i]; t.quoted || t.text != w {
			return false
		}
	}
	p.at += len(words)
	return true
}
