package field

import (
	"slices"
	"strings"
)

// Suggest gives up to n paths that a person may have meant by an unknown path,
// the likeliest first: by edit distance (Levenshtein, insertions, deletions and
// substitutions each 1) to the path, its key or its label. Paths further off
// than a third of what was typed are left out.
func (c *Catalogue) Suggest(path string, n int) []string {
	typed := strings.ToLower(strings.TrimSpace(path))
	_, key, dotted := strings.Cut(typed, ".")
	if !dotted {
		key = typed
	}
	words := strings.NewReplacer("_", " ", ".", " ").Replace(key)
	type guess struct {
		path string
		far  int
	}
	var found []guess
	for _, d := range c.defs {
		far := distance(typed, d.Path)
		// The key under another record, or the label in words, is one step
		// further away than the same mistake within the path.
		far = min(far, distance(key, d.Key())+1, distance(words, strings.ToLower(d.Label))+1)
		if far <= max(2, len(key)/3) {
			found = append(found, guess{d.Path, far})
		}
	}
	slices.SortStableFunc(found, func(a, b guess) int { return a.far - b.far })
	out := make([]string, 0, n)
	for _, g := range found {
		if len(out) < n {
			out = append(out, g.path)
		}
	}
	return out
}

// distance is the Levenshtein distance in bytes, cut off at 64 bytes of input:
// no path is that long.
func distance(a, b string) int {
	a, b = a[:min(len(a), 64)], b[:min(len(b), 64)]
	var row [65]int
	for j := range len(b) + 1 {
		row[j] = j
	}
	for i := range len(a) {
		diagonal := row[0]
		row[0] = i + 1
		for j := range len(b) {
			next := diagonal
			if a[i] != b[j] {
				next = 1 + min(diagonal, row[j], row[j+1])
			}
			diagonal, row[j+1] = row[j+1], next
		}
	}
	return row[len(b)]
}
