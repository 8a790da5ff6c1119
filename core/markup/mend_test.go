package markup_test

import (
	"math/rand/v2"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
)

// Whatever an editor sends can be stored, and no word of it is lost.
func TestMend_properties(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 4))
	for i := range 500 {
		next := 0
		d := document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: r.IntN(3), Body: []string{document.BodyPlain, document.BodyFormatted, document.BodyHTML, "x"}[r.IntN(4)], Lang: []string{"", "de", "??"}[r.IntN(3)], Size: r.IntN(200)}, Content: lettertest.RandomTree(r, 0, &next)}
		before := lettertest.AllWords(d.Content)
		got := markup.Mend(d)
		if err := document.CheckLetterForm(got); err != nil {
			t.Fatalf("%d: %v of %+v\n%+v", i, err, d, got)
		}
		if after := lettertest.AllWords(got.Content); after != before {
			t.Fatalf("%d: %q became %q", i, before, after)
		}
		if again := markup.Mend(got); lettertest.AllWords(again.Content) != before {
			t.Fatalf("%d: mended twice it says %q", i, lettertest.AllWords(again.Content))
		}
	}
}
