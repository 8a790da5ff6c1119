package letter

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

func lines(words string) document.Document { return markup.Parse(strings.ReplaceAll(words, " ", "\n")) }

func TestDifferences(t *testing.T) {
	for _, row := range []struct {
		base, theirs, mine string
		diffs              string // base>theirs, ! when mine changed there too
		take               []int
		want               string
	}{
		{"a b c", "a b c", "a x c", "", nil, "a x c"},
		{"a b c", "a B c", "a b c x", "b>B", []int{0}, "a B c x"},
		{"a b c", "a B c", "a b c x", "b>B", nil, "a b c x"},
		{"a b c", "a B c", "a mine c", "b>B!", []int{0}, "a B c"},
		{"a b c", "a B c", "a B c", "", nil, "a B c"},
		{"a b c", "a c", "a b c", "b>", []int{0}, "a c"},
		{"a c", "a b c", "a c", ">b", []int{0}, "a b c"},
		{"a b c d", "A b c D", "a b x c d", "a>A, d>D", []int{1}, "a b x c D"},
		{"a", "b", "c", "a>b!", []int{0}, "b"},
		{"a b", "b a", "a b", ">b, b>", []int{0, 1}, "b a"},
	} {
		var got []string
		for _, d := range Differences(lines(row.base), lines(row.theirs), lines(row.mine)) {
			one := func(nodes []document.Node) string {
				return strings.ReplaceAll(markup.Print(document.Document{Content: nodes}), "\n", " ")
			}
			s := one(d.Base) + ">" + one(d.Theirs)
			if d.Conflict {
				s += "!"
			}
			got = append(got, s)
		}
		if strings.Join(got, ", ") != row.diffs {
			t.Errorf("%+v: %s", row, strings.Join(got, ", "))
		}
		if merged := strings.ReplaceAll(markup.Print(TakeOver(lines(row.base), lines(row.theirs), lines(row.mine), row.take)), "\n", " "); merged != row.want {
			t.Errorf("%+v: merged %q", row, merged)
		}
	}
}

// Taking nothing keeps the copy; taking everything into an unchanged copy gives the original; a copy that
// changed elsewhere keeps its changes.
func TestTakeOver_properties(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	change := func(words []string) []string {
		out := slices.Clone(words)
		for range r.IntN(4) {
			at := r.IntN(len(out) + 1)
			switch {
			case r.IntN(3) == 0 && at < len(out):
				out = slices.Delete(out, at, at+1)
			case r.IntN(2) == 0 && at < len(out):
				out[at] = fmt.Sprint("c", r.IntN(5))
			default:
				out = slices.Insert(out, at, fmt.Sprint("n", r.IntN(5)))
			}
		}
		return append(out, "end")
	}
	for range 2000 {
		var words []string
		for range 1 + r.IntN(7) {
			words = append(words, fmt.Sprint("w", r.IntN(4)))
		}
		base, theirs, mine := lines(strings.Join(append(words, "end"), " ")), lines(strings.Join(change(words), " ")), lines(strings.Join(change(words), " "))
		if got := TakeOver(base, theirs, mine, nil); markup.Print(got) != markup.Print(mine) {
			t.Fatalf("%s, %s, %s: took %s", markup.Print(base), markup.Print(theirs), markup.Print(mine), markup.Print(got))
		}
		unchanged := []int{}
		for i := range Differences(base, theirs, base) {
			unchanged = append(unchanged, i)
		}
		if got := TakeOver(base, theirs, base, unchanged); markup.Print(got) != markup.Print(theirs) {
			t.Fatalf("%s, %s: %s", markup.Print(base), markup.Print(theirs), markup.Print(got))
		}
		if got := TakeOver(base, mine, mine, nil); markup.Print(got) != markup.Print(mine) || len(Differences(base, mine, mine)) != 0 {
			t.Fatalf("the same change: %s", markup.Print(got))
		}
	}
}
