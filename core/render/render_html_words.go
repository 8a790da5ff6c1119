package render

import (
	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

var plainElements = map[string]string{document.Bold: "strong", document.Italic: "em", document.Underline: "u", document.Strike: "s"}

func (w *htmlWriter) inlines(list []document.Node) {
	if len(list) == 0 {
		w.put("<br>") // an empty line
		return
	}
	if !w.inButton {
		list = linked(list)
	}
	document.Nest(list, document.OrderedMarks, w)
}

// Inline writes words, a line break or a gap.
func (w *htmlWriter) Inline(list []document.Node, i int, _ []document.Mark) {
	switch n := &list[i]; n.Type {
	case document.Text:
		if n.Prerendered != nil {
			w.out = n.Prerendered.AppendHTML(w.out)
			return
		}
		w.escaped(n.Text)
	case document.Break:
		w.put("<br>")
	case document.GapNode:
		w.put("‹")
		w.escaped(n.Attrs.Label)
		w.put("›")
	}
}

var noMarkAttrs document.MarkAttrs

// Open opens the element of a mark.
func (w *htmlWriter) Open(m document.Mark) {
	a := m.Attrs
	if a == nil {
		a = &noMarkAttrs
	}
	switch {
	case m.Type == document.Link:
		if w.linked = safehtml.MayFollow(a.Href); w.linked {
			w.link(a.Href, "")
		} else {
			w.put("<span>")
		}
	case m.Type == document.Highlight:
		color := a.Color
		if color == "" {
			color = "#fff3a3"
		}
		w.put(`<span style="background:`, color, `;color:`, wordsOn(color), `">`)
	case m.Type == document.TextStyle:
		w.put(`<span style="`)
		if a.Color != "" {
			w.put("color:", a.Color, ";")
		}
		if a.FontFamily != "" {
			w.put("font-family:", fontStack(a.FontFamily), ";")
		}
		if a.FontSize != "" {
			w.put("font-size:", a.FontSize, ";")
		}
		w.put(`">`)
	default:
		w.put("<", plainElements[m.Type], ">")
	}
}

// End ends it.
func (w *htmlWriter) End(m document.Mark) {
	switch {
	case m.Type == document.Link && w.linked:
		w.put("</a>")
	case plainElements[m.Type] != "":
		w.put("</", plainElements[m.Type], ">")
	default:
		w.put("</span>")
	}
}
