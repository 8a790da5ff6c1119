package render

import (
	"testing"
)

// Words on a colour: WCAG 2.2, definition of "contrast ratio".
func TestWordsOn(t *testing.T) {
	for color, want := range map[string]string{"#ffffff": "#000000", "#000000": "#ffffff", "#1f4d3a": "#ffffff", "#f0d060": "#000000", "#777777": "#000000", "#757575": "#ffffff", "no": "#000000"} {
		if got := wordsOn(color); got != want {
			t.Errorf("on %s: %s, want %s", color, got, want)
		}
	}
	if l := luminance("#ffffff"); l < 0.9999 || l > 1.0001 {
		t.Errorf("white has the luminance %f", l)
	}
}
