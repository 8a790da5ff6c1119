package letter

import "slices"

// nest goes through inlines whose marks become elements: those that neighbours
// share are opened and closed once around both.
func nest(list []Node, marksOf func(*Node) []Mark, open, end func(Mark), node func(i int, marks []Mark)) {
	var stack []Mark
	closeTo := func(k int) {
		for ; len(stack) > k; stack = stack[:len(stack)-1] {
			end(stack[len(stack)-1])
		}
	}
	for i := range list {
		marks := marksOf(&list[i])
		k := 0
		for k < len(marks) && k < len(stack) && sameMarks(marks[k:k+1], stack[k:k+1]) {
			k++
		}
		closeTo(k)
		for _, m := range marks[k:] {
			open(m)
			stack = append(stack, m)
		}
		node(i, marks)
	}
	closeTo(0)
}

// outerOrder is how marks stand in each other in what is sent: a link is the
// outermost.
var outerOrder = []string{Link, TextStyle, Highlight, Bold, Italic, Underline, Strike}

// orderedMarks gives the marks that show, the outermost first.
func orderedMarks(n *Node) []Mark {
	if len(n.Marks) == 0 {
		return nil
	}
	out := make([]Mark, 0, len(n.Marks))
	for _, t := range outerOrder {
		if k := slices.IndexFunc(n.Marks, func(m Mark) bool { return m.Type == t }); k >= 0 {
			out = append(out, n.Marks[k])
		}
	}
	return out
}
