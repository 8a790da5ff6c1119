package template

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
)

// randomLine makes the pieces of a random line: words, values, gaps and what was left
// out, some of them bold.
func randomLine(r *rand.Rand) []Piece {
	words := []string{"Dear ", " ", ", ", ".", "your ", " room", "(", ")", " – ", ": ", "Closing date: ", "“", "”", "oak", "!", "  ", "-", "and so on"}
	var out []Piece
	for range 1 + r.IntN(8) {
		p := Piece{}
		if r.IntN(3) == 0 {
			p.Marks = []document.Mark{{Type: document.Bold}}
		}
		switch r.IntN(6) {
		case 0, 1, 2:
			p.Text = words[r.IntN(len(words))]
		case 3:
			p.Text, p.Path = []string{"Ada", " two  spaces ", ",", "(x)", "Ünal–Öz"}[r.IntN(5)], "person.city"
		case 4:
			p.Gap = &document.Attrs{Path: "person.city"}
		default:
			p.left = true
		}
		out = append(out, p)
	}
	return out
}

func textOfPieces(list []Piece) string {
	var b strings.Builder
	for _, p := range list {
		if p.Gap != nil {
			b.WriteString("‹›")
		}
		b.WriteString(p.Text)
	}
	return b.String()
}

// What tidying may do: values and gaps stay, word for word and in their order; of
// the rest only space and marks go; nothing is added; a line on which nothing was
// left out stays as it was.
func TestTidy_properties(t *testing.T) {
	valued := func(list []Piece) []string {
		out := []string{}
		for _, p := range list {
			if p.Path != "" || p.Gap != nil {
				out = append(out, fmt.Sprint(p.Text, p.Gap != nil, p.Marks))
			}
		}
		return out
	}
	letters := func(list []Piece) string {
		return strings.Map(func(r rune) rune {
			if strings.ContainsRune(" \t,.;:!?()[]{}\"“”‘’«»–—-|/·", r) {
				return -1
			}
			return r
		}, textOfPieces(list))
	}
	for seed := range uint64(40000) {
		in := randomLine(rand.New(rand.NewPCG(seed, 2)))
		left := slices.ContainsFunc(in, func(p Piece) bool { return p.left })
		out, keep := tidy(slices.Clone(in))
		if !keep {
			if slices.ContainsFunc(in, func(p Piece) bool { return p.Gap != nil || p.Path != "" && p.Text != "" }) || !left {
				t.Fatalf("seed %d: %q went as a whole", seed, textOfPieces(in))
			}
			continue
		}
		a, b := textOfPieces(in), textOfPieces(out)
		switch {
		case !slices.Equal(valued(in), valued(out)):
			t.Fatalf("seed %d: values %q became %q in %q", seed, valued(in), valued(out), b)
		case !left && a != b:
			t.Fatalf("seed %d: nothing was left out, and %q became %q", seed, a, b)
		case len(b) > len(a):
			t.Fatalf("seed %d: %q grew to %q", seed, a, b)
		case letters(in) != letters(out):
			t.Fatalf("seed %d: words of %q are gone in %q", seed, a, b)
		}
	}
}
