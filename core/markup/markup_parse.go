package markup

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/net/html"

	"lucidletter/core/document"
)

// MarkupError says where in the text form of a formatted body something stands
// that has no place there.
type MarkupError struct {
	Line, Column int // from 1
	Offset       int // in bytes
	Why          string
}

// Note gives the error as a red note on the body.
func (e *MarkupError) Note() document.Note {
	return document.Note{Severity: document.Stops, Code: "markup", Part: document.Body, Line: e.Line, Column: e.Column, Offset: e.Offset, Length: 1, Message: e.Why + "."}
}

func (e *MarkupError) Error() string { return fmt.Sprintf("%d:%d: %s", e.Line, e.Column, e.Why) }

// ParseMarkup reads the text form of a formatted body: HTML of a few elements
// with marks in it. Any other element or attribute, and words outside of a block,
// are refused with a *MarkupError. Marks that cannot be read are kept as
// Malformed nodes, which Compile reports. Time is linear in the length.
func ParseMarkup(src string) (document.Document, error) {
	d := document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: document.FormatVersion, Body: document.BodyFormatted}, Content: []document.Node{}}
	p := newMarkupParser(document.NormalLines(src))
	if p.err == nil {
		d.Content = p.blocks(document.TopBlocks, "", 1)
	}
	if p.err == nil && p.at < len(p.toks) {
		p.fail(p.toks[p.at].at, "%s closes nothing that is open", p.toks[p.at].shown())
	}
	if p.err != nil {
		return d, p.err
	}
	d = Canonical(d)
	if d.Content == nil {
		d.Content = []document.Node{}
	}
	if err := d.Check(); err != nil {
		return d, &MarkupError{1, 1, 0, err.Error()}
	}
	return d, nil
}

// markupTok is a start tag, an end tag, words, or a mark of the template.
type markupTok struct {
	kind  html.TokenType // TextToken for words; 0 for a mark
	name  string
	attrs []html.Attribute
	words string
	mark  tok
	at    int // in the text form
}

func (t *markupTok) shown() string {
	switch {
	case t.kind == html.EndTagToken:
		return "</" + t.name + ">"
	case t.kind == html.StartTagToken:
		return "<" + t.name + ">"
	case t.kind == html.TextToken:
		return fmt.Sprintf("%q", Clip(strings.TrimSpace(t.words), 30))
	}
	return t.mark.raw
}

// Clip cuts a text after n characters, with … in place of the rest.
func Clip(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n]) + "…"
	}
	return s
}

type markupParser struct {
	src   string
	marks []tok // of the template, in order
	toks  []markupTok
	at    int
	err   error
}

// In the source that the HTML tokenizer reads, a mark stands as its number
// between these two signs, which no HTML may hold.
const markBegin, markEnd = "\x01", "\x02"

func newMarkupParser(src string) *markupParser {
	src = withoutControls(src)
	p := &markupParser{src: src}
	var b strings.Builder
	type start struct{ in, at int }
	var starts []start
	// A line end is a space in HTML, also within a mark.
	for _, piece := range Scan(strings.ReplaceAll(src, "\n", " ")) {
		starts = append(starts, start{b.Len(), piece.at})
		if !piece.Tag {
			b.WriteString(piece.text)
			continue
		}
		if strings.HasPrefix(piece.text, "!") {
			piece.Raw = src[piece.at : piece.at+len(piece.Raw)] // a comment keeps its lines
			piece.text = piece.Raw[2 : len(piece.Raw)-2]
		}
		t := tok{raw: piece.Raw, at: piece.at}
		if piece.err == "" {
			if read, err := readTag(piece.text); err == nil {
				t.tag = &read
			}
		}
		b.WriteString(markBegin + strconv.Itoa(len(p.marks)) + markEnd)
		p.marks = append(p.marks, t)
	}
	k := 0
	place := func(in int) int {
		for k+1 < len(starts) && starts[k+1].in <= in {
			k++
		}
		if len(starts) == 0 {
			return 0
		}
		return min(starts[k].at+in-starts[k].in, len(src))
	}
	z := html.NewTokenizer(strings.NewReader(b.String()))
	z.SetMaxBuf(0)
	for in := 0; p.err == nil; {
		kind := z.Next()
		if kind == html.ErrorToken {
			break
		}
		raw := string(z.Raw())
		p.token(kind, raw, z, func(off int) int { return place(in + off) })
		in += len(raw)
	}
	p.match()
	return p
}

// withoutControls takes out the signs that no text form can carry, before marks
// are looked for: they must not part what belongs together.
func withoutControls(src string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && r != '\n' && r != '\t' {
			return -1
		}
		return r
	}, strings.ToValidUTF8(src, "\uFFFD"))
}

