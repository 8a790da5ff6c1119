package letter

import (
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Difference is a place at which a template that a copy was made of has changed:
// the paragraphs as both began, as the original has them now, and as the copy has
// them. Conflict tells that the copy was changed there too.
type Difference struct {
	Base     []document.Node
	Theirs   []document.Node
	Mine     []document.Node
	Conflict bool
}

// threeWay is a copy cut into what is to be kept and what may be taken over.
type threeWay struct {
	keep  [][]keptBlock // before, between and behind the differences
	diffs []Difference
}

// keptBlock is a block of the copy, with what it is in the base and the original
// where all three have it.
type keptBlock struct{ mine, base, theirs *document.Node }

// Differences tells what of the original changed since the copy was made, by
// paragraph, in the order of the copy (diff3: Khanna, Kunal and Pierce, "A Formal
// Investigation of Diff3", section 2; that of the paragraphs is the longest common
// sequence). What both changed alike is no difference.
func Differences(base, theirs, mine document.Document) []Difference {
	return cutThreeWays(base, theirs, mine, blockTexts(base), blockTexts(theirs), blockTexts(mine)).diffs
}

// TakeOver gives the copy with some of the differences taken over, by their
// index. In a formatted body all of it comes with the look of its sheet.
func TakeOver(base, theirs, mine document.Document, take []int) document.Document {
	t := cutThreeWays(base, theirs, mine, blockTexts(base), blockTexts(theirs), blockTexts(mine))
	out := mine
	out.Content = nil
	for i, keep := range t.keep {
		for _, k := range keep {
			out.Content = append(out.Content, *k.mine)
		}
		switch {
		case i == len(t.diffs):
		case slices.Contains(take, i):
			out.Content = append(out.Content, t.diffs[i].Theirs...)
		default:
			out.Content = append(out.Content, t.diffs[i].Mine...)
		}
	}
	if len(out.Content) == 0 {
		out.Content = []document.Node{document.NewParagraph()}
	}
	return markup.Canonical(out)
}

// cutThreeWays cuts three documents by what their blocks are compared as: b, t, m.
func cutThreeWays(base, theirs, mine document.Document, b, t, m []string) threeWay {
	inTheirs, inMine := common(b, t), common(b, m)
	var out threeWay
	out.keep = [][]keptBlock{nil}
	last := func() *[]keptBlock { return &out.keep[len(out.keep)-1] }
	ib, it, im := 0, 0, 0
	for {
		// The next paragraph that all three have.
		stop := ib
		for stop < len(b) && (inTheirs[stop] < 0 || inMine[stop] < 0) {
			stop++
		}
		endT, endM := len(t), len(m)
		if stop < len(b) {
			endT, endM = inTheirs[stop], inMine[stop]
		}
		d := Difference{Base: base.Content[ib:stop], Theirs: theirs.Content[it:endT], Mine: mine.Content[im:endM]}
		switch {
		case slices.Equal(b[ib:stop], t[it:endT]), slices.Equal(t[it:endT], m[im:endM]):
			for i := range d.Mine {
				*last() = append(*last(), keptBlock{mine: &d.Mine[i]})
			}
		default:
			d.Conflict = !slices.Equal(b[ib:stop], m[im:endM])
			out.diffs = append(out.diffs, d)
			out.keep = append(out.keep, nil)
		}
		if stop == len(b) {
			return out
		}
		*last() = append(*last(), keptBlock{&mine.Content[endM], &base.Content[stop], &theirs.Content[endT]})
		ib, it, im = stop+1, endT+1, endM+1
	}
}

// blockTexts gives the text form of every block.
func blockTexts(d document.Document) []string {
	out := make([]string, len(d.Content))
	for i := range d.Content {
		out[i] = blockText(d, &d.Content[i])
	}
	return out
}

func blockText(d document.Document, n *document.Node) string {
	d.Content = []document.Node{*n}
	return markup.Print(d)
}

// common gives for each of a its place in b in a longest common sequence, or -1.
func common(a, b []string) []int {
	long := make([][]int, len(a)+1)
	for i := range long {
		long[i] = make([]int, len(b)+1)
	}
	for i := len(a) - 1; i >= 0; i-- {
		for k := len(b) - 1; k >= 0; k-- {
			if a[i] == b[k] {
				long[i][k] = long[i+1][k+1] + 1
			} else {
				long[i][k] = max(long[i+1][k], long[i][k+1])
			}
		}
	}
	out := make([]int, len(a))
	for i, k := 0, 0; i < len(a); i++ {
		out[i] = -1
		for k < len(b) && a[i] != b[k] && long[i][k] == long[i][k+1] {
			k++
		}
		if k < len(b) && a[i] == b[k] {
			out[i] = k
			k++
		}
	}
	return out
}
