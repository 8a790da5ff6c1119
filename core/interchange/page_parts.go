package interchange

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// PartKind says what of a page can be changed without its build.
type PartKind string

// The kinds: a run of words, where a link leads, the words in place of a picture.
const (
	PageWords   PartKind = "words"
	PageLink    PartKind = "link"
	PagePicture PartKind = "picture"
)

// PagePart is one of them. Text is in the text form, without the escapes of HTML
// and with its white space folded. Link is the index of the link around words,
// or -1. Parts come in the order of the source, their index is their place.
type PagePart struct {
	Kind PartKind
	Text string
	Link int

	from, to int // in the source with its marks held
}

// page is the source of a page with its marks held, and its parts.
type page struct {
	markup.Masked
	parts    []PagePart
	comments [][2]int // of mail programs, in which addresses stand again
}

var (
	hrefForm = regexp.MustCompile(`(?i)\shref="([^"]*)"`)
	altForm  = regexp.MustCompile(`(?i)\salt="([^"]*)"`)
	allSpace = regexp.MustCompile(`\s+`)
)

// pageParts finds the parts of a page that Sanitize made: its attributes are in
// double quotes.
func pageParts(src string) *page {
	p := &page{}
	p.Masked = markup.Mask(src)
	z := html.NewTokenizer(strings.NewReader(p.Held))
	z.SetMaxBuf(0)
	at, raw := 0, false
	var links []int
	attr := func(tag string, form *regexp.Regexp, kind PartKind) bool {
		m := form.FindStringSubmatchIndex(tag)
		if m != nil {
			p.parts = append(p.parts, PagePart{Kind: kind, Text: p.text(tag[m[2]:m[3]]), Link: -1, from: at + m[2], to: at + m[3]})
		}
		return m != nil
	}
	for {
		kind := z.Next()
		text := string(z.Raw())
		switch kind {
		case html.ErrorToken:
			return p
		case html.CommentToken:
			p.comments = append(p.comments, [2]int{at, at + len(text)})
		case html.StartTagToken, html.SelfClosingTagToken:
			name, _ := z.TagName()
			switch string(name) {
			case "a":
				if attr(text, hrefForm, PageLink) {
					links = append(links, len(p.parts)-1)
				} else {
					links = append(links, -1)
				}
			case "img":
				attr(text, altForm, PagePicture)
			}
			raw = slices.Contains(markup.RawElements, string(name))
		case html.EndTagToken:
			if name, _ := z.TagName(); string(name) == "a" && len(links) > 0 {
				links = links[:len(links)-1]
			}
			raw = false
		case html.TextToken:
			words := strings.TrimSpace(text)
			if raw || words == "" {
				break
			}
			from := at + strings.Index(text, words)
			part := PagePart{Kind: PageWords, Text: p.text(words), Link: -1, from: from, to: from + len(words)}
			if len(links) > 0 {
				part.Link = links[len(links)-1]
			}
			p.parts = append(p.parts, part)
		}
		at += len(text)
	}
}

// text gives a piece of the source as people write it: unescaped, with its marks.
func (p *page) text(held string) string {
	return p.Give(allSpace.ReplaceAllString(html.UnescapeString(held), " "), func(m string) string { return m })
}

// PageParts gives what can be changed in a page that ImportHTML made.
func PageParts(d document.Document) []PagePart { return pageParts(markup.Print(d)).parts }

// SetPagePart gives the page with other text in one part, in the text form; the
// rest stays, byte for byte, but for the address of a link, which is changed in
// the comments of mail programs too. The error names a part that is not there.
func SetPagePart(d document.Document, index int, text string) (document.Document, error) {
	p := pageParts(markup.Print(d))
	if index < 0 || index >= len(p.parts) {
		return d, &document.FormError{Where: "part", Why: fmt.Sprintf("%d is not in the page; load it again", index)}
	}
	part := p.parts[index]
	text = allSpace.ReplaceAllString(document.NormalLines(text), " ")
	if part.Kind == PageWords && strings.TrimSpace(text) == "" {
		text = " " // so that what stands around it does not grow together
	}
	escaped := escapeWords(text)
	all := func(mark string) string { return mark }
	out := p.Give(p.Held[:part.from], all) + escaped + p.Give(p.Held[part.to:], all)
	if old := p.Held[part.from:part.to]; part.Kind == PageLink && len(old) > 3 {
		shift := 0
		for _, c := range p.comments {
			comment := p.Give(p.Held[c[0]:c[1]], all)
			at := len(p.Give(p.Held[:c[0]], all)) + shift
			if c[0] >= part.to {
				at += len(escaped) - len(p.Give(old, all))
			}
			changed := strings.ReplaceAll(comment, `"`+p.Give(old, all)+`"`, `"`+escaped+`"`)
			out = out[:at] + changed + out[at+len(comment):]
			shift += len(changed) - len(comment)
		}
	}
	page := markup.ParseHTML(out)
	page.Attrs = d.Attrs
	return page, nil
}

