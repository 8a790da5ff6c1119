package letter

import (
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// TakeOut takes a piece that was put into a letter out of it again: its blocks that
// stand as they came, whatever its gaps were filled with, or its words where it is
// one line that stands in another. What stands whole, block by block, is taken before
// single blocks that read the same elsewhere. What was changed stays. Instead, if any, goes
// where the piece began. Out and left count the blocks of the piece that went and
// that stayed.
func TakeOut(d, piece, instead document.Document) (after document.Document, out, left int) {
	content, first := document.Clone(d.Content), -1
	from := 0
	if at := wholeRun(content, piece.Content); at >= 0 {
		content, first = slices.Delete(content, at, at+len(piece.Content)), at
		for i := range piece.Content {
			if piece.Content[i].Type != document.Paragraph || !document.HasNoWords(piece.Content[i]) {
				out++
			}
		}
		piece.Content = nil
	}
	for i := range piece.Content {
		pattern := patternOf(&piece.Content[i])
		if piece.Content[i].Type == document.Paragraph && document.HasNoWords(piece.Content[i]) && len(piece.Content) > 1 {
			// An empty line goes with the lines around it.
			if first >= 0 && from < len(content) && document.HasNoWords(content[from]) {
				content = slices.Delete(content, from, from+1)
			}
			continue
		}
		at := slices.IndexFunc(content[from:], func(n document.Node) bool { return matches(pattern, patternOf(&n)) })
		switch {
		case at >= 0:
			from += at
			content = slices.Delete(content, from, from+1)
			out++
		case len(piece.Content) == 1 && cutWords(content, pattern):
			out++
			continue
		default:
			left++
			continue
		}
		if first < 0 {
			first = from
		}
	}
	if len(instead.Content) > 0 {
		if first < 0 {
			first = len(content)
		}
		content = slices.Insert(content, first, document.Clone(instead.Content)...)
	}
	if len(content) == 0 {
		content = []document.Node{document.NewParagraph()}
	}
	d.Content = content
	return markup.Canonical(d), out, left
}

// wholeRun gives where the blocks of a piece of more than one stand one behind the
// other for the last time, or -1.
func wholeRun(content, piece []document.Node) int {
	if len(piece) < 2 {
		return -1
	}
	patterns := make([]string, len(piece))
	for i := range piece {
		patterns[i] = patternOf(&piece[i])
	}
	for at := len(content) - len(piece); at >= 0; at-- {
		same := true
		for i := 0; same && i < len(piece); i++ {
			same = matches(patterns[i], patternOf(&content[at+i]))
		}
		if same {
			return at
		}
	}
	return -1
}

// patternOf gives the words of a block, with U+FFFC for its gaps.
func patternOf(n *document.Node) string {
	var b strings.Builder
	var walk func(nodes []document.Node)
	walk = func(nodes []document.Node) {
		for i := range nodes {
			switch n := &nodes[i]; n.Type {
			case document.Text:
				b.WriteString(n.Text)
			case document.GapNode:
				b.WriteString(OpenPlace)
			case document.Break:
				b.WriteByte('\n')
			case document.Image:
				b.WriteString("\n" + n.Attrs.Src + "\n")
			default:
				walk(n.Content)
				b.WriteByte('\n')
			}
		}
	}
	walk(n.Content)
	return string(n.Type) + "\n" + b.String()
}

// matches tells whether a text is a pattern with something in its gaps.
func matches(pattern, text string) bool {
	parts := strings.Split(pattern, OpenPlace)
	text, ok := strings.CutPrefix(text, parts[0])
	if !ok || len(parts) == 1 {
		return ok && text == ""
	}
	for _, part := range parts[1 : len(parts)-1] {
		i := strings.Index(text, part)
		if i < 0 {
			return false
		}
		text = text[i+len(part):]
	}
	return strings.HasSuffix(text, parts[len(parts)-1])
}

// cutWords takes the words of a one-line piece out of the first line that holds
// them. A piece with gaps is found in whole lines only.
func cutWords(nodes []document.Node, pattern string) bool {
	_, words, _ := strings.Cut(pattern, "\n")
	if words == "" || strings.Contains(words, OpenPlace) {
		return false
	}
	for i := range nodes {
		n := &nodes[i]
		if !document.HoldsWords(n.Type) {
			if cutWords(n.Content, pattern) {
				return true
			}
			continue
		}
		_, line, _ := strings.Cut(patternOf(n), "\n")
		if at := strings.Index(line, words); at >= 0 {
			n.Content = without(n.Content, at, at+len(words))
			return true
		}
	}
	return false
}

// without gives inlines without the bytes from to to of their words.
func without(nodes []document.Node, from, to int) []document.Node {
	var out []document.Node
	at := 0
	for _, n := range nodes {
		size := len(n.Text)
		switch n.Type {
		case document.GapNode:
			size = len(OpenPlace)
		case document.Break:
			size = 1
		}
		a, b := max(from-at, 0), min(to-at, size)
		at += size
		switch {
		case a >= b:
			out = append(out, n)
		case n.Type != document.Text:
		default:
			if n.Text = n.Text[:a] + n.Text[b:]; n.Text != "" {
				out = append(out, n)
			}
		}
	}
	return out
}
