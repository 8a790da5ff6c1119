package field

import (
	"math/rand/v2"
	"testing"
)

// The short way takes nothing that the long one refuses, and most of what it takes.
func TestPlainAddress(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 3))
	const signs = "ab9.-_+@@..ZéÄ \"<>,[]%'"
	runes := []rune(signs)
	short, long := 0, 0
	for range 300_000 {
		s := ""
		for range 3 + r.IntN(12) {
			s += string(runes[r.IntN(len(runes))])
		}
		if r.IntN(3) > 0 {
			s = "a" + s + "@b" + string(runes[r.IntN(8)]) + "c.example"
		}
		full := checkEmail(s) == nil
		if full {
			long++
		}
		if plainAddress(s) {
			short++
			if !full {
				t.Fatalf("%q was taken", s)
			}
		}
	}
	if long == 0 || short*3 < long {
		t.Errorf("of %d good ones only %d took the short way", long, short)
	}
	for _, s := range []string{"ada@quill.example", "a.b-c+d_e@x1.y-z.example"} {
		if !plainAddress(s) {
			t.Errorf("%q takes the long way", s)
		}
	}
}
