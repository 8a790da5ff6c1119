package template

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
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
	d := markup.Parse(src)
	if len(d.Content) != 1 || d.Content[0].Type != document.Paragraph {
		c.note(document.Stops, "address", 0, len(src), src, "An address must be one line; take the line break out.")
		return nil
	}
	list := d.Content[0].Content
	if !slices.ContainsFunc(list, func(n document.Node) bool { return n.Type != document.Text }) {
		text := render.RenderText(d)
		if why := safehtml.WrongAddress(text) + safehtml.UnfinishedAddress(text); why != "" {
			c.note(document.Stops, "address", 0, len(src), src, why)
		}
		return nil
	}
	a := &address{steps: c.steps(list)}
	var s safehtml.Tokenizer
	s.Words(`<a href="`)
	a.steps = c.htmlPlaces(a.steps, &s, func(s step, why string) {
		c.note(document.Stops, "unsafe", s.at, len(s.path), s.path, fmt.Sprintf("%s %s.", s.path, why))
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
	from, code := min(in.at, len(src)), markup.PrintAddress(in.src)
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
	return k + len(markup.PrintAddress(in.src[:at]))
}

// address writes an address. What is missing stays in it as its mark, and is
// given; an address of which nothing is left but its scheme is "".
func (m *merger) address(a *address) (string, []document.Attrs) {
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
	gaps []document.Attrs
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
		case piece.Gap != nil:
			w.out = append(w.out, "{{"+piece.Gap.Path+"}}"...)
			w.gaps = append(w.gaps, *piece.Gap)
		default:
			w.out = appendAddress(w.out, piece.Text, s.place, s.def.Type, w.amp)
		}
	}
}

// appendAddress writes a value within an address. At its start a web address, an
// email address or a telephone number without a scheme gets one.
func appendAddress(dst []byte, words string, place safehtml.Place, t field.Type, amp string) []byte {
	if place == safehtml.UnsafePlace {
		return dst
	}
	words = strings.TrimSpace(words)
	if place == safehtml.InURLStart && words != "" && !strings.ContainsAny(words, ":/?#") {
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
	return safehtml.AppendURL(dst, words, place, amp)
}

// marks gives the marks of a step, with its link's address merged. A link of
// which nothing is left is no link.
func (m *merger) marks(s *step) []document.Mark {
	if s.link == nil {
		return s.marks
	}
	href, gaps := m.address(s.link)
	out := make([]document.Mark, 0, len(s.marks)+1)
	for _, k := range s.marks {
		if k.Type == document.Link {
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
func (c *compiler) link(n document.Node) *address {
	if a := document.LinkOf(&n); a != nil {
		return c.address(a.Href, n.At)
	}
	return nil
}

// FillAddress puts words into the gaps of a path in an address of a letter.
func FillAddress(href string, gaps []document.Attrs, path, words string) (string, []document.Attrs) {
	code := "{{" + path + "}}"
	left := make([]document.Attrs, 0, len(gaps))
	for _, g := range gaps {
		if g.Path != path {
			left = append(left, g)
			continue
		}
		before, after, found := strings.Cut(href, code)
		if found {
			href = before + string(appendAddress(nil, words, safehtml.PlaceNamed(g.Place), typeOfPath(path), "&")) + after
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

// WordsIn gives the words of inlines without their marks.
func WordsIn(nodes []document.Node) string {
	var b strings.Builder
	for i := range nodes {
		b.WriteString(nodes[i].Text)
		b.WriteString(WordsIn(nodes[i].Content))
	}
	return b.String()
}
