package template

import (
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// Passages finds the body of a passage by its shortcut.
type Passages func(shortcut string) (document.Document, bool)

// maxPassages is how deep passages may stand in each other.
const maxPassages = 8

// Expand puts the words of passages in the places of their marks. A passage of
// several paragraphs that stands alone on its line or in its paragraph takes that
// place; within a line its paragraphs follow each other, in a formatted body on
// lines of their own. In a plain body a formatted passage is written as its plain
// part. A mark whose passage is not there, or that stands in itself, stays.
func Expand(d document.Document, find Passages) document.Document {
	if find == nil || !holdsPassage(d.Content) {
		return d
	}
	e := expander{find: find, body: d.Attrs.Body}
	d.Content = e.blocks(document.Clone(d.Content))
	return markup.Canonical(d)
}

func holdsPassage(nodes []document.Node) bool {
	return slices.ContainsFunc(nodes, func(n document.Node) bool { return n.Type == document.Passage || holdsPassage(n.Content) })
}

// PassagesIn gives the shortcuts in a document, each once, in their order.
func PassagesIn(docs ...document.Document) []string {
	var out []string
	var look func(nodes []document.Node)
	look = func(nodes []document.Node) {
		for _, n := range nodes {
			if n.Type == document.Passage && !slices.Contains(out, n.Attrs.Name) {
				out = append(out, n.Attrs.Name)
			}
			look(n.Content)
		}
	}
	for _, d := range docs {
		look(d.Content)
	}
	return out
}

type expander struct {
	find   Passages
	body   string
	inside []string // the passages around
}

// passage gives the paragraphs of a passage, its own passages put in.
func (e *expander) passage(name string) ([]document.Node, bool) {
	if slices.Contains(e.inside, name) || len(e.inside) >= maxPassages {
		return nil, false
	}
	d, ok := e.find(name)
	if !ok {
		return nil, false
	}
	switch {
	case e.body == document.BodyFormatted:
		d = render.Formatted(d)
	case d.Attrs.Body != document.BodyPlain:
		d = markup.Parse(render.PlainPart(d))
	}
	inner := expander{find: e.find, body: e.body, inside: append(slices.Clone(e.inside), name)}
	out := document.Clone(d.Content)
	if e.body == document.BodyHTML {
		escapeLines(out)
	}
	return inner.blocks(out), true
}

// escapeLines makes the lines of a plain passage HTML.
func escapeLines(lines []document.Node) {
	escapeNodes(lines)
	for i := range lines {
		if i > 0 && lines[i].Type == document.Paragraph {
			lines[i].Content = append([]document.Node{{Type: document.Text, Text: "<br>"}}, lines[i].Content...)
		}
	}
}

func (e *expander) blocks(nodes []document.Node) []document.Node {
	var out []document.Node
	for _, n := range nodes {
		switch {
		case n.Type != document.Paragraph:
			n.Content = e.blocksOrWords(n)
			out = append(out, n)
		case len(n.Content) == 1 && n.Content[0].Type == document.Passage:
			if in, ok := e.passage(n.Content[0].Attrs.Name); ok {
				out = append(out, in...)
			} else {
				out = append(out, n)
			}
		case e.body == document.BodyFormatted:
			n.Content = e.words(n.Content)
			out = append(out, n)
		default:
			out = append(out, e.line(n)...)
		}
	}
	return out
}

func (e *expander) blocksOrWords(n document.Node) []document.Node {
	if document.HoldsWords(n.Type) {
		return e.words(n.Content)
	}
	if len(n.Content) == 0 {
		return n.Content
	}
	return e.blocks(n.Content)
}

// words puts passages within the words of a formatted block.
func (e *expander) words(nodes []document.Node) []document.Node {
	var out []document.Node
	for _, n := range nodes {
		if n.Type != document.Passage {
			n.Content = e.words(n.Content)
			out = append(out, n)
			continue
		}
		in, ok := e.passage(n.Attrs.Name)
		if !ok {
			out = append(out, n)
			continue
		}
		for i, block := range in {
			if i > 0 {
				out = append(out, document.Node{Type: document.Break})
			}
			out = append(out, inlinesOf(block, n.Marks)...)
		}
	}
	return out
}

// inlinesOf gives the words of a block with the marks of the place they go to.
func inlinesOf(block document.Node, marks []document.Mark) []document.Node {
	var out []document.Node
	for _, n := range block.Content {
		if slices.Contains(document.InlineTypes, n.Type) {
			n.Marks = append(slices.Clone(n.Marks), marks...)
			out = append(out, n)
			continue
		}
		if len(out) > 0 {
			out = append(out, document.Node{Type: document.Break})
		}
		out = append(out, inlinesOf(n, marks)...)
	}
	return out
}

// line puts passages into a line of a plain body or of a page, of which the first
// and the last line join what stands around.
func (e *expander) line(n document.Node) []document.Node {
	lines := []document.Node{{Type: document.Paragraph, At: n.At}}
	add := func(content ...document.Node) { // to the line that is open
		if lines[len(lines)-1].Type != document.Paragraph {
			lines = append(lines, document.Node{Type: document.Paragraph})
		}
		last := &lines[len(lines)-1]
		last.Content = append(last.Content, content...)
	}
	for _, w := range n.Content {
		in, ok := []document.Node(nil), false
		if w.Type == document.Passage {
			in, ok = e.passage(w.Attrs.Name)
		}
		if !ok {
			w.Content = e.words(w.Content)
			add(w)
			continue
		}
		for i, block := range in {
			switch {
			case block.Type != document.Paragraph:
				lines = append(lines, block)
			case i > 0 && in[i-1].Type == document.Paragraph:
				lines = append(lines, block)
			default:
				add(block.Content...)
			}
		}
	}
	return lines
}

func escapeNodes(nodes []document.Node) {
	for i := range nodes {
		if n := &nodes[i]; n.Type == document.Text {
			n.Text = string(safehtml.AppendEscaped(nil, n.Text))
		}
		escapeNodes(nodes[i].Content)
	}
}

// OnlyPassage gives a plain document that is one passage.
func OnlyPassage(shortcut string) document.Document {
	d := document.PlainDoc()
	d.Content = []document.Node{document.NewParagraph(document.Node{Type: document.Passage, Attrs: &document.Attrs{Name: shortcut}})}
	return d
}
