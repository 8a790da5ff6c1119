package document

import (
	"testing"
)

// Rules P2 and P3 of Unicode Standard Annex 9: the first strong character decides,
// neutral ones and numbers before it do not.
func TestFirstStrong(t *testing.T) {
	for text, want := range map[string]string{
		"Hello": fromLeft, "שלום": FromRight, "مرحبا": FromRight, "12 – (שלום)": FromRight, "«Привет»": fromLeft,
		"123 !?": "", "": "", "\u200fHello": FromRight, "你好": fromLeft,
	} {
		if got := firstStrong(text); got != want {
			t.Errorf("%q runs %q, want %q", text, got, want)
		}
	}
}
