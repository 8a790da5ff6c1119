package letter

import "slices"

// nested is what writes inlines whose marks become elements.
type nested interface {
	open(Mark)
	end(Mark)
	// node writes the inline at i, whose marks are open.
	node(list []Node, i int, marks []Mark)
}

// nest goes through inlines whose marks become elements: those that neighbours
// share are opened and closed once around both.
func nest(list []Node, marksOf func(*Node) []Mark, w nested) {
	var few [4]Mark
	stack := few[:0]
	for i := range list {
		marks := marksOf(&list[i])
		k := 0
		for k < len(marks) && k < len(stack) && sameMarks(marks[k:k+1], stack[k:k+1]) {
			k++
		}
		for len(stack) > k {
			w.end(stack[len(stack)-1])
			stack = stack[:len(stack)-1]
		}
		for _, m := range marks[k:] {
			w.open(m)
			stack = append(stack, m)
		}
		w.node(list, i, marks)
	}
	for k := len(stack) - 1; k >= 0; k-- {
		w.end(stack[k])
	}
}

// outerOrder is how marks stand in each other in what is sent: a link is the
// outermost.
var outerOrder = []string{Link, TextStyle, Highlight, Bold, Italic, Underline, Strike}

// orderedMarks gives the marks that show, the outermost first.
func orderedMarks(n *Node) []Mark {
	rank, last := 0, -1
	for i := range n.Marks {
		if unseenMark(n.Marks[i]) && (i == len(n.Marks)-1 || i == len(n.Marks)-2 && unseenMark(n.Marks[i+1])) {
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
func unseenMark(m Mark) bool { return m.Type == Merged || m.Type == FixedMark }

func sortedMarks(marks []Mark) []Mark {
	out := make([]Mark, 0, len(marks))
	for _, t := range outerOrder {
		if k := slices.IndexFunc(marks, func(m Mark) bool { return m.Type == t }); k >= 0 {
			out = append(out, marks[k])
		}
	}
	return out
}
