package template

import (
	"bytes"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// AppendBody merges the body into the caller's buffer, the short way to RenderText
// or RenderHTML of Merge(…).Body: of a plain and of an HTML body no tree is made.
// What must be there and is missing is written as nothing, in a formatted body as
// its label, and counted.
func (p *Program) AppendBody(dst []byte, v *field.Values, b Blanks, r *field.Reader, e safehtml.Escape) (out []byte, gaps int) {
	if p.sheet.Body == document.BodyFormatted {
		return p.appendFormatted(dst, v, b, r, e)
	}
	w := writer{v: v, b: b, r: r, e: e, page: p.sheet.Body == document.BodyHTML, start: len(dst)}
	dst = w.stretches(dst, p.bodyRuns)
	return dst, w.gaps
}

func (p *Program) appendFormatted(dst []byte, v *field.Values, b Blanks, r *field.Reader, e safehtml.Escape) ([]byte, int) {
	m := merger{v: v, b: b, r: r}
	d := m.formatted(p)
	gaps := 0
	for i := range d.Content {
		document.OpenGaps(&d.Content[i], func(a *document.Attrs) { gaps++ })
	}
	d.Attrs.Lang = variant(d.Attrs.Lang, r)
	if e == safehtml.AsHTML {
		subject, _ := p.AppendSubject(nil, v, b, r)
		return render.AppendHTML(dst, d, string(subject)), gaps
	}
	return append(dst, render.RenderText(d)...), gaps
}

// AppendSubject does the same for the subject, whose line breaks become spaces.
func (p *Program) AppendSubject(dst []byte, v *field.Values, b Blanks, r *field.Reader) (out []byte, gaps int) {
	w := writer{v: v, b: b, r: r, oneLine: true, start: len(dst)}
	dst = w.stretches(dst, p.subjectRuns)
	return dst, w.gaps
}

// stretch is a run of lines that always stand, or lines under a condition.
type stretch struct {
	steps []step // of all rows, with the line breaks between them; nil when a row needs more
	fast  []segment
	rows  []*row
	when  *condition
	in    []stretch
}

// stretches joins neighbouring plain rows, so that they are written in one go.
func stretches(blocks []block) []stretch {
	var out []stretch
	for i := range blocks {
		b := &blocks[i]
		switch {
		case b.when != nil:
			out = append(out, stretch{when: b.when, in: stretches(b.in)})
		case b.row.drop:
		case b.row.plain && len(out) > 0 && out[len(out)-1].steps != nil:
			s := &out[len(out)-1]
			s.rows = append(s.rows, &b.row)
			s.steps = append(append(s.steps, step{kind: wordsStep, words: "\n"}), b.row.steps...)
		case b.row.plain:
			out = append(out, stretch{rows: []*row{&b.row}, steps: append([]step{}, b.row.steps...)})
		default:
			out = append(out, stretch{rows: []*row{&b.row}})
		}
	}
	for i := range out {
		if out[i].steps != nil {
			out[i].fast = segments(out[i].steps)
		}
	}
	return out
}

// segment is some words and the field behind them (slot below 0: none), as
// small as can be: this is what a merge spends its time on. Step is the long
// form, for what cannot be written as it stands.
type segment struct {
	words string
	slot  int
	step  int
	kind  field.Record // the person must be of this kind; "" any
}

func segments(steps []step) []segment {
	var out []segment
	var words strings.Builder
	for i := range steps {
		s := &steps[i]
		if s.kind == wordsStep {
			words.WriteString(s.words)
			continue
		}
		seg := segment{words: words.String(), slot: max(s.slot, 0), step: i}
		if s.names == field.Lead || s.names == field.Contact {
			seg.kind = s.names
		}
		out = append(out, seg)
		words.Reset()
	}
	return append(out, segment{words: words.String(), slot: -1})
}

// writer carries one merge into a buffer. It lives on the stack.
type writer struct {
	v       *field.Values
	b       Blanks
	r       *field.Reader
	e       safehtml.Escape
	oneLine bool
	page    bool // the body is HTML
	started bool // a line was written
	removed bool // a line was removed by tidying since
	start   int  // where this part begins in the buffer
	gaps    int
}

func (w *writer) stretches(dst []byte, runs []stretch) []byte {
	for i := range runs {
		s := &runs[i]
		switch {
		case s.when != nil:
			if s.when.undecided(w.v) != "" {
				w.gaps++
			} else if s.when.holds(w.v) {
				dst = w.stretches(dst, s.in)
			}
		case s.steps != nil && !w.removed:
			dst = w.newLine(dst)
			dst = w.segments(dst, s)
		default:
			for _, r := range s.rows {
				dst = w.row(dst, r)
			}
		}
	}
	return dst
}

func (w *writer) newLine(dst []byte) []byte {
	if w.started {
		dst = append(dst, '\n')
	}
	w.started = true
	return dst
}

// row writes a line that may need tidying, or that stands behind a removed one.
func (w *writer) row(dst []byte, r *row) []byte {
	m := merger{v: w.v, b: w.b, r: w.r, oneLine: w.oneLine, page: w.page, removed: w.removed}
	if w.started {
		// What Merge would find before this line: an empty one, or not.
		m.out = []document.Node{document.NewParagraph()}
		if !w.lastEmpty(dst) {
			m.out[0].Content = []document.Node{{Type: document.GapNode}}
		}
	}
	before := len(m.out)
	m.row(r)
	w.removed = m.removed
	for _, p := range m.out[before:] {
		dst = w.newLine(dst)
		for _, n := range p.Content {
			if n.Type == document.GapNode {
				w.gaps++
				continue
			}
			dst = w.node(dst, &n)
		}
	}
	return dst
}

// node writes words of a plain or an HTML body.
func (w *writer) node(dst []byte, n *document.Node) []byte {
	switch {
	case w.e == safehtml.AsHTML:
		return render.AppendPageNode(dst, n)
	case n.Type == document.Break:
		return append(dst, "<br>"...)
	case document.MergedMark(n) == nil:
		return append(dst, n.Text...)
	}
	return w.value(dst, n.Text)
}

func (w *writer) lastEmpty(dst []byte) bool {
	part := dst[w.start:]
	return len(bytes.TrimSpace(part[bytes.LastIndexByte(part, '\n')+1:])) == 0
}

func (w *writer) segments(dst []byte, s *stretch) []byte {
	html := w.e == safehtml.AsHTML
	for i := range s.fast {
		seg := &s.fast[i]
		dst = append(dst, seg.words...)
		if seg.slot < 0 {
			break
		}
		words, safe := w.v.Ready(seg.slot)
		switch long := &s.steps[seg.step]; {
		case words == "" || long.slot < 0 || html && long.place > safehtml.InAttr || seg.kind != "" && seg.kind != w.v.Kind:
			dst = w.step(dst, long)
		case html && !safe:
			dst = safehtml.AppendEscaped(dst, words)
		default:
			dst = append(dst, words...)
		}
	}
	return dst
}

// step writes a field the long way.
func (w *writer) step(dst []byte, s *step) []byte {
	value, ok := s.value(w.v)
	switch {
	case w.e == safehtml.AsHTML && s.place > safehtml.InAttr && (ok || s.missing == document.Instead):
		words := s.fallback
		if ok {
			words = string(s.write(nil, value, w.v, w.r))
		}
		return safehtml.AppendPlace(dst, words, s.place)
	case ok && w.page && value.Type == field.Long:
		return w.lines(dst, value.Text, s.place)
	case ok:
		from := len(dst)
		return w.settle(s.write(dst, value, w.v, w.r), from)
	case s.missing == document.Instead:
		return w.value(dst, s.fallback)
	}
	w.gaps++
	return dst
}

// lines writes a long text into an HTML body: its lines stay in text.
func (w *writer) lines(dst []byte, s string, place safehtml.Place) []byte {
	with := "<br>"
	if place != safehtml.InText {
		with = " "
	}
	for i, line := range strings.Split(document.NormalLines(s), "\n") {
		if i > 0 {
			dst = append(dst, with...)
		}
		dst = w.value(dst, line)
	}
	return dst
}

// settle makes what was written from an offset on safe.
func (w *writer) settle(dst []byte, from int) []byte {
	written := dst[from:]
	if bytes.IndexByte(written, '\r') < 0 && bytes.IndexByte(written, 0) < 0 && !(w.oneLine && bytes.IndexByte(written, '\n') >= 0) &&
		(w.e == safehtml.AsText || !bytes.ContainsAny(written, `&<>"'`)) {
		return dst
	}
	return w.value(dst[:from], string(written))
}

// value writes words that came from outside.
func (w *writer) value(dst []byte, s string) []byte {
	s = document.NormalLines(s)
	if w.oneLine {
		s = strings.ReplaceAll(s, "\n", " ")
	}
	if w.e == safehtml.AsHTML {
		return safehtml.AppendEscaped(dst, s)
	}
	return append(dst, s...)
}
