package letter

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/field"
)

// address is the address of a link, a button or a picture that holds fields,
// made ready. Every value in it is made safe for its place.
type address struct {
	steps []step
}

// address compiles an address in the text form. One without fields is only
// looked at, and gives nil.
func (c *compiler) address(src string, at int) *address {
	outer := c.inside
	c.inside = &inside{src, at}
	defer func() { c.inside = outer }()
	d := Parse(src)
	if len(d.Content) != 1 || d.Content[0].Type != Paragraph {
		c.note(Stops, "address", 0, len(src), src, "An address must be one line; take the line break out.")
		return nil
	}
	list := d.Content[0].Content
	if !slices.ContainsFunc(list, func(n Node) bool { return n.Type != Text }) {
		text := RenderText(d)
		if why := wrongAddress(text) + unfinishedAddress(text); why != "" {
			c.note(Stops, "address", 0, len(src), src, why)
		}
		return nil
	}
	a := &address{steps: c.steps(list)}
	var s htmlState
	s.words(`<a href="`)
	a.steps = c.htmlPlaces(a.steps, &s, func(s step, why string) {
		c.note(Stops, "unsafe", s.at, len(s.path), s.path, fmt.Sprintf("%s %s.", s.path, why))
	})
	return a
}

// inside tells that what is compiled stands in an address.
type inside struct {
	src string
	at  int // of the element in the text form
}

// place finds where in the text form a place of the address is.
func (in *inside) place(src string, at int) int {
	from, code := min(in.at, len(src)), printAddress(in.src)
	// A link's stands before its words, that of a block behind its beginning.
	k := strings.LastIndex(src[:from], code)
	if src[from:] != "" && src[from] == '<' {
		if k = strings.Index(src[from:], code); k >= 0 {
			k += from
		}
	}
	if k < 0 {
		return in.at
	}
	return k + len(printAddress(in.src[:at]))
}

// wrongAddress says why an address as it stands cannot be followed, or "".
func wrongAddress(s string) string {
	switch {
	case strings.HasPrefix(s, "https://") && !hasSpace(s), PictureKey(s) != "":
		return ""
	case !safeScheme(strings.TrimSpace(s)):
		return fmt.Sprintf("%q is not an address that may be followed; begin it with https, http, mailto or tel.", clip(s, 60))
	case hasSpace(s):
		return fmt.Sprintf("%q has a space in it; write it as %%20.", clip(s, 60))
	}
	return ""
}

// unfinishedAddress says what an address that may be followed lacks to lead
// somewhere, or "".
func unfinishedAddress(s string) string {
	switch scheme, rest, ok := strings.Cut(s, ":"); {
	case wrongAddress(s) != "":
		return ""
	case !ok:
		return fmt.Sprintf("%q is not a whole address; begin it with https://, mailto: or tel:.", clip(s, 60))
	case strings.Trim(rest, "/") == "":
		return fmt.Sprintf("A link or picture leads nowhere yet; write its address behind %s:.", scheme)
	}
	return ""
}

func hasSpace(s string) bool {
	for i := range len(s) {
		if s[i] <= ' ' {
			return true
		}
	}
	return false
}

// address writes an address. What is missing stays in it as its mark, and is
// given; an address of which nothing is left but its scheme is "".
func (m *merger) address(a *address) (string, []Attrs) {
	w := addressWriter{m: m, amp: "&"}
	w.steps(a.steps)
	href := string(w.out)
	if w.left && slices.Contains([]string{"", "http://", "https://", "mailto:", "tel:"}, strings.TrimSpace(href)) {
		return "", nil
	}
	return href, w.gaps
}

type addressWriter struct {
	m    *merger
	out  []byte
	amp  string
	gaps []Attrs
	left bool
}

func (w *addressWriter) steps(steps []step) {
	for i := range steps {
		s := &steps[i]
		switch s.kind {
		case wordsStep:
			w.out = append(w.out, s.words...)
			continue
		case breakStep:
			continue
		case whenStep:
			if s.when.holds(w.m.v) {
				w.steps(s.in)
			}
			continue
		}
		piece := w.m.piece(s)
		switch {
		case piece.left:
			w.left = true
		case piece.gap != nil:
			w.out = append(w.out, "{{"+piece.gap.Path+"}}"...)
			w.gaps = append(w.gaps, *piece.gap)
		default:
			w.out = appendAddress(w.out, piece.text, s.place, s.def.Type, w.amp)
		}
	}
}