func (p *markupParser) fail(at int, format string, args ...any) {
	if p.err == nil {
		line, column := (&document.Positions{Src: p.src}).Of(at)
		p.err = &MarkupError{line, column, at, fmt.Sprintf(format, args...)}
	}
}

func (p *markupParser) token(kind html.TokenType, raw string, z *html.Tokenizer, place func(int) int) {
	switch kind {
	case html.TextToken:
		for off := 0; off < len(raw); {
			if raw[off] == markBegin[0] {
				end := off + strings.Index(raw[off:], markEnd)
				m := p.marks[numberOf(raw[off+1:end])]
				p.toks = append(p.toks, markupTok{mark: m, at: m.at})
				off = end + 1
				continue
			}
			end := strings.Index(raw[off:], markBegin)
			if end < 0 {
				end = len(raw) - off
			}
			words := html.UnescapeString(raw[off : off+end])
			p.toks = append(p.toks, markupTok{kind: kind, words: words, at: place(off)})
			off += end
		}
	case html.StartTagToken, html.SelfClosingTagToken, html.EndTagToken:
		t := z.Token()
		if t.Type == html.SelfClosingTagToken && !isVoid(t.Data) {
			p.fail(place(0), "<%s/> is not closed in HTML; write <%s></%s>", t.Data, t.Data, t.Data)
		}
		if t.Type == html.SelfClosingTagToken {
			t.Type = html.StartTagToken
		}
		p.toks = append(p.toks, markupTok{kind: t.Type, name: t.Data, attrs: t.Attr, at: place(0)})
	case html.CommentToken, html.DoctypeToken:
		p.fail(place(0), "%s has no place in a formatted body", Clip(raw, 30))
	}
}

func numberOf(s string) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		panic("letter: a mark lost its number: " + s)
	}
	return n
}

func isVoid(name string) bool { return slices.Contains([]string{"br", "hr", "img", "spacer"}, name) }

// match pairs the marks that open with those that close, as in plain text.
func (p *markupParser) match() {
	var list []tok
	var at []int
	for i := range p.toks {
		if p.toks[i].kind == 0 {
			list, at = append(list, p.toks[i].mark), append(at, i)
		}
	}
	m := parser{toks: list}
	m.match()
	for k, i := range at {
		p.toks[i].mark = m.toks[k]
		if t := m.toks[k].tag; t != nil && t.kind == openTag {
			p.toks[i].mark.pair = at[m.toks[k].pair]
		}
	}
}

// blocks reads blocks up to the end tag of their parent, or to a closing mark.
func (p *markupParser) blocks(allowed []document.NodeType, parent string, depth int) []document.Node {
	out := []document.Node{}
	if depth > document.MaxTree {
		p.fail(p.place(), "is nested deeper than %d", document.MaxTree)
	}
	for p.err == nil && p.at < len(p.toks) {
		t := &p.toks[p.at]
		switch {
		case t.kind == html.TextToken && strings.Trim(t.words, " \t\r\n\f") == "":
			p.at++
		case t.kind == html.TextToken:
			p.fail(t.at+len(t.words)-len(strings.TrimLeft(t.words, " \t\r\n\f")), "%s stands outside of a block; put it between <p> and </p>", t.shown())
		case t.kind == html.EndTagToken:
			if t.name != parent {
				p.fail(t.at, "%s closes nothing that is open", t.shown())
			}
			return out
		case t.kind == html.StartTagToken:
			out = append(out, p.block(allowed, depth))
		case t.mark.tag != nil && t.mark.tag.kind == openTag:
			n := t.mark.tag.node
			if n.Type == document.When {
				n.Type = document.OnlyWhen
			}
			n.At = t.at
			end := t.mark.pair
			p.at++
			n.Content = p.blocks(allowed, "", depth+1)
			if p.err == nil && p.at != end {
				p.fail(t.at, "%s and its end do not stand around the same blocks", t.shown())
			}
			p.at++
			out = append(out, n)
		case t.mark.tag != nil && t.mark.tag.kind == closeTag:
			return out
		default:
			p.fail(t.at, "%s stands outside of a block; put it between <p> and </p>", t.shown())
		}
	}
	return out
}

func (p *markupParser) place() int {
	if p.at < len(p.toks) {
		return p.toks[p.at].at
	}
	return len(p.src)
}

