package template_test

import (
	"math/rand/v2"
	"testing"

	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/template"
)

// Every tree has a text form and comes back from it the same.
func TestPrint_everyTreeComesBack(t *testing.T) {
	cat := lettertest.Catalogue()
	for seed := range uint64(1500) {
		d := markup.Canonical(lettertest.Trees{R: rand.New(rand.NewPCG(seed, 3))}.Document())
		if err := d.Check(); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		text := markup.Print(d)
		back, err := markup.ParseMarkup(text)
		if err != nil {
			t.Fatalf("seed %d: %v in\n%s\n%s", seed, err, text, lettertest.JSONOf(t, d))
		}
		back.Attrs.Lang = "en"
		if a, b := lettertest.JSONOf(t, d), lettertest.JSONOf(t, back); a != b {
			t.Fatalf("seed %d:\n%s\n%s\n%s", seed, text, a, b)
		}
		if again := markup.Print(back); again != text {
			t.Fatalf("seed %d: printed again\n%s\n%s", seed, text, again)
		}
		if _, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat); len(notes) > 0 && notes[0].Code == "malformed" {
			t.Fatalf("seed %d: %v in\n%s", seed, notes, text)
		}
	}
}
