package safehtml

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/markup"
)

// Where in an HTML source a value stands decides how it is made safe. The
// states are those of the HTML standard, section 13.2.5 "Tokenization", as far
// as they matter for that; templates are refused where a value could not be
// made safe: in scripts and styles, comments, names, and values of attributes
// without quotes.

// Place of a value in HTML.
type Place uint8

const (
	InText     Place = iota // text of an element: the five signs
	InAttr                  // a quoted attribute, a title: the same, on one line
	InURLStart              // the beginning of an address: its scheme is checked, too
	inURLPath               // within an address before ? and #
	inURLQuery              // behind ? or #
	UnsafePlace
)

// PlaceNames are the names of the places in the stored form; an address's are
// kept with merged words, so that they can be changed and stay safe.
var PlaceNames = [...]string{InText: "", InAttr: "attr", InURLStart: "start", inURLPath: "path", inURLQuery: "query", UnsafePlace: "none"}

// PlaceNamed gives the place of a name that a merged mark holds; InText for "".
func PlaceNamed(name string) Place {
	for i, n := range PlaceNames {
		if n == name {
			return Place(i)
		}
	}
	return UnsafePlace
}

// Tokenizer follows an HTML source through the words of a template.
type Tokenizer struct {
	mode    htmlMode
	quote   byte
	name    []byte // of the tag or attribute being read
	tag     string // lower case, of the tag that is open
	attr    string
	value   []byte // of the address so far
	filled  bool   // a value stands in the address
	raw     string // the element whose text is not markup
	closing bool   // the tag is an end tag
	cuts    []int  // where, in the words last read, tags begin and end in turn
}

type htmlMode uint8

const (
	htmlText htmlMode = iota
	htmlTagName
	htmlInTag
	htmlAttrName
	htmlAfterName // behind the name of an attribute and space
	htmlBeforeValue
	htmlQuoted
	htmlUnquoted
	htmlComment
	htmlDeclaration
	htmlRaw
	htmlLess // behind a "<" that ends the words so far
)

var (
	urlAttrs = []string{"href", "src", "action", "formaction", "background", "cite", "poster", "longdesc", "data", "xlink:href", "srcset"}
)

// Same tells whether two states treat what follows alike.
func (s *Tokenizer) Same(o *Tokenizer) bool {
	return s.mode == o.mode && s.raw == o.raw && (s.mode != htmlQuoted || s.quote == o.quote && s.attr == o.attr)
}

// Clone gives a tokenizer that goes on from the same place.
func (s *Tokenizer) Clone() Tokenizer {
	c := *s
	c.name, c.value, c.cuts = slices.Clone(s.name), slices.Clone(s.value), nil
	return c
}

// Words moves on over words of the template.
func (s *Tokenizer) Words(w string) {
	for i := 0; i < len(w); i++ {
		c := w[i]
		switch s.mode {
		case htmlText:
			switch {
			case c == '<' && i+1 == len(w):
				s.mode = htmlLess
			case c == '<':
				at := i
				i += s.open(w[i+1:])
				if s.mode != htmlText {
					s.cuts = append(s.cuts, at)
				} else if i > at {
					s.cuts = append(s.cuts, at, i+1)
				}
			}
		case htmlLess:
			s.mode = htmlText
			i += s.open(w[i:]) - 1
			if s.mode == htmlText {
				s.cuts = append(s.cuts, i+1)
			}
		case htmlRaw:
			if c == '<' && strings.HasPrefix(strings.ToLower(w[i+1:min(len(w), i+2+len(s.raw))]), "/"+s.raw) {
				s.mode, s.closing, s.name = htmlTagName, true, s.name[:0]
				i++
			}
		case htmlComment:
			if strings.HasPrefix(w[i:], "-->") {
				s.mode = htmlText
				i += 2
				s.cuts = append(s.cuts, i+1)
			}
		case htmlDeclaration:
			if c == '>' {
				s.mode = htmlText
				s.cuts = append(s.cuts, i+1)
			}
		case htmlQuoted:
			if c == s.quote {
				s.mode = htmlInTag
			} else {
				s.value = append(s.value, c)
			}
		default:
			if s.inTag(c); s.mode == htmlText {
				s.cuts = append(s.cuts, i+1)
			}
		}
	}
}

// open reads what begins behind a "<" and gives how much of it was read.
func (s *Tokenizer) open(rest string) int {
	switch {
	case strings.HasPrefix(rest, "!--[if"):
		// What is in a conditional comment is read by some mail programs.
		s.mode = htmlDeclaration
		return 3
	case strings.HasPrefix(rest, "!-->"):
		s.mode = htmlText // a comment that is closed at once
		return 4
	case strings.HasPrefix(rest, "!--"):
		s.mode = htmlComment
		return 3
	case rest[0] == '!' || rest[0] == '?':
		s.mode = htmlDeclaration
		return 1
	case strings.HasPrefix(rest, "/>"):
		return 2 // says nothing
	case rest[0] == '/' && len(rest) > 1 && !isLetter(rest[1]):
		s.mode = htmlDeclaration // read as a comment
		return 1
	case rest[0] == '/':
		s.mode, s.closing, s.name = htmlTagName, true, s.name[:0]
		return 1
	case isLetter(rest[0]):
		s.mode, s.closing, s.name = htmlTagName, false, s.name[:0]
	}
	return 0
}

func isLetter(c byte) bool { return c|0x20 >= 'a' && c|0x20 <= 'z' }

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\f' || c == '\r' }

