package markup

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
)

// tagKind tells what a tag does to the tree.
type tagKind int

const (
	leafTag tagKind = iota
	openTag
	closeTag
)

// tag is a mark that was read: a leaf, or the beginning or end of a node.
type tag struct {
	kind  tagKind
	node  document.Node
	close string // of a closeTag: the path or "fixed"
}

var (
	pathForm = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_-]*(\.[A-Za-z0-9_-]+)*$`)
	nameForm = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_-]*$`)
	// A blank is named in any language, as its writer says it, with _ for spaces.
	BlankForm = regexp.MustCompile(`^\p{L}[^\s.:{}|"\\=]*$`)
)

// readTag reads the inside of a tag.
func readTag(inside string) (tag, error) {
	s := strings.TrimSpace(inside)
	if s == "" {
		return tag{}, fmt.Errorf("there is no field between the braces")
	}
	rest := strings.TrimSpace(s[1:])
	var n document.Node
	var err error
	switch s[0] {
	case '!':
		n = document.Node{Type: document.Comment, Attrs: &document.Attrs{Code: s[1:]}}
	case '&':
		err = fmt.Errorf("& would put a value in without making it safe; leave it out")
	case '=':
		err = fmt.Errorf("the braces cannot be changed to other signs")
	case '#', '^':
		n, err = ReadCondition(rest, s[0] == '^')
		return tag{kind: openTag, node: n}, err
	case '/':
		return tag{kind: closeTag, close: rest}, nil
	case '?':
		n, err = readBlank(rest)
	case '>':
		if !nameForm.MatchString(rest) {
			return tag{}, fmt.Errorf("%q is not the shortcut of a passage", rest)
		}
		n = document.Node{Type: document.Passage, Attrs: &document.Attrs{Name: rest}}
	default:
		if s == "fixed" {
			return tag{kind: openTag, node: document.Node{Type: document.Fixed}}, nil
		}
		n, err = readField(s)
	}
	return tag{node: n}, err
}

// readField reads `path`, `path as form`, each with `|fallback` behind it.
func readField(s string) (document.Node, error) {
	head, tail, bar := strings.Cut(s, "|")
	words := strings.Fields(head)
	a := &document.Attrs{Missing: document.MustBe}
	switch {
	case len(words) == 0:
		return document.Node{}, fmt.Errorf("there is no field before the bar")
	case len(words) == 3 && words[1] == "as":
		a.As = words[2]
	case len(words) != 1:
		return document.Node{}, fmt.Errorf("%q is more than a field; write it as person.first_name, with a bar before other words", strings.TrimSpace(head))
	}
	a.Path = words[0]
	if !pathForm.MatchString(a.Path) {
		return document.Node{}, fmt.Errorf("%q is not a field; write it as person.first_name", a.Path)
	}
	if bar {
		a.Missing, a.Fallback = document.Leave, unescape(tail)
		if a.Fallback != "" {
			a.Missing = document.Instead
		}
	}
	return document.Node{Type: document.Field, Attrs: a}, nil
}

var blankKinds = []string{document.BlankText, document.BlankLong, document.BlankChoice, document.BlankDate, document.BlankNumber, document.BlankFile, document.BlankColleague}

// readBlank reads `name`, `name.key`, and `name: kind [choices] [optional]
// ["hint"] [= default]`.
func readBlank(s string) (document.Node, error) {
	head, tail, colon := strings.Cut(s, ":")
	head = strings.TrimSpace(head)
	name, key, dotted := strings.Cut(head, ".")
	if !BlankForm.MatchString(name) || dotted && !nameForm.MatchString(key) {
		return document.Node{}, fmt.Errorf("%q is not the name of a blank; write it as {{?reason}}", head)
	}
	a := &document.Attrs{Name: name, Path: key}
	if !colon {
		return document.Node{Type: document.Blank, Attrs: a}, nil
	}
	if dotted {
		return document.Node{}, fmt.Errorf("the kind of a blank stands with its name alone: {{?%s: %s}}", name, strings.TrimSpace(tail))
	}
	r := argReader{s: tail}
	a.Kind = r.word()
	if !slices.Contains(blankKinds, a.Kind) {
		return document.Node{}, fmt.Errorf("%q is not a kind of blank; use %s", a.Kind, strings.Join(blankKinds, ", "))
	}
	if a.Kind == document.BlankChoice {
		a.Choices = r.choices()
		if len(a.Choices) < 2 {
			return document.Node{}, fmt.Errorf("a choice needs two or more words with bars between them")
		}
	}
	if r.take("optional") {
		a.Optional = true
	}
	if hint, ok := r.quoted(); ok {
		a.Hint = hint
	}
	if r.take("=") {
		a.Default = unescape(strings.TrimSpace(r.rest()))
	}
	if left := strings.TrimSpace(r.rest()); left != "" {
		return document.Node{}, fmt.Errorf("%q cannot be read here; a blank is {{?name: kind optional \"hint\" = default}}", left)
	}
	return document.Node{Type: document.Blank, Attrs: a}, nil
}

// argReader reads the words behind a blank's name from left to right.
type argReader struct {
	s string
}

func (r *argReader) word() string {
	r.s = strings.TrimSpace(r.s)
	end := strings.IndexAny(r.s, " \t\"=|")
	if end < 0 {
		end = len(r.s)
	}
	w := r.s[:end]
	r.s = r.s[end:]
	return w
}

// take reads a word if it comes next.
func (r *argReader) take(word string) bool {
	s := strings.TrimSpace(r.s)
	rest, ok := strings.CutPrefix(s, word)
	if !ok || word != "=" && rest != "" && !strings.ContainsAny(rest[:1], " \t\"=") {
		return false
	}
	r.s = rest
	return true
}

// quoted reads a text in double quotes if one comes next.
func (r *argReader) quoted() (string, bool) {
	s := strings.TrimSpace(r.s)
	if !strings.HasPrefix(s, `"`) {
		return "", false
	}
	for i := 1; i < len(s); i++ {
		switch s[i] {
		case '\\':
			i++
		case '"':
			r.s = s[i+1:]
			return unescape(s[1:i]), true
		}
	}
	return "", false
}

// choices reads words with bars between them, up to the word optional, a hint
// or a default.
func (r *argReader) choices() []string {
	var out []string
	s := strings.TrimSpace(r.s)
	start := 0
	add := func(end int) {
		if c := strings.TrimSpace(unescape(s[start:end])); c != "" {
			out = append(out, c)
		}
	}
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c == '\\':
			i++
		case c == '|':
			add(i)
			start = i + 1
		case c == '"' || c == '=' || strings.HasPrefix(s[i:], " optional") && (i+9 == len(s) || strings.ContainsAny(s[i+9:i+10], " \"=")):
			add(i)
			r.s = s[i:]
			return out
		}
	}
	add(len(s))
	r.s = ""
	return out
}

func (r *argReader) rest() string {
	s := r.s
	r.s = ""
	return s
}

const escapable = `|{}"\=`

func unescape(s string) string {
	if !strings.Contains(s, `\`) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] == '\\' && i+1 < len(s) && strings.IndexByte(escapable, s[i+1]) >= 0 {
			i++
		}
		b.WriteByte(s[i])
	}
	return b.String()
}

func escapeArg(s string) string {
	if !strings.ContainsAny(s, escapable) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if strings.IndexByte(escapable, s[i]) >= 0 {
			b.WriteByte('\\')
		}
		b.WriteByte(s[i])
	}
	return b.String()
}
