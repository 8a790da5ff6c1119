package field

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"
)

// What people type when they have nothing to type (common practice, no source).
// Real people are called Test, Null, None and Na; whoever says so is believed
// for that record.
var junkWords = []string{
	"n/a", "na", "n.a", "none", "null", "nil", "unknown", "unbekannt", "inconnu", "test", "testing", "tbd", "tba", "todo", "xxx", "xx", "x",
	"asdf", "abc", "nn", "n.n", "keine", "kein", "nothing", "no name", "noname", "not available", "not known", "no data", "dummy", "undefined", "nan", "string",
}

// Junk tells whether a value stands for a missing one: a word such as "n/a", signs
// alone, or an email address where a name belongs.
func Junk(d Def, v Value) bool {
	if !v.Type.Textual() && v.Type != Phone || v.Text == "" || v.Type == Choice {
		return false
	}
	s := strings.ToLower(strings.TrimSpace(v.Text))
	if !strings.ContainsFunc(s, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsNumber(r) }) {
		return true
	}
	if slices.Contains(junkWords, strings.Trim(s, ".()[]<>*-_ ")) {
		return true
	}
	return placeholder(s) || isName(d) && (strings.Contains(s, "@") || tagLike.MatchString(s))
}

var tagLike = regexp.MustCompile(`</?[a-z][^<>]*>`)

// placeholder reports whether a whole value is a mark to be replaced, such as [First name],
// <name>, {{name}} or ____.
func placeholder(s string) bool {
	for _, pair := range []string{"[]", "<>", "{}"} {
		if len(s) > 1 && s[0] == pair[0] && s[len(s)-1] == pair[1] {
			return true
		}
	}
	return strings.Contains(s, "____")
}

// Given reads a value that somebody gives for a letter, whichever way it comes in: into a gap, a
// blank, a table of answers, on the command line. One that stands for a missing value is refused.
// Code is the currency of an amount that names none.
func Given(d Def, s, code string) (Value, error) {
	v, err := ParseGiven(d, s, code)
	return notJunk(d, v, s, err)
}

// Given does the same for a value of a table, as the table writes numbers and dates.
func (l Look) Given(d Def, s string) (Value, error) {
	v, err := l.Parse(d, s)
	return notJunk(d, v, s, err)
}

func notJunk(d Def, v Value, s string, err error) (Value, error) {
	if err == nil && Junk(d, v) {
		err = fmt.Errorf("“%s” stands for no value; leave it empty, or write what is to stand in the letter", strings.TrimSpace(s))
	}
	return v, err
}

// isName tells whether a field holds the name of a person.
func isName(d Def) bool {
	return strings.HasSuffix(d.Path, "first_name") || strings.HasSuffix(d.Path, "last_name") || strings.HasSuffix(d.Path, "full_name")
}

// particles stand small within a family name.
var particles = []string{"van", "von", "der", "den", "de", "del", "della", "di", "da", "dos", "la", "le", "ten", "ter", "zu", "zum", "af", "av", "bin", "al", "el", "y", "e"}

// RepairName offers a name set right that was typed in capitals or small
// letters alone: MARTA, marta and mcallister become Marta, Marta and McAllister.
// It gives false when there is nothing to offer: a name of both, a single
// initial, a script without case, a particle name such as van der Berg.
func RepairName(d Def, s string) (string, bool) {
	if !isName(d) || len([]rune(s)) < 2 {
		return "", false
	}
	upper, lower := strings.ToUpper(s), strings.ToLower(s)
	if upper == lower || s != upper && s != lower {
		return "", false
	}
	words := strings.Fields(lower)
	particle := slices.ContainsFunc(words[:max(0, len(words)-1)], func(w string) bool { return slices.Contains(particles, w) })
	if s == lower && particle && strings.HasSuffix(d.Path, "last_name") {
		return "", false // as its bearer writes it, for all that we know
	}
	for i, w := range words {
		if particle && i < len(words)-1 && slices.Contains(particles, w) {
			continue
		}
		words[i] = capitals(w)
	}
	repaired := strings.Join(words, " ")
	return repaired, repaired != s
}

// capitals sets the first letter of each part of a name: between hyphens, behind
// an apostrophe, and behind Mc.
func capitals(w string) string {
	out := []rune(w)
	next := true
	for i, r := range out {
		if next && unicode.IsLetter(r) {
			out[i] = unicode.ToTitle(r)
		}
		next = r == '-' || r == '\'' || r == '’'
		if i == 1 && len(out) > 4 && out[0] == 'M' && r == 'c' {
			next = true
		}
	}
	return string(out)
}