// appendAddress writes a value within an address. At its start a web address, an
// email address or a telephone number without a scheme gets one.
func appendAddress(dst []byte, words string, place htmlPlace, t field.Type, amp string) []byte {
	if place == unsafePlace {
		return dst
	}
	words = strings.TrimSpace(words)
	if place == inURLStart && words != "" && !strings.ContainsAny(words, ":/?#") {
		switch {
		case t == field.Email && strings.Contains(words, "@"):
			dst = append(dst, "mailto:"...)
		case t == field.URL && strings.Contains(words, "."):
			dst = append(dst, "https://"...)
		case t == field.Phone:
			dst = append(dst, "tel:"...)
			words = strings.Map(func(r rune) rune {
				if r == '+' || r >= '0' && r <= '9' {
					return r
				}
				return -1
			}, words)
		}
	}
	return appendURL(dst, words, place, amp)
}

// marks gives the marks of a step, with its link's address merged. A link of
// which nothing is left is no link.
func (m *merger) marks(s *step) []Mark {
	if s.link == nil {
		return s.marks
	}
	href, gaps := m.address(s.link)
	out := make([]Mark, 0, len(s.marks)+1)
	for _, k := range s.marks {
		if k.Type == Link {
			if href == "" {
				continue
			}
			a := *k.Attrs
			a.Href, a.Gaps = href, gaps
			k.Attrs = &a
		}
		out = append(out, k)
	}
	return out
}

// link compiles the address of the link that a node's marks hold.
func (c *compiler) link(n Node) *address {
	if a := linkOf(&n); a != nil {
		return c.address(a.Href, n.at)
	}
	return nil
}

// fillAddress puts words into the gaps of a path in an address of a letter.
func fillAddress(href string, gaps []Attrs, path, words string) (string, []Attrs) {
	code := "{{" + path + "}}"
	left := make([]Attrs, 0, len(gaps))
	for _, g := range gaps {
		if g.Path != path {
			left = append(left, g)
			continue
		}
		before, after, found := strings.Cut(href, code)
		if found {
			href = before + string(appendAddress(nil, words, placeNamed(g.Place), typeOfPath(path), "&")) + after
		}
	}
	if len(left) == 0 {
		left = nil
	}
	return href, left
}

// typeOfPath is what a path's own name tells of its type: a letter knows no
// catalogue.
func typeOfPath(path string) field.Type {
	switch {
	case strings.HasSuffix(path, "email"):
		return field.Email
	case strings.HasSuffix(path, "website"), strings.HasSuffix(path, "_link"):
		return field.URL
	case strings.HasSuffix(path, "phone"):
		return field.Phone
	}
	return field.Text
}

// leads is something in a body that leads to an address: a link with its words, a
// button or a picture, in a block counted from 1.
type leads struct {
	href, words string
	block       int
}

// linksOf gives what leads to addresses in a body, in order. A link over several
// nodes, of which some look different, is one.
func linksOf(d Document) []leads {
	var out []leads
	block := 0
	var walk func(nodes []Node)
	walk = func(nodes []Node) {
		var before *MarkAttrs
		for i := range nodes {
			n := &nodes[i]
			if n.Attrs != nil {
				for _, a := range []string{n.Attrs.Href, n.Attrs.Src} {
					if a != "" {
						out = append(out, leads{a, wordsIn(n.Content), block})
					}
				}
			}
			link := linkOf(n)
			switch {
			case link == nil:
			case sameLink(before, link):
				out[len(out)-1].words += n.Text
			default:
				out = append(out, leads{link.Href, n.Text, block})
			}
			before = link
			walk(n.Content)
		}
	}
	for i := range d.Content {
		block = i + 1
		walk(d.Content[i : i+1])
	}
	return out
}

func wordsIn(nodes []Node) string {
	var b strings.Builder
	for i := range nodes {
		b.WriteString(nodes[i].Text)
		b.WriteString(wordsIn(nodes[i].Content))
	}
	return b.String()
}

// addressesOf gives all that the links and buttons of a body lead to, and its
// pictures with where they are, in order.
func addressesOf(d Document) []string {
	var out []string
	for _, l := range linksOf(d) {
		out = append(out, l.href)
	}
	return out
}