// inTag reads one byte between "<" and ">", outside of quotes.
func (s *Tokenizer) inTag(c byte) {
	switch {
	case c == '>':
		s.endName()
		s.mode, s.raw = htmlText, ""
		if !s.closing && slices.Contains(markup.RawElements, s.tag) {
			s.mode, s.raw = htmlRaw, s.tag
		}
	case s.mode == htmlBeforeValue && (c == '"' || c == '\''):
		s.mode, s.quote, s.value, s.filled = htmlQuoted, c, s.value[:0], false
	case s.mode == htmlBeforeValue && !isSpace(c):
		s.mode = htmlUnquoted
	case s.mode == htmlBeforeValue:
	case isSpace(c) && s.mode == htmlAttrName:
		s.endName()
		s.mode = htmlAfterName
	case isSpace(c) && s.mode == htmlAfterName:
	case isSpace(c), c == '/' && s.mode != htmlUnquoted:
		s.endName()
		s.mode = htmlInTag
	case c == '=' && (s.mode == htmlAttrName || s.mode == htmlAfterName):
		s.endName()
		s.mode = htmlBeforeValue
	case s.mode == htmlTagName || s.mode == htmlAttrName:
		s.name = append(s.name, c|0x20)
	case s.mode == htmlInTag || s.mode == htmlAfterName:
		s.mode, s.name = htmlAttrName, append(s.name[:0], c|0x20)
	}
}

// endName settles the name of the tag or attribute that was being read.
func (s *Tokenizer) endName() {
	switch s.mode {
	case htmlTagName:
		s.tag = string(s.name)
	case htmlAttrName:
		s.attr = string(s.name)
	}
}

// Place says how a value that stands here is made safe.
func (s *Tokenizer) Place() Place {
	switch {
	case s.mode == htmlText:
		return InText
	case s.mode == htmlRaw && (s.raw == "title" || s.raw == "textarea"):
		return InAttr
	case s.mode != htmlQuoted, strings.HasPrefix(s.attr, "on"), s.attr == "style", s.attr == "srcdoc", s.attr == "srcset":
		return UnsafePlace
	case !slices.Contains(urlAttrs, s.attr):
		return InAttr
	}
	defer func() { s.filled = true }()
	switch {
	case strings.ContainsAny(string(s.value), "?#"):
		return inURLQuery
	case len(s.value) == 0 && !s.filled:
		return InURLStart
	}
	return inURLPath
}

// Run is a run of words of a page, all of them within tags, or all of them between.
type Run struct {
	Words  string
	Markup bool
	Wall   bool // of markup: what stands on its sides does not belong together
}

// Parts reads words and cuts them where tags begin and end.
func (s *Tokenizer) Parts(words string) []Run {
	s.cuts = s.cuts[:0]
	markup := s.mode != htmlText
	s.Words(words)
	var out []Run
	from := 0
	for _, to := range append(s.cuts, len(words)) {
		if to > from {
			out = append(out, Run{words[from:to], markup, markup && isWall(words[from:to])})
		}
		from, markup = to, !markup
	}
	return out
}

var (
	tagNameForm = regexp.MustCompile(`</?([A-Za-z][A-Za-z0-9:]*)`)
	InlineTags  = strings.Fields("a abbr b big cite code del em font i ins label mark q s small span strike strong sub sup u")
)

// isWall tells whether one of the tags is of a block: what stands on its sides
// does not belong together.
func isWall(tags string) bool {
	for _, m := range tagNameForm.FindAllStringSubmatch(tags, -1) {
		if !slices.Contains(InlineTags, strings.ToLower(m[1])) {
			return true
		}
	}
	return false
}

// AppendURL writes a value within an address: at its start it must be of the
// schemes http, https, mailto or tel, or none; else "#" is written. Signs that
// do not belong where it stands are percent-encoded (RFC 3986 section 2.1).
// Amp is what & is written as: "&amp;" in HTML, "&" in an address by itself.
func AppendURL(dst []byte, s string, place Place, amp string) []byte {
	s = strings.TrimSpace(s)
	if place == InURLStart && !safeScheme(s) {
		return append(dst, '#')
	}
	keep := "-._~" // RFC 3986 section 2.3
	switch place {
	case InURLStart:
		keep += ":/?#[]@!$&()*+,;=%"
	case inURLPath:
		keep += "/@:,"
	}
	for i := range len(s) {
		c := s[i]
		switch {
		case c == '%' && !(place == InURLStart && isEscape(s[i:])):
			dst = append(dst, "%25"...)
		case c == '&':
			if strings.IndexByte(keep, c) >= 0 {
				dst = append(dst, amp...)
				continue
			}
			dst = append(dst, "%26"...)
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c >= '0' && c <= '9', strings.IndexByte(keep, c) >= 0:
			dst = append(dst, c)
		default:
			dst = fmt.Appendf(dst, "%%%02X", c)
		}
	}
	return dst
}

// isEscape tells whether a text begins with a percent-encoded byte.
func isEscape(s string) bool {
	return len(s) > 2 && strings.IndexByte(hexDigits, s[1]) >= 0 && strings.IndexByte(hexDigits, s[2]) >= 0
}

const hexDigits = "0123456789abcdefABCDEF"

func safeScheme(s string) bool {
	colon := strings.IndexByte(s, ':')
	if colon < 0 || strings.ContainsAny(s[:colon], "/?#") {
		return true
	}
	switch strings.ToLower(s[:colon]) {
	case "http", "https", "mailto", "tel":
		return true
	}
	return false
}
