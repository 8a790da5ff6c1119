package sentence

import (
	"slices"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

// markedLine is one line of a letter with the places where something was left out, and the
// stretches that came from fields.
type markedLine struct {
	block  int // of the document, from 1
	words  string
	places []place
	merged []stretch
}

// place is where something was left out, in bytes of its line.
type place struct {
	at   int
	path string
	kind string // as in document.LeftOut
}

type stretch struct{ from, to int }

func linesWithMarks(d document.Document) []markedLine {
	r := lineReader{page: d.Attrs.Body == document.BodyHTML}
	for i := range d.Content {
		r.line.block = i + 1
		document.EachLine(d.Content[i:i+1], func(line *document.Node) {
			for k := range line.Content {
				r.inline(&line.Content[k])
			}
			r.flush()
		})
	}
	return r.out
}

type lineReader struct {
	out   []markedLine
	line  markedLine
	page  bool
	inTag bool
}

func (r *lineReader) flush() {
	r.out = append(r.out, r.line)
	r.line = markedLine{block: r.line.block}
}

func (r *lineReader) inline(n *document.Node) {
	merged := document.MergedMark(n)
	from := len(r.line.words)
	switch {
	case n.Type == document.Break:
		r.flush()
		return
	case n.Type == document.GapNode && n.Attrs.Place == "":
		r.line.words += "‹" + n.Attrs.Label + "›"
	case n.Type == document.GapNode || merged != nil && merged.Place != "":
		return // within a tag
	case r.page && merged == nil:
		r.pageWords(n.Text)
		from = min(from, len(r.line.words))
	default:
		r.line.words += n.Text
	}
	if merged != nil {
		r.line.merged = append(r.line.merged, stretch{from, len(r.line.words)})
	}
	for _, m := range n.Marks {
		if m.Type != document.LeftOut || m.Attrs == nil {
			continue
		}
		p := place{len(r.line.words), m.Attrs.Path, m.Attrs.Place}
		if p.kind == document.BeforeWord {
			p.at = from
		}
		r.line.places = append(r.line.places, p)
	}
}

// pageWords adds the words of a piece of HTML; a tag of a block ends the line.
func (r *lineReader) pageWords(s string) {
	for s != "" {
		if r.inTag {
			tag, rest, closed := strings.Cut(s, ">")
			if r.inTag = !closed; closed && !inlineTag(tag) {
				r.flush()
			}
			s = rest
			continue
		}
		words, rest, opened := strings.Cut(s, "<")
		r.line.words += html.UnescapeString(words)
		r.inTag, s = opened, rest
	}
}

func inlineTag(tag string) bool {
	name := strings.TrimPrefix(tag, "/")
	if end := strings.IndexAny(name, " \t\n/"); end >= 0 {
		name = name[:end]
	}
	name = strings.ToLower(name)
	return name != "br" && slices.Contains(safehtml.InlineTags, name)
}
