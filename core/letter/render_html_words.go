package letter

var plainElements = map[string]string{Bold: "strong", Italic: "em", Underline: "u", Strike: "s"}

func (w *htmlWriter) inlines(list []Node) {
	if len(list) == 0 {
		w.put("<br>") // an empty line
		return
	}
	if !w.inButton {
		list = linked(list)
	}
	nest(list, orderedMarks, w)
}

func (w *htmlWriter) node(list []Node, i int, _ []Mark) {
	switch n := &list[i]; n.Type {
	case Text:
		if n.Prerendered != nil {
			w.out = n.Prerendered.AppendHTML(w.out)
			return
		}
		w.escaped(n.Text)
	case Break:
		w.put("<br>")
	case GapNode:
		w.put("‹")
		w.escaped(n.Attrs.Label)
		w.put("›")
	}
}

var noMarkAttrs MarkAttrs

func (w *htmlWriter) open(m Mark) {
	a := m.Attrs
	if a == nil {
		a = &noMarkAttrs
	}
	switch {
	case m.Type == Link:
		if w.linked = mayFollow(a.Href); w.linked {
			w.link(a.Href, "")
		} else {
			w.put("<span>")
		}
	case m.Type == Highlight:
		color := a.Color
		if color == "" {
			color = "#fff3a3"
		}
		w.put(`<span style="background:`, color, `;color:`, wordsOn(color), `">`)
	case m.Type == TextStyle:
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

func (w *htmlWriter) end(m Mark) {
	switch {
	case m.Type == Link && w.linked:
		w.put("</a>")
	case plainElements[m.Type] != "":
		w.put("</", plainElements[m.Type], ">")
	default:
		w.put("</span>")
	}
}
