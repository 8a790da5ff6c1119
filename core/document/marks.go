package document

import (
	"slices"
)

// MarkWriter is what writes inlines whose marks become elements.
type MarkWriter interface {
	Open(Mark)
	End(Mark)
	// Inline writes the inline at i, whose marks are open.
	Inline(list []Node, i int, marks []Mark)
}

// Nest goes through inlines whose marks become elements: those that neighbours
// share are opened and closed once around both.
func Nest(list []Node, marksOf func(*Node) []Mark, w MarkWriter) {
	var few [4]Mark
	stack := few[:0]
	for i := range list {
		marks := marksOf(&list[i])
		k := 0
		for k < len(marks) && k < len(stack) && SameMarks(marks[k:k+1], stack[k:k+1]) {
			k++
		}
		for len(stack) > k {
			w.End(stack[len(stack)-1])
			stack = stack[:len(stack)-1]
		}
		for _, m := range marks[k:] {
			w.Open(m)
			stack = append(stack, m)
		}
		w.Inline(list, i, marks)
	}
	for k := len(stack) - 1; k >= 0; k-- {
		w.End(stack[k])
	}
}

// outerOrder is how marks stand in each other in what is sent: a link is the
// outermost.
var outerOrder = []string{Link, TextStyle, Highlight, Bold, Italic, Underline, Strike}

// OrderedMarks gives the marks that show, the outermost first.
func OrderedMarks(n *Node) []Mark {
	rank, last := 0, -1
	for i := range n.Marks {
		if unseenMark(n.Marks[i]) && !slices.ContainsFunc(n.Marks[i+1:], func(m Mark) bool { return !unseenMark(m) }) {
			return n.Marks[:i]
		}
		if rank = slices.Index(outerOrder, n.Marks[i].Type); rank < last || rank < 0 {
			return sortedMarks(n.Marks)
		}
		last = rank
	}
	return n.Marks
}

// unseenMark tells whether a mark does not show in what is sent.
func unseenMark(m Mark) bool { return m.Type == Merged || m.Type == FixedMark || m.Type == LeftOut }

func sortedMarks(marks []Mark) []Mark {
	out := make([]Mark, 0, len(marks))
	for _, t := range outerOrder {
		if k := slices.IndexFunc(marks, func(m Mark) bool { return m.Type == t }); k >= 0 {
			out = append(out, marks[k])
		}
	}
	return out
}

// Empty tells whether nothing is set.
func (a *MarkAttrs) Empty() bool {
	return a.Path == "" && a.Place == "" && a.Href == "" && a.Color == "" && a.FontFamily == "" && a.FontSize == "" && len(a.Gaps) == 0
}

// SameMarks tells whether two lists hold the same marks in the same order.
func SameMarks(a, b []Mark) bool {
	return slices.EqualFunc(a, b, func(x, y Mark) bool {
		if x.Type != y.Type {
			return false
		}
		if x.Attrs == nil || y.Attrs == nil {
			return x.Attrs == y.Attrs
		}
		p, q := x.Attrs, y.Attrs
		return p.Path == q.Path && p.Place == q.Place && p.Href == q.Href && p.Color == q.Color && p.FontFamily == q.FontFamily &&
			p.FontSize == q.FontSize && len(p.Gaps)+len(q.Gaps) == 0
	})
}