var elementBlocks = func() map[string]document.NodeType {
	out := map[string]document.NodeType{"h1": document.Heading, "h2": document.Heading, "h3": document.Heading, "hr": document.Divider, "spacer": document.Spacer, "img": document.Image}
	for node, name := range blockElements {
		out[name] = node
	}
	return out
}()

func (p *markupParser) block(allowed []document.NodeType, depth int) document.Node {
	t := &p.toks[p.at]
	p.at++
	n := document.Node{Type: elementBlocks[t.name], At: t.at}
	rule := document.Rules[n.Type]
	switch {
	case n.Type == "":
		p.fail(t.at, "<%s> is no block of a formatted body; use p, h1 to h3, ul, ol, blockquote, img, button, table, columns, hr or spacer", t.name)
	case !slices.Contains(allowed, n.Type):
		p.fail(t.at, "<%s> cannot stand here", t.name)
	}
	n.Attrs = p.attrs(t, rule.May)
	if n.Type == document.Heading {
		if n.Attrs == nil {
			n.Attrs = &document.Attrs{}
		}
		n.Attrs.Level = int(t.name[1] - '0')
	}
	switch {
	case p.err != nil || rule.Holds == nil:
		return n
	case slices.Contains(rule.Holds, document.Text):
		n.Content = p.inlines(t.name, nil, depth+1)
	default:
		n.Content = p.blocks(rule.Holds, t.name, depth+1)
	}
	p.close(t)
	return n
}

// close reads the end tag of an element.
func (p *markupParser) close(open *markupTok) {
	if p.err != nil {
		return
	}
	if p.at >= len(p.toks) || p.toks[p.at].kind != html.EndTagToken || p.toks[p.at].name != open.name {
		p.fail(open.at, "<%s> is not closed before what it stands in", open.name)
		return
	}
	p.at++
}

// attrs reads the settings of a block; may tells which there are.
func (p *markupParser) attrs(t *markupTok, may document.AttrSet) *document.Attrs {
	var a document.Attrs
	for _, attr := range t.attrs {
		number := func() int {
			v, err := strconv.Atoi(attr.Val)
			if err != nil || v < 1 {
				p.fail(t.at, "%s=%q of <%s> is not a whole number above 0", attr.Key, p.shown(attr.Val), t.name)
			}
			return v
		}
		i := slices.Index(document.AttrNames, attr.Key)
		if i < 0 || may&(1<<i) == 0 || attr.Key == "level" || attr.Key == "gaps" {
			p.fail(t.at, "<%s> has no %s", t.name, attr.Key)
			return nil
		}
		switch attr.Key {
		case "href":
			a.Href = p.address(attr.Val)
		case "src":
			a.Src = p.address(attr.Val)
		case "alt":
			a.Alt = p.plain(t, attr)
		case "align":
			a.Align = p.plain(t, attr)
		case "color":
			a.Color = p.plain(t, attr)
		case "start":
			a.Start = number()
		case "width":
			a.Width = number()
		case "height":
			a.Height = number()
		case "colspan":
			a.Colspan = number()
		case "rowspan":
			a.Rowspan = number()
		case "colwidth":
			for _, s := range strings.Fields(attr.Val) {
				w, err := strconv.Atoi(s)
				if err != nil || w < 0 {
					p.fail(t.at, "colwidth %q is not a list of pixels", p.shown(attr.Val))
				}
				a.Colwidth = append(a.Colwidth, w)
			}
		}
	}
	if a.Given() == 0 {
		return nil
	}
	return &a
}

// split cuts a text with numbered marks into words and marks.
func (p *markupParser) split(s string, words func(s string, tagNext bool), mark func(tok)) {
	for s != "" {
		begin := strings.Index(s, markBegin)
		if begin < 0 {
			words(s, false)
			return
		}
		if begin > 0 {
			words(s[:begin], true)
		}
		end := strings.Index(s, markEnd)
		mark(p.marks[numberOf(s[begin+1:end])])
		s = s[end+1:]
	}
}

func (p *markupParser) address(s string) string {
	var b strings.Builder
	p.split(s, func(s string, tagNext bool) { printWords(&b, s, tagNext) }, func(t tok) { b.WriteString(t.raw) })
	return b.String()
}

// plain reads an attribute that cannot hold marks.
func (p *markupParser) plain(t *markupTok, attr html.Attribute) string {
	if strings.Contains(attr.Val, markBegin) {
		p.fail(t.at, "%s of <%s> cannot hold marks", attr.Key, t.name)
	}
	return attr.Val
}

func (p *markupParser) shown(s string) string {
	var b strings.Builder
	p.split(s, func(s string, _ bool) { b.WriteString(s) }, func(t tok) { b.WriteString(t.raw) })
	return b.String()
}