// escapeWords escapes what of a text is not a mark.
func escapeWords(text string) string {
	var out []byte
	for _, piece := range markup.Scan(text) {
		if piece.Tag {
			out = append(out, piece.Raw...)
		} else {
			out = safehtml.AppendEscaped(out, piece.Raw)
		}
	}
	return string(out)
}

// ShowParts gives the page as it will look, with every run of words in a span
// that names its part (data-part) and fields as their labels; marks that open or
// close something between blocks are not shown. Links name theirs
// (data-link).
func ShowParts(d document.Document, labelOf func(path string) string) string {
	p := pageParts(markup.Print(d))
	var b strings.Builder
	last := 0
	for i, part := range p.parts {
		switch part.Kind {
		case PageWords:
			b.WriteString(p.shown(p.Held[last:part.from], labelOf))
			if last = part.to; p.onlyTags(p.Held[part.from:part.to]) {
				continue
			}
			fmt.Fprintf(&b, `<span data-part="%d">%s</span>`, i, p.chips(p.Held[part.from:part.to], labelOf))
		default:
			b.WriteString(p.shown(p.Held[last:part.to], labelOf))
			fmt.Fprintf(&b, `" data-%s="%d`, part.Kind, i)
			last = part.to
		}
	}
	b.WriteString(p.shown(p.Held[last:], labelOf))
	return b.String()
}

func (p *page) shown(held string, labelOf func(string) string) string {
	return p.Give(held, func(mark string) string { return string(safehtml.AppendEscaped(nil, shownMark(mark, labelOf))) })
}

func (p *page) chips(held string, labelOf func(string) string) string {
	return p.Give(held, func(mark string) string {
		return `<span data-mark="">` + string(safehtml.AppendEscaped(nil, shownMark(mark, labelOf))) + `</span>`
	})
}

// shownMark gives a mark as people see it: the label of a field or a blank, what a
// condition says, else as it is written.
func shownMark(mark string, labelOf func(path string) string) string {
	inside := strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(mark, "{{"), "}}"))
	switch {
	case strings.HasPrefix(inside, "/"):
		return "‹end›"
	case strings.HasPrefix(inside, "#"), strings.HasPrefix(inside, "^"):
		n, err := markup.ReadCondition(strings.TrimSpace(inside[1:]), inside[0] == '^')
		if err != nil {
			return mark
		}
		if n.Attrs.Not && n.Attrs.Op == "" {
			return "‹only when no " + labelOf(n.Attrs.Path) + "›"
		}
		return "‹only when " + labelOf(n.Attrs.Path) + render.WhenTail(n.Attrs) + "›"
	}
	for _, line := range markup.Parse(mark).Content {
		if len(line.Content) != 1 {
			break
		}
		switch n := line.Content[0]; n.Type {
		case document.Field:
			return "‹" + labelOf(n.Attrs.Path) + "›"
		case document.Blank:
			return "‹" + strings.ReplaceAll(n.Attrs.Name, "_", " ") + "›"
		}
	}
	return mark
}

// onlyTags tells whether words are nothing but marks that open or close something:
// they stand between blocks, where a page can show nothing.
func (p *page) onlyTags(held string) bool {
	only := true
	rest := p.Give(held, func(mark string) string {
		inside := strings.TrimSpace(strings.TrimPrefix(mark, "{{"))
		only = only && inside != "" && strings.ContainsRune("#^/!", rune(inside[0]))
		return ""
	})
	return only && strings.TrimSpace(rest) == ""
}

// ShownText gives the text of a part as ShowParts shows it.
func ShownText(text string, labelOf func(path string) string) string {
	var b strings.Builder
	for _, piece := range markup.Scan(text) {
		if piece.Tag {
			b.WriteString(shownMark(piece.Raw, labelOf))
		} else {
			b.WriteString(piece.Raw)
		}
	}
	return b.String()
}
