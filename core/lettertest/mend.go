package lettertest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"

	"lucidletter/core/document"
)

// AllWords gives every word in a tree, in order.
func AllWords(nodes []document.Node) string {
	var b strings.Builder
	for _, n := range nodes {
		b.WriteString(n.Text)
		b.WriteString(AllWords(n.Content))
	}
	return strings.NewReplacer("\n", "", "\r", "", "\x00", "").Replace(b.String())
}

// RandomTree makes a tree without regard to what may stand where.
func RandomTree(r *rand.Rand, depth int, next *int) []document.Node {
	var out []document.Node
	for range r.IntN(4) {
		types := slices.Sorted(func(yield func(document.NodeType) bool) {
			for t := range document.Rules {
				if t != document.Field && t != document.Blank && t != document.Passage && t != document.Comment && t != document.Malformed && t != document.GapNode && !yield(t) {
					return
				}
			}
			yield("unheard")
		})
		n := document.Node{Type: types[r.IntN(len(types))]}
		if r.IntN(2) == 0 {
			n.Attrs = &document.Attrs{Path: []string{"", "person.city"}[r.IntN(2)], Level: r.IntN(9), Width: r.IntN(5000), Align: []string{"", "left", "up"}[r.IntN(3)], Src: []string{"", "file:///x", "https://a.example"}[r.IntN(3)], Href: []string{"", "ftp://x y"}[r.IntN(2)], Color: []string{"", "red"}[r.IntN(2)]}
			n.Marks = []document.Mark{{Type: []string{document.Bold, document.Link, "wild", document.TextStyle}[r.IntN(4)], Attrs: &document.MarkAttrs{FontSize: []string{"", "900px", "12px"}[r.IntN(3)], Href: []string{"", "sms:1"}[r.IntN(2)]}}}
		}
		if n.Type == document.Text || n.Type == "unheard" {
			*next++
			n.Text = fmt.Sprintf("w%d\r\nit’s \x00x ", *next)
		} else if depth < 90 {
			n.Content = RandomTree(r, depth+1+r.IntN(20), next)
		}
		out = append(out, n)
	}
	return out
}
