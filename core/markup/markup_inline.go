package markup

import (
	"slices"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
)

var elementMarks = func() map[string]string {
	out := map[string]string{"strong": document.Bold, "em": document.Italic, "del": document.Strike, "strike": document.Strike}
	for mark, name := range markElements {
		out[name] = mark
	}
	return out
}()

// inlines reads what stands in a block with words, up to the end tag of the
// element that it stands in, or to a closing mark.
func (p *markupParser) inlines(parent string, marks []document.Mark, depth int) []document.Node {
	var out []document.Node
	if depth > document.MaxTree {
		p.fail(p.place(), "is nested deeper than %d", document.MaxTree)
	}
	for p.err == nil && p.at < len(p.toks) {
		t := &p.toks[p.at]
		switch {
		case t.kind == html.EndTagToken:
			if t.name != parent {
				p.fail(t.at, "%s closes nothing that is open", t.shown())
			}
			return out
		case t.kind == html.TextToken:
			out = append(out, document.Node{Type: document.Text, Text: oneLine(t.words), Marks: marks, At: t.at})
			p.at++
		case t.kind == html.StartTagToken && t.name == "br":
			out = append(out, document.Node{Type: document.Break, Marks: marks, At: t.at})
			p.at++
		case t.kind == html.StartTagToken:
			m, ok := p.mark(t)
			if !ok {
				return out
			}
			p.at++
			inside := slices.Clone(marks)
			if !slices.ContainsFunc(inside, func(o document.Mark) bool { return o.Type == m.Type }) {
				inside = append(inside, m)
			}
			out = append(out, p.inlines(t.name, inside, depth+1)...)
			p.close(t)
		case t.mark.tag != nil && t.mark.tag.kind == closeTag:
			return out
		default:
			out = append(out, p.inlineMark(t, parent, marks, depth))
		}
	}
	return out
}

// inlineMark reads a mark of the template that stands between words.
func (p *markupParser) inlineMark(t *markupTok, parent string, marks []document.Mark, depth int) document.Node {
	p.at++
	if t.mark.tag == nil {
		return document.Node{Type: document.Malformed, Attrs: &document.Attrs{Code: t.mark.raw}, Marks: marks, At: t.at}
	}
	n := t.mark.tag.node
	n.At = t.at
	if t.mark.tag.kind == leafTag {
		n.Marks = marks
		return n
	}
	if n.Type == document.Fixed {
		n.Type = document.FixedText
	}
	n.Content = p.inlines(parent, marks, depth+1)
	if p.err == nil && p.at != t.mark.pair {
		p.fail(t.at, "%s and its end do not stand in the same element", t.shown())
	}
	p.at++
	return n
}

// mark reads the element of a mark on words.
func (p *markupParser) mark(t *markupTok) (document.Mark, bool) {
	m := document.Mark{Type: elementMarks[t.name]}
	if m.Type == "" {
		p.fail(t.at, "<%s> cannot stand in a line; use b, i, u, s, span, mark, a or br", t.name)
		return m, false
	}
	var a document.MarkAttrs
	for _, attr := range t.attrs {
		switch m.Type + " " + attr.Key {
		case document.Link + " href":
			a.Href = p.address(attr.Val)
		case document.TextStyle + " color", document.Highlight + " color":
			a.Color = p.plain(t, attr)
		case document.TextStyle + " font":
			a.FontFamily = p.plain(t, attr)
		case document.TextStyle + " size":
			a.FontSize = p.plain(t, attr) + "px"
		default:
			p.fail(t.at, "<%s> has no %s", t.name, attr.Key)
			return m, false
		}
	}
	if !a.Empty() {
		m.Attrs = &a
	}
	return m, true
}

// oneLine makes line ends that were written as characters spaces.
func oneLine(s string) string { return strings.ReplaceAll(s, "\n", " ") }
