package render

import (
	"math"
	"strconv"

	"lucidletter/core/document"
)

// wordsOn gives black or white for words on a colour #rrggbb, whichever has the
// higher contrast (WCAG 2.2, definitions of "contrast ratio" and "relative
// luminance").
func wordsOn(color string) string {
	if color == usualButton {
		return "#ffffff" // as below
	}
	l := luminance(color)
	if 1.05/(l+0.05) >= (l+0.05)/0.05 {
		return "#ffffff"
	}
	return "#000000"
}

// luminance is the relative luminance of a colour #rrggbb, from 0 to 1; of what
// is no such colour that of white.
func luminance(color string) float64 {
	if !document.ColorForm.MatchString(color) {
		return 1
	}
	var sum float64
	for i, weight := range [...]float64{0.2126, 0.7152, 0.0722} {
		v, err := strconv.ParseUint(color[1+2*i:3+2*i], 16, 8)
		if err != nil {
			return 1
		}
		c := float64(v) / 255
		if c <= 0.04045 {
			c /= 12.92
		} else {
			c = math.Pow((c+0.055)/1.055, 2.4)
		}
		sum += weight * c
	}
	return sum
}
