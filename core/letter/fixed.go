package letter

import (
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Words of a letter that are fixed carry a mark; blocks of a formatted letter stand
// in a fixed block. Both only show what is fixed: what counts is the wording that
// was merged, which is kept with the letter and looked for before it goes.

// OpenPlace stands in fixed wording for a gap, which the writer fills.
const OpenPlace = "\uFFFC"

// leadsTo begins a stretch that is an address; no wording holds it.
const leadsTo = "\x01"

// FixedWording gives the stretches of a merged body that must stay, in order, and
// behind them the addresses that fixed links, pictures and buttons lead to, each
// behind a U+0001. A gap in words is U+FFFC; an address with a gap is left out.
func FixedWording(d document.Document) []string {
	f := fixedFinder{}
	f.blocks(d.Content, false)
	f.end()
	// One link is several nodes where its words look different, or are merged.
	return append(f.out, slices.Compact(f.addresses)...)
}

type fixedFinder struct {
	out, addresses []string
	cur            strings.Builder
}

func (f *fixedFinder) address(href string, gaps int) {
	if href != "" && gaps == 0 {
		f.addresses = append(f.addresses, leadsTo+href)
	}
}

func (f *fixedFinder) end() {
	if s := strings.TrimSpace(f.cur.String()); s != "" {
		f.out = append(f.out, s)
	}
	f.cur.Reset()
}

func (f *fixedFinder) blocks(nodes []document.Node, fixed bool) {
	for i := range nodes {
		n := &nodes[i]
		if fixed && n.Attrs != nil {
			f.address(n.Attrs.Href, len(n.Attrs.Gaps))
		}
		if !document.HoldsWords(n.Type) {
			if n.Type == document.Image {
				f.end()
			}
			if n.Type == document.Image && fixed {
				src := n.Attrs.Src
				for _, g := range n.Attrs.Gaps {
					src = strings.ReplaceAll(src, "{{"+g.Path+"}}", OpenPlace)
				}
				f.out = append(f.out, src)
			}
			f.blocks(n.Content, fixed || n.Type == document.Fixed)
			continue
		}
		for k := range n.Content {
			w := &n.Content[k]
			if link := document.LinkOf(w); link != nil && (fixed || isFixed(w)) {
				f.address(link.Href, len(link.Gaps))
			}
			switch {
			case !fixed && !isFixed(w):
				f.end()
			case w.Type == document.GapNode:
				f.cur.WriteString(OpenPlace)
			case w.Type == document.Break:
				f.cur.WriteByte('\n')
			default:
				f.cur.WriteString(w.Text)
			}
		}
		if len(n.Content) == 0 || !fixed && !isFixed(&n.Content[len(n.Content)-1]) {
			f.end()
		} else {
			f.cur.WriteByte('\n')
		}
	}
}

func isFixed(n *document.Node) bool {
	for _, m := range n.Marks {
		if m.Type == document.FixedMark {
			return true
		}
	}
	return false
}

// CorrectFixed gives fixed wording in which the words that a field was merged as are
// others, by their provenance in the body that it was taken from: the same words in
// other places stay.
func CorrectFixed(fixed []string, body document.Document, path, words string) []string {
	before, after := FixedWording(body), FixedWording(Correct(body, path, words))
	if len(before) != len(after) {
		return fixed
	}
	out := slices.Clone(fixed)
	from := 0
	for i, stretch := range out {
		// What was a gap when the wording was fixed may be filled by now.
		for k := from; k < len(before); k++ {
			if before[k] == stretch || strings.Contains(stretch, OpenPlace) && find(before[k], 0, strings.Split(stretch, OpenPlace)) >= 0 {
				if before[k] != after[k] {
					out[i] = after[k]
				}
				from = k + 1
				break
			}
		}
	}
	return out
}

// CheckFixed looks for fixed wording in a body and gives a red note for every
// stretch that was changed, moved or taken out.
func CheckFixed(fixed []string, body document.Document) []document.Note {
	var notes []document.Note
	text, addresses := wordsOf(body), addressesOf(body)
	at := 0
	for _, stretch := range fixed {
		if address, ok := strings.CutPrefix(stretch, leadsTo); ok {
			if k := slices.Index(addresses, address); k >= 0 {
				addresses = addresses[k+1:]
				continue
			}
			notes = append(notes, document.Note{
				Severity: document.Stops, Code: "fixed", Part: document.Body, Line: 1, Column: 1, Text: address,
				Message: fmt.Sprintf("The template has a fixed link to %s; change it back.", markup.Clip(address, 80)),
			})
			continue
		}
		end := find(text, at, strings.Split(stretch, OpenPlace))
		if end >= 0 {
			at = end
			continue
		}
		said := markup.Clip(strings.Join(strings.Fields(strings.ReplaceAll(stretch, OpenPlace, "…")), " "), 60)
		notes = append(notes, document.Note{
			Severity: document.Stops, Code: "fixed", Part: document.Body, Line: 1, Column: 1, Text: stretch,
			Message: fmt.Sprintf("“%s” is fixed wording of the template; change it back.", said),
		})
	}
	return notes
}

// find looks for the parts one after the other, from an offset on, and gives where
// the last ends, or -1.
func find(text string, at int, parts []string) int {
	for _, p := range parts {
		k := strings.Index(text[at:], p)
		if k < 0 {
			return -1
		}
		at += k + len(p)
	}
	return at
}

// wordsOf gives all words of a body as they stand, block by block.
func wordsOf(d document.Document) string {
	var b strings.Builder
	var walk func(nodes []document.Node)
	walk = func(nodes []document.Node) {
		for i := range nodes {
			n := &nodes[i]
			switch {
			case n.Type == document.Image:
				b.WriteString(n.Attrs.Src + "\n")
			case !document.HoldsWords(n.Type):
				walk(n.Content)
			default:
				for k := range n.Content {
					if n.Content[k].Type == document.Break {
						b.WriteByte('\n')
					}
					b.WriteString(n.Content[k].Text)
				}
				b.WriteByte('\n')
			}
		}
	}
	walk(d.Content)
	return b.String()
}
