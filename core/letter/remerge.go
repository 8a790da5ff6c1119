package letter

import (
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// Record is what the words of fields are written from: the values of one letter's
// records, and the reader they are written for.
type Record struct {
	Values *field.Values
	Reader *field.Reader
}

// write gives the words of a field in a form; false when there is no value.
func (r Record) write(path string, as field.Form) (string, bool) {
	v := r.Values.Get(path)
	switch {
	case !v.Filled() && v.Type != field.YesNo:
		return "", false
	case as == field.Relative:
		return string(r.Reader.AppendRelative(nil, v, r.Values.Get("today"))), true
	}
	return string(r.Reader.Append(nil, v, as)), true
}

// formOf gives the form in which a field was written as these words. Capitals do not
// matter: a name may have been set right.
func (r Record) formOf(path, words string) (field.Form, bool) {
	t := r.Values.Get(path).Type
	forms := append([]field.Form{""}, field.FormsOf(t)...)
	if t == field.Date {
		forms = append(forms, field.Relative)
	}
	for _, as := range forms {
		if written, ok := r.write(path, as); ok && strings.EqualFold(document.NormalLines(written), words) {
			return as, true
		}
	}
	return "", false
}

// Kept are words that stand in a letter after its records were changed, and may
// speak of the old ones: of a field, but not as it was written; or the value of a
// field, typed by hand.
type Kept struct {
	Path  string
	Words string
}

// Remerge gives a letter the words of other records. Base and theirs are its template
// merged with the old and the new ones, empty without a template. A block that
// nobody changed is taken from theirs; in others every word that a field wrote, or
// that filled its gap, is written anew in the same form, and is a gap where there is
// no value now. What the writer made of such words stays, and is told.
func Remerge(mine, base, theirs document.Document, old, now Record) (document.Document, []Kept) {
	f := remerger{old: old, now: now, body: mine.Attrs.Body, links: linkPairs(base, theirs), instead: MergedPaths(base)}
	for path, words := range MergedPaths(mine) {
		if strings.HasPrefix(path, "?") {
			base, theirs = Fill(base, path, words), Fill(theirs, path, words)
		}
	}
	out := mine
	if len(base.Content) == 0 || len(base.Content)*max(len(mine.Content), len(theirs.Content)) > maxCompared {
		out.Content = f.blocks(document.Clone(mine.Content))
		return markup.Canonical(out), f.kept
	}
	b := fieldTexts(base)
	cut := cutThreeWays(base, theirs, mine, b, fieldTexts(theirs), pairedWith(b, fieldTexts(mine)))
	out.Content = nil
	for i, keep := range cut.keep {
		for _, k := range keep {
			if k.base != nil && blockText(mine, k.mine) == blockText(base, k.base) {
				out.Content = append(out.Content, document.Clone([]document.Node{*k.theirs})...)
			} else {
				out.Content = append(out.Content, f.blocks(document.Clone([]document.Node{*k.mine}))...)
			}
		}
		switch {
		case i == len(cut.diffs):
		case cut.diffs[i].Conflict:
			out.Content = append(out.Content, f.blocks(document.Clone(cut.diffs[i].Mine))...)
		default:
			out.Content = append(out.Content, document.Clone(cut.diffs[i].Theirs)...)
		}
	}
	if len(out.Content) == 0 {
		out.Content = []document.Node{document.NewParagraph()}
	}
	return markup.Canonical(out), f.kept
}

// fieldTexts gives the text form of every block with its fields instead of their
// words, so that what two merges of one template wrote for it is the same.
func fieldTexts(d document.Document) []string {
	d.Content = document.Clone(d.Content)
	document.EachLine(d.Content, func(line *document.Node) {
		var out []document.Node
		for _, n := range line.Content {
			path := ""
			if m := document.MergedMark(&n); m != nil {
				path = m.Path
			} else if n.Type == document.GapNode {
				path = n.Attrs.Path
			}
			n.Marks = slices.DeleteFunc(slices.Clone(n.Marks), func(m document.Mark) bool { return m.Type == document.Merged || m.Type == document.Link })
			if path != "" {
				if k := len(out) - 1; k >= 0 && out[k].Type == document.Field && out[k].Attrs.Path == path {
					continue
				}
				n = document.Node{Type: document.Field, Attrs: &document.Attrs{Path: path}, Marks: n.Marks}
			}
			out = append(out, n)
		}
		line.Content = out
	})
	return blockTexts(d)
}

// pairedWith gives the texts of the blocks of a letter, where an edited one, which
// stands where one of its template stood, has the text of that.
func pairedWith(base, mine []string) []string {
	ib, im := 0, 0
	for i, k := range append(common(base, mine), len(mine)) {
		if k < 0 {
			continue
		}
		if i-ib == k-im {
			copy(mine[im:k], base[ib:i])
		}
		ib, im = i+1, k+1
	}
	return mine
}

// maxCompared is how many pairs of blocks are compared; in longer letters only the
// words of fields are written anew.
const maxCompared = 4 << 20

// Typed gives a letter in which the words that filled its blanks are the writer's
// own, as any others.
func Typed(d document.Document) document.Document {
	d.Content = document.Clone(d.Content)
	eachWord(d.Content, func(n *document.Node) {
		n.Marks = slices.DeleteFunc(slices.Clone(n.Marks), func(m document.Mark) bool {
			return m.Type == document.Merged && m.Attrs != nil && strings.HasPrefix(m.Attrs.Path, "?")
		})
	})
	return d
}

type remerger struct {
	old, now Record
	body     string
	links    map[string]*document.Attrs // the new address and its gaps, by the old one
	instead  map[string]string          // the words of fields as the template was merged
	kept     []Kept
}

func (f *remerger) blocks(nodes []document.Node) []document.Node {
	out := make([]document.Node, 0, len(nodes))
	for _, n := range nodes {
		if n.Attrs != nil && (n.Attrs.Href != "" || n.Attrs.Src != "") {
			a := *n.Attrs
			for _, address := range []*string{&a.Href, &a.Src} {
				if other := f.links[*address]; other != nil {
					*address, a.Gaps = other.Href, other.Gaps
				}
			}
			n.Attrs = &a
		}
		if !document.HoldsWords(n.Type) {
			n.Content = f.blocks(n.Content)
			out = append(out, n)
			continue
		}
		pieces, changed := f.line(n.Content)
		if changed && len(pieces) == 0 && f.body == document.BodyPlain {
			continue // the further lines of a long value
		}
		lines := template.Lines(pieces, false, f.body != document.BodyPlain)
		if f.body == document.BodyFormatted {
			n.Content = lines[0].Content
			lines = []document.Node{n}
		}
		out = append(out, lines...)
	}
	return out
}

// line gives the words of one line as pieces with the new values.
func (f *remerger) line(nodes []document.Node) (out []template.Piece, changed bool) {
	for i := 0; i < len(nodes); i++ {
		p := asPiece(nodes[i])
		for k := i + 1; p.Path != "" && k < len(nodes); k++ {
			// A value with line breaks is in pieces with breaks between them.
			next, more := asPiece(nodes[k]), 1
			if next.Brk && k+1 < len(nodes) {
				next, more = asPiece(nodes[k+1]), 2
				next.Text = "\n" + next.Text
			}
			if next.Path != p.Path || next.In != p.In {
				break
			}
			p.Text += next.Text
			k += more - 1
			i = k
		}
		p.Marks = f.marks(p.Marks)
		before := p
		f.word(&p)
		changed = changed || p.Text != before.Text || p.Gap != before.Gap
		if p.Text != "" || p.Gap != nil || p.Brk {
			out = append(out, p)
		}
	}
	return out, changed
}

// word gives a merged piece or a gap the value of the new record.
func (f *remerger) word(p *template.Piece) {
	if p.Gap != nil {
		if words, ok := f.now.write(p.Gap.Path, ""); ok {
			p.Text, p.Path, p.In, p.Gap = words, p.Gap.Path, safehtml.PlaceNamed(p.Gap.Place), nil
		}
		return
	}
	if p.Path == "" || strings.HasPrefix(p.Path, "?") {
		return
	}
	before, had := f.old.write(p.Path, "")
	if after, has := f.now.write(p.Path, ""); had == has && before == after && (had || f.instead[p.Path] == p.Text) {
		return // the same for both, or for both what is said instead
	}
	as, untouched := f.old.formOf(p.Path, p.Text)
	if had && !untouched {
		switch lines := strings.Split(document.NormalLines(before), "\n"); {
		case f.body != document.BodyPlain || !slices.Contains(lines, p.Text):
			f.kept = append(f.kept, Kept{p.Path, p.Text})
			p.Path = ""
			return
		case lines[0] != p.Text:
			p.Text = "" // a further line of a long value
			return
		}
	}
	words, ok := f.now.write(p.Path, as)
	if ok {
		p.Text = words
		return
	}
	p.Gap, p.Text = &document.Attrs{Path: p.Path, Label: f.now.Values.Label(p.Path), Place: safehtml.PlaceNames[p.In]}, ""
	p.Path = ""
}

// marks gives marks whose links lead where the new records say.
func (f *remerger) marks(marks []document.Mark) []document.Mark {
	for i, m := range marks {
		if m.Type != document.Link || m.Attrs == nil || f.links[m.Attrs.Href] == nil {
			continue
		}
		other := f.links[m.Attrs.Href]
		a := *m.Attrs
		a.Href, a.Gaps = other.Href, other.Gaps
		marks = slices.Clone(marks)
		marks[i].Attrs = &a
	}
	return marks
}

// linkPairs pairs the addresses in two merges of one template, when both have as
// many.
func linkPairs(base, theirs document.Document) map[string]*document.Attrs {
	var a, b []document.Attrs
	collectLinks(base.Content, &a)
	collectLinks(theirs.Content, &b)
	if len(a) != len(b) {
		return nil
	}
	out := map[string]*document.Attrs{}
	for i := range a {
		if a[i].Href != b[i].Href || len(a[i].Gaps) != len(b[i].Gaps) {
			out[a[i].Href] = &b[i]
		}
	}
	return out
}

func collectLinks(nodes []document.Node, out *[]document.Attrs) {
	for i := range nodes {
		n := &nodes[i]
		if n.Attrs != nil && (n.Attrs.Href != "" || n.Attrs.Src != "") {
			*out = append(*out, document.Attrs{Href: n.Attrs.Href + n.Attrs.Src, Gaps: n.Attrs.Gaps})
		}
		if link := document.LinkOf(n); link != nil {
			*out = append(*out, document.Attrs{Href: link.Href, Gaps: link.Gaps})
		}
		collectLinks(n.Content, out)
	}
}

// Edited finds merged words that the writer made others than their record has, one
// for each field. Words that filled a gap are none.
func Edited(r Record, docs ...document.Document) []Kept {
	var out []Kept
	for _, d := range docs {
		document.EachLine(d.Content, func(line *document.Node) {
			for _, w := range runsIn(line.Content) {
				words := strings.TrimSpace(w.words)
				if words == "" || strings.HasPrefix(w.path, "?") || slices.ContainsFunc(out, func(k Kept) bool { return k.Path == w.path }) {
					continue
				}
				if _, had := r.write(w.path, ""); !had {
					continue
				}
				if _, as := r.formOf(w.path, words); !as {
					out = append(out, Kept{w.path, words})
				}
			}
		})
	}
	return out
}

// Forms gives every way in which a value of the records is written, each once: for the reader, and
// as it is stored.
func (r Record) Forms(path string) []string {
	v := r.Values.Get(path)
	if !v.Filled() {
		return nil
	}
	var out []string
	for _, as := range append([]field.Form{""}, field.FormsOf(v.Type)...) {
		if words, ok := r.write(path, as); ok && !slices.Contains(out, words) {
			out = append(out, words)
		}
	}
	if plain := v.String(); plain != "" && !slices.Contains(out, plain) {
		out = append(out, plain)
	}
	return out
}

// StandsIn gives the words of a list that stand in documents where no field wrote them, each once,
// whatever their case. What is within a longer one that was found is not told for itself.
func StandsIn(known []Kept, docs ...document.Document) []Kept {
	known = slices.Clone(known)
	slices.SortStableFunc(known, func(a, b Kept) int { return len(b.Words) - len(a.Words) })
	var out []Kept
	for _, d := range docs {
		eachWords(d.Content, func(n *document.Node) {
			text := n.Text
			for _, k := range known {
				for from, to := FindFolded(text, k.Words, 0); from >= 0; from, to = FindFolded(text, k.Words, to) {
					if one := (Kept{k.Path, text[from:to]}); !slices.Contains(out, one) {
						out = append(out, one)
					}
					text = text[:from] + strings.Repeat("\x00", to-from) + text[to:]
				}
			}
		})
	}
	return out
}
