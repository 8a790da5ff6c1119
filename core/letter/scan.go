package letter

import (
	"fmt"
	"strings"
)

// piece is one stretch of the text form: words, or the inside of a `{{…}}`.
type piece struct {
	tag  bool
	text string // words with escapes resolved, or what stands between the braces
	at   int    // byte offset of its first byte
	raw  string // as it was typed
	err  string // why the tag cannot be read; then text is empty
}

// scan splits the text form into pieces in one pass. It never fails: what
// cannot be read becomes a tag with err.
func scan(src string) []piece {
	var out []piece
	var words strings.Builder
	start := 0
	flush := func(end int) {
		if words.Len() > 0 {
			out = append(out, piece{text: words.String(), at: start, raw: src[start:end]})
			words.Reset()
		}
		start = end
	}
	// Once no "}}" is left in the rest, none is looked for again.
	open := true
	for i := 0; i < len(src); {
		switch c := src[i]; {
		case c == '\\':
			n := run(src[i:], '\\')
			braces := run(src[i+n:], '{')
			if braces == 0 {
				words.WriteString(src[i : i+n])
				i += n
				continue
			}
			words.WriteString(src[i : i+n/2])
			i += n
			if n%2 == 1 {
				// Two braces are both meant; of more, the rest is read again.
				literal := 1
				if braces == 2 {
					literal = 2
				}
				words.WriteString(src[i : i+literal])
				i += literal
			}
		case c == '{' && strings.HasPrefix(src[i:], "{{"):
			p := scanTag(src, i, &open)
			flush(i)
			out = append(out, p)
			i += len(p.raw)
			start = i
		default:
			words.WriteByte(c)
			i++
		}
	}
	flush(len(src))
	return out
}

func run(s string, c byte) int {
	n := 0
	for n < len(s) && s[n] == c {
		n++
	}
	return n
}

// scanTag reads the tag that starts at src[at:]. Closing braces inside quotes
// or behind a backslash do not count; only a comment may go over a line's end.
func scanTag(src string, at int, open *bool) piece {
	p := piece{tag: true, at: at}
	rest := src[at+2:]
	if strings.HasPrefix(rest, "{") {
		p.raw = "{{{"
		if end := strings.Index(line(rest), "}}}"); end >= 0 {
			p.raw = src[at : at+2+end+3]
		}
		p.err = "three braces would put a value in without making it safe; use two"
		return p
	}
	comment := strings.HasPrefix(rest, "!")
	if *open {
		within := line(rest)
		if comment {
			within = rest
		}
		if end := tagEnd(within, comment); end >= 0 {
			p.text, p.raw = rest[:end], src[at:at+2+end+2]
			return p
		}
		*open = !comment || strings.Contains(rest, "}}")
	}
	p.raw = src[at : at+2+len(pathPrefix(rest))]
	p.err = "the closing }} is missing"
	return p
}

func line(s string) string {
	if end := strings.IndexByte(s, '\n'); end >= 0 {
		return s[:end]
	}
	return s
}

// tagEnd finds the closing braces of a tag, or -1. A new "{{" before them means
// that this tag was never closed.
func tagEnd(s string, comment bool) int {
	if comment {
		return strings.Index(s, "}}")
	}
	for i := 0; i < len(s); i++ {
		switch {
		case s[i] == '\\':
			i++
		case strings.HasPrefix(s[i:], "}}"):
			return i
		case strings.HasPrefix(s[i:], "{{"):
			return -1
		}
	}
	return -1
}

// pathPrefix is what of an unclosed tag is shown as the offending text.
func pathPrefix(s string) string {
	end := strings.IndexFunc(s, func(r rune) bool {
		return !strings.ContainsRune("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789._#^/?>", r)
	})
	if end < 0 {
		return s
	}
	return s[:end]
}

// readTag reads the inside of a tag into a node.
func readTag(inside string) (Node, error) {
	s := strings.TrimSpace(inside)
	if s == "" {
		return Node{}, fmt.Errorf("there is no field between the braces")
	}
	switch s[0] {
	case '!':
		return Node{Type: Comment, Attrs: &Attrs{Code: strings.TrimSpace(inside)[1:]}}, nil
	case '&':
		return Node{}, fmt.Errorf("& would put a value in without making it safe; leave it out")
	case '=':
		return Node{}, fmt.Errorf("the braces cannot be changed to other signs")
	case '#', '^', '/', '?', '>':
		return Node{}, fmt.Errorf("a mark cannot start with %q", s[:1])
	}
	return readField(s)
}

// readField reads `path`, `path as form`, each with `|fallback` behind it.
func readField(s string) (Node, error) {
	head, tail, bar := strings.Cut(s, "|")
	words := strings.Fields(head)
	a := &Attrs{Missing: MustBe}
	switch {
	case len(words) == 0:
		return Node{}, fmt.Errorf("there is no field before the bar")
	case len(words) == 3 && words[1] == "as":
		a.As = words[2]
	case len(words) != 1:
		return Node{}, fmt.Errorf("%q is more than a field; write it as person.first_name, with a bar before other words", strings.TrimSpace(head))
	}
	a.Path = words[0]
	if strings.Trim(a.Path, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789._-") != "" {
		return Node{}, fmt.Errorf("%q is not a field; write it as person.first_name", a.Path)
	}
	if bar {
		a.Missing, a.Fallback = Leave, unescape(tail)
		if a.Fallback != "" {
			a.Missing = Instead
		}
	}
	return Node{Type: Field, Attrs: a}, nil
}

const escapable = `|{}"\`

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
