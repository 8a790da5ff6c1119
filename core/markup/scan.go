package markup

import (
	"strings"
)

// Piece is one stretch of the text form: words, or the inside of a `{{…}}`.
type Piece struct {
	Tag  bool
	text string // words with escapes resolved, or what stands between the braces
	at   int    // byte offset of its first byte
	Raw  string // as it was typed
	err  string // why the tag cannot be read; then text is empty
}

// Scan splits the text form into pieces in one pass. It never fails: what
// cannot be read becomes a tag with err.
func Scan(src string) []Piece {
	var out []Piece
	var words strings.Builder
	start := 0
	flush := func(end int) {
		if words.Len() > 0 {
			out = append(out, Piece{text: words.String(), at: start, Raw: src[start:end]})
			words.Reset()
		}
		start = end
	}
	var known limits
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
			p := scanTag(src, i, &known)
			flush(i)
			out = append(out, p)
			i += len(p.Raw)
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

// limits remembers where a search found nothing, so that no stretch is
// searched twice.
type limits struct {
	noClose  bool // there is no "}}" in the rest of the text
	noTriple int  // there is no "}}}" on a line before this offset
	lineEnd  int  // the end of the line last looked at
}

// line gives the rest of the line from an offset on.
func (k *limits) line(src string, from int) string {
	if from > k.lineEnd || k.lineEnd == 0 {
		k.lineEnd = from + len(FirstLine(src[from:]))
	}
	return src[from:k.lineEnd]
}

// scanTag reads the tag that starts at src[at:]. Closing braces inside quotes
// or behind a backslash do not count; only a comment may go over a line's end.
func scanTag(src string, at int, known *limits) Piece {
	p := Piece{Tag: true, at: at}
	rest := src[at+2:]
	if strings.HasPrefix(rest, "{") {
		p.Raw = "{{{"
		if at >= known.noTriple {
			within := known.line(src, at+2)
			if end := strings.Index(within, "}}}"); end >= 0 {
				p.Raw = src[at : at+2+end+3]
			} else {
				known.noTriple = at + 2 + len(within)
			}
		}
		p.err = "three braces would put a value in without making it safe; use two"
		return p
	}
	comment := strings.HasPrefix(rest, "!")
	if !known.noClose {
		within := known.line(src, at+2)
		if comment {
			within = rest
		}
		if end := tagEnd(within, comment); end >= 0 {
			p.text, p.Raw = rest[:end], src[at:at+2+end+2]
			return p
		}
		known.noClose = comment // which would have found any
	}
	p.Raw = src[at : at+2+len(pathPrefix(rest))]
	p.err = "the closing }} is missing"
	return p
}

// FirstLine gives a text up to its first line break.
func FirstLine(s string) string {
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
