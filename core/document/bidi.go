package document

import (
	"golang.org/x/text/unicode/bidi"
)

// The directions of a paragraph.
const (
	fromLeft  = "ltr"
	FromRight = "rtl"
)

// DirectionOf is that of a line of words: of its first letter that has one (Unicode
// Standard Annex 9, rules P2 and P3), "" without any. A value that was merged does
// not turn the words around it.
func DirectionOf(n *Node) string {
	for i := range n.Content {
		if w := &n.Content[i]; w.Type == Text && MergedMark(w) == nil {
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
			return FromRight
		}
		i += size
	}
	return ""
}

// SideOf gives the side on which words of a direction begin.
func SideOf(direction string) string {
	if direction == FromRight {
		return "right"
	}
	return "left"
}
