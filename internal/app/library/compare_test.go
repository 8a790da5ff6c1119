package library

import (
	"math/rand/v2"
	"strings"
	"testing"
)

// What stayed and was removed is the earlier wording, what stayed and was added
// the later one, whatever the words are.
func TestCompareWordsLosesNothing(t *testing.T) {
	pieces := []string{"a", "red", "room", " ", " ", "\n", "\t", "é", "\u00a0", "漢字", "👩‍🚀", "{{person.first_name}}", "1.5", "\ufffd", "<b>", "–"}
	rng := rand.New(rand.NewPCG(4, 1)) //nolint:gosec // made-up wordings
	some := func() string {
		var s strings.Builder
		for range rng.IntN(40) {
			s.WriteString(pieces[rng.IntN(len(pieces))])
		}
		return s.String()
	}
	for range 2000 {
		a, b := some(), some()
		var was, is strings.Builder
		for _, s := range CompareWords(a, b) {
			if s.Kind != "added" {
				was.WriteString(s.Text)
			}
			if s.Kind != "removed" {
				is.WriteString(s.Text)
			}
		}
		if was.String() != a || is.String() != b {
			t.Fatalf("%q to %q: %q, %q", a, b, was.String(), is.String())
		}
	}
}
