package letter

import (
	"golang.org/x/text/unicode/bidi"
)

// The directions of a paragraph.
const (
	fromLeft  = "ltr"
	fromRight = "rtl"
)

// directionOf is that of a line of words: of its first letter that has one (Unicode
// Standard Annex 9, rules P2 and P3), "" without any. A value that was merged does
// not turn the words around it.
func directionOf(n *Node) string {
	for i := range n.Content {
		if w := &n.Content[i]; w.Type == Text && mergedMark(w) == nil {
			if d := firstStrong(w.Text); d != "" {
				return d
			}
		}
	}
	return ""
}

func firstStrong(s string) string {
	for i := 0; i < len(s); {
		if c := s[i] | 0x20; c >= 'a' && c <= 'z' {
			return fromLeft
		}
		p, size := bidi.LookupString(s[i:])
		if size == 0 {
			return ""
		}
		switch p.Class() {
		case bidi.L:
			return fromLeft
		case bidi.R, bidi.AL:
			return fromRight
		}
		i += size
	}
	return ""
}

// turned gives the attribute and the style of a block whose words run otherwise than
// the letter, and where its words stand.
func (w *htmlWriter) turned(n *Node, align string) (attr, style string) {
	d := directionOf(n)
	if d == "" || d == direction(w.sheet.Lang) {
		return "", aligned(align)
	}
	if align == "" {
		align = sideOf(d)
	}
	return ` dir="` + d + `"`, aligned(align)
}

func sideOf(direction string) string {
	if direction == fromRight {
		return "right"
	}
	return "left"
}

// indent is a space at the side where the words of a letter begin.
func (w *htmlWriter) indent(px string) string {
	if direction(w.sheet.Lang) == fromRight {
		return "0 " + px + "px 0 0"
	}
	return "0 0 0 " + px + "px"
}
