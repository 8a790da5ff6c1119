package render

import (
	"lucidletter/core/document"
)

// bidi gives the attribute and the style of a block whose words run otherwise than
// the letter, and where its words stand.
func (w *htmlWriter) bidi(n *document.Node, align string) (attr, style string) {
	d := document.DirectionOf(n)
	if d == "" || d == direction(w.sheet.Lang) {
		return "", aligned(align)
	}
	if align == "" {
		align = document.SideOf(d)
	}
	return ` dir="` + d + `"`, aligned(align)
}

// indent is a space at the side where the words of a letter begin.
func (w *htmlWriter) indent(px string) string {
	if direction(w.sheet.Lang) == document.FromRight {
		return "0 " + px + "px 0 0"
	}
	return "0 0 0 " + px + "px"
}
