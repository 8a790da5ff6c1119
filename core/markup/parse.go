// Package markup is what documents are written in: the text form, a plain text with marks
// such as {{person.first_name|you}} (docs/format.md), and the markup of formatted bodies,
// HTML elements around such text. In goes a text, out comes a document, and back; what
// cannot be read is kept as it was typed, with a note of its line and column. The marks of
// a page can be masked while others read it.
//
// Elements are those of the HTML standard, section 4; a body has at most 1 MiB.
package markup

import (
	"fmt"
	"strings"

	"lucidletter/core/document"
)

// Parse reads the text form of a plain body. It always gives a tree: marks
// that cannot be read, are never closed or close nothing stand in it as
// Malformed nodes, which Compile reports. Text over MaxBody is refused by the
// caller, not here. Time is linear in the length of the text.
func Parse(src string) document.Document {
	d := document.PlainDoc()
	p := parser{toks: tokens(document.NormalLines(src))}
	p.match()
	p.standalone()
	d.Content = p.blocks(0, len(p.toks), true)
	return d
}

// ParseHTML reads a body of HTML with marks in its text and its attributes. The
// source is kept as it is; what comes from outside goes through ImportHTML.
func ParseHTML(src string) document.Document {
	d := Parse(src)
	d.Attrs.Body = document.BodyHTML
	return d
}

// ParseBody reads the text form of a body of a kind, plain when that is "". The
// error is a *MarkupError of a formatted body, or a *FormError when there is no
// such kind.
func ParseBody(src, kind string) (document.Document, error) {
	switch kind {
	case "", document.BodyPlain:
		return Parse(src), nil
	case document.BodyFormatted:
		return ParseMarkup(src)
	case document.BodyHTML:
		return ParseHTML(src), nil
	}
	return document.Document{}, &document.FormError{Where: "kind", Why: fmt.Sprintf("%q is not a kind of body; use %q, %q or %q", kind, document.BodyPlain, document.BodyFormatted, document.BodyHTML)}
}

// tok is one stretch of words within a line, a line break, or a tag.
type tok struct {
	words string
	brk   bool
	tag   *tag // nil for words, a break, or a malformed tag
	raw   string
	at    int
	pair  int  // of an opening tag: where its closing one is
	alone bool // the tag stands alone on its line
}

func tokens(src string) []tok {
	var out []tok
	for _, p := range Scan(src) {
		if p.Tag {
			t := tok{raw: p.Raw, at: p.at}
			if p.err == "" {
				if read, err := readTag(p.text); err == nil {
					t.tag = &read
				}
			}
			out = append(out, t)
			continue
		}
		at := p.at
		for i, words := range strings.Split(p.text, "\n") {
			if i > 0 {
				out = append(out, tok{brk: true, at: at})
			}
			if words != "" {
				out = append(out, tok{words: words, at: at})
			}
			at += len(words) + 1
		}
	}
	return out
}

type parser struct {
	toks []tok
}

// match pairs opening and closing tags. What has no partner, or stands deeper
// than MaxNesting, becomes malformed.
func (p *parser) match() {
	var open []int
	waiting := map[string]int{} // how many open tags of a name there are
	for i := range p.toks {
		t := p.toks[i].tag
		switch {
		case t == nil || t.kind == leafTag:
		case t.kind == openTag && len(open) == document.MaxNesting:
			p.toks[i].tag = nil
		case t.kind == openTag:
			open = append(open, i)
			waiting[nameOf(t)]++
		case waiting[t.close] == 0:
			p.toks[i].tag = nil
		default:
			for {
				top := open[len(open)-1]
				open = open[:len(open)-1]
				name := nameOf(p.toks[top].tag)
				waiting[name]--
				if name == t.close {
					p.toks[top].pair = i
					break
				}
				p.toks[top].tag = nil
			}
		}
	}
	for _, i := range open {
		p.toks[i].tag = nil
	}
}

// nameOf is what the closing tag of an opening one must say.
func nameOf(t *tag) string {
	if t.node.Type == document.Fixed {
		return "fixed"
	}
	return t.node.Attrs.Path
}

// standalone finds the tags that open or close and stand alone on their line,
// but for space (Mustache specification, sections.yml).
func (p *parser) standalone() {
	for start := 0; start < len(p.toks); {
		end, only, blank := start, -1, true
		for ; end < len(p.toks) && !p.toks[end].brk; end++ {
			switch t := &p.toks[end]; {
			case t.words != "":
				blank = blank && strings.TrimSpace(t.words) == ""
			case t.tag != nil && t.tag.kind != leafTag && only < 0:
				only = end
			default:
				blank = false
			}
		}
		if blank && only >= 0 {
			p.toks[only].alone = true
		}
		start = end + 1
	}
}

// blocks reads lines and the nodes around lines. Within such a node every line
// ends with a break; at the end of the text what is left is a line, too.
func (p *parser) blocks(from, to int, root bool) []document.Node {
	out := []document.Node{}
	line := document.NewParagraph()
	for i := from; i < to; i++ {
		t := &p.toks[i]
		switch {
		case t.brk:
			out = append(out, line)
			line = document.NewParagraph()
		case t.tag != nil && t.tag.kind == openTag && t.alone && p.toks[t.pair].alone:
			n := t.tag.node
			if n.Type == document.When {
				n.Type = document.OnlyWhen
			}
			n.At = t.at
			n.Content = p.blocks(p.lineEnd(i), p.lineStart(t.pair), false)
			out = append(out, n)
			line = document.NewParagraph()
			i = p.lineEnd(t.pair) - 1
		default:
			var n document.Node
			n, i = p.inline(i)
			line.Content = append(line.Content, n)
		}
	}
	if root {
		out = append(out, line)
	}
	return out
}

// lineEnd is the place behind the line of the tag at i.
func (p *parser) lineEnd(i int) int {
	for i < len(p.toks) && !p.toks[i].brk {
		i++
	}
	return min(i+1, len(p.toks))
}

// lineStart is the place of the first token on the line of the tag at i.
func (p *parser) lineStart(i int) int {
	for i > 0 && !p.toks[i-1].brk {
		i--
	}
	return i
}

// inline reads one node within a line and gives the place of its last token.
func (p *parser) inline(i int) (document.Node, int) {
	t := &p.toks[i]
	switch {
	case t.words != "":
		return document.Node{Type: document.Text, Text: t.words, At: t.at}, i
	case t.brk:
		return document.Node{Type: document.Break, At: t.at}, i
	case t.tag == nil || t.tag.kind == closeTag:
		return document.Node{Type: document.Malformed, Attrs: &document.Attrs{Code: t.raw}, At: t.at}, i
	}
	n := t.tag.node
	n.At = t.at
	if t.tag.kind == leafTag {
		return n, i
	}
	if n.Type == document.Fixed {
		n.Type = document.FixedText
	}
	for k := i + 1; k < t.pair; k++ {
		var child document.Node
		child, k = p.inline(k)
		n.Content = append(n.Content, child)
	}
	return n, t.pair
}

// WhyMalformed gives the reason again for a mark that could not be read.
func WhyMalformed(code string) string {
	for _, p := range Scan(code) {
		if p.err != "" {
			return p.err
		}
		if !p.Tag {
			continue
		}
		t, err := readTag(p.text)
		switch {
		case err != nil:
			return err.Error()
		case t.kind == openTag:
			return fmt.Sprintf("it is never closed, or stands deeper than %d in others; put {{/%s}} behind what it is about", document.MaxNesting, nameOf(&t))
		case t.kind == closeTag:
			return "it closes nothing that is open; its beginning is missing or says something else"
		}
	}
	return "it cannot be read"
}
