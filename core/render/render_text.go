package render

import (
	"strconv"
	"strings"

	"github.com/rivo/uniseg"

	"lucidletter/core/document"
)

// RenderText writes the body or the subject of a letter as plain text with LF
// line ends: of a formatted body the plain part, with links as "words
// (address)", numbered lists, and tables whose columns stand below each other;
// of an HTML body what its page says. A gap is written as its label in ‹ ›, so
// that a proof shows where it is; a letter with gaps is refused before this by
// CheckLetter.
func RenderText(d document.Document) string {
	switch d.Attrs.Body {
	case document.BodyFormatted:
		return string(AppendText(nil, d))
	case document.BodyHTML:
		return PageText(PageSource(d))
	}
	var b strings.Builder
	for i, p := range d.Content {
		if i > 0 {
			b.WriteByte('\n')
		}
		for _, n := range p.Content {
			switch n.Type {
			case document.Text:
				b.WriteString(n.Text)
			case document.Break:
				b.WriteByte('\n')
			case document.GapNode:
				b.WriteString("‹" + n.Attrs.Label + "›")
			}
		}
	}
	return b.String()
}

// AppendText writes what RenderText gives into the caller's buffer.
func AppendText(dst []byte, d document.Document) []byte {
	if d.Attrs.Body != document.BodyFormatted {
		return append(dst, RenderText(d)...)
	}
	start := len(dst)
	for i := range d.Content {
		dst = appendTextBlock(dst, start, &d.Content[i])
	}
	for len(dst) > start && dst[len(dst)-1] == '\n' {
		dst = dst[:len(dst)-1]
	}
	return dst
}

// appendTextBlock writes one block with an empty line before it.
func appendTextBlock(dst []byte, start int, n *document.Node) []byte {
	space := func() {
		if len(dst) == start {
			return
		}
		dst = append(dst, '\n')
		if len(dst)-start < 2 || dst[len(dst)-2] != '\n' {
			dst = append(dst, '\n')
		}
	}
	lines := []string(nil)
	switch {
	case n.Prerendered != nil:
		if n.Prerendered.Silent() {
			return dst
		}
		space()
		return n.Prerendered.AppendText(dst)
	case n.Type == document.Paragraph || n.Type == document.Heading:
		space()
		return appendTextInlines(dst, n.Content)
	default:
		lines = TextBlock(n)
	}
	if lines == nil {
		return dst
	}
	space()
	for i, l := range lines {
		if i > 0 {
			dst = append(dst, '\n')
		}
		dst = append(dst, l...)
	}
	return dst
}

// textOf writes blocks as plain text: an empty line between two of them.
func textOf(blocks []document.Node) string {
	return strings.Join(textLines(blocks, true), "\n")
}

// textLines gives the lines of blocks; loose puts an empty line between them.
func textLines(blocks []document.Node, loose bool) []string {
	var out []string
	for i := range blocks {
		lines := TextBlock(&blocks[i])
		if lines == nil {
			continue
		}
		if loose && len(out) > 0 && out[len(out)-1] != "" {
			out = append(out, "")
		}
		out = append(out, lines...)
	}
	for len(out) > 0 && out[len(out)-1] == "" {
		out = out[:len(out)-1]
	}
	return out
}

// TextBlock gives the lines of one block; nil for one that says nothing in text.
func TextBlock(n *document.Node) []string {
	if n.Prerendered != nil {
		if n.Prerendered.Silent() {
			return nil
		}
		return n.Prerendered.Lines()
	}
	a := n.Attrs
	if a == nil {
		a = &noAttrs
	}
	switch n.Type {
	case document.Paragraph, document.Heading:
		return strings.Split(textInlines(n.Content), "\n")
	case document.Button:
		return strings.Split(withAddress(textInlines(n.Content), shownAddress(a.Href, a.Gaps)), "\n")
	case document.Image:
		if a.Alt == "" && a.Href == "" {
			return nil
		}
		return []string{withAddress(inBrackets(a.Alt), shownAddress(a.Href, a.Gaps))}
	case document.BulletList, document.OrderedList:
		return textList(n, a)
	case document.Quote:
		lines := textLines(n.Content, true)
		for i, l := range lines {
			lines[i] = strings.TrimRight("> "+l, " ")
		}
		return lines
	case document.Divider:
		return []string{strings.Repeat("-", 40)}
	case document.Table:
		return textTable(n)
	case document.Spacer:
		return nil
	}
	return textLines(n.Content, true)
}

func inBrackets(alt string) string {
	if alt == "" {
		return ""
	}
	return "[" + alt + "]"
}

// shownAddress gives an address with its gaps as they are shown in words.
func shownAddress(href string, gaps []document.Attrs) string {
	for _, g := range gaps {
		href = strings.ReplaceAll(href, "{{"+g.Path+"}}", "‹"+g.Label+"›")
	}
	return href
}

// withAddress writes words with their address, which stands alone when the words
// say the same.
func withAddress(words, href string) string {
	bare := strings.TrimPrefix(strings.TrimPrefix(href, "mailto:"), "tel:")
	short := strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(href, "https://"), "http://"), "/")
	switch said := strings.TrimSpace(words); {
	case href == "" || said == bare || said == short:
		return words
	case said == "":
		return bare
	}
	return words + " (" + bare + ")"
}

func textInlines(list []document.Node) string { return string(appendTextInlines(nil, list)) }

func appendTextInlines(out []byte, list []document.Node) []byte {
	var link *document.MarkAttrs
	start := 0
	endLink := func() {
		if link != nil {
			words := string(out[start:])
			bare := strings.TrimRight(words, " ")
			out = append(append(out[:start], withAddress(bare, shownAddress(link.Href, link.Gaps))...), words[len(bare):]...)
		}
		link = nil
	}
	for i := range list {
		n := &list[i]
		if l := document.LinkOf(n); l == nil || !document.SameLink(link, l) {
			endLink()
			link, start = l, len(out)
		}
		switch n.Type {
		case document.Text:
			out = append(out, n.Text...)
		case document.Break:
			out = append(out, '\n')
		case document.GapNode:
			out = append(append(append(out, "‹"...), n.Attrs.Label...), "›"...)
		case document.When, document.FixedText:
			out = appendTextInlines(out, n.Content)
		}
	}
	endLink()
	return out
}

func textList(n *document.Node, a *document.Attrs) []string {
	var out []string
	for i := range n.Content {
		mark := "- "
		if n.Type == document.OrderedList {
			mark = strconv.Itoa(max(a.Start, 1)+i) + ". "
		}
		for k, l := range textLines(n.Content[i].Content, false) {
			if k > 0 {
				mark = strings.Repeat(" ", len(mark))
			}
			out = append(out, strings.TrimRight(mark+l, " "))
		}
	}
	return out
}

// textTable writes a table with its columns below each other, as wide as their
// longest word line. Width is that of a terminal (Unicode Standard Annex 11).
func textTable(n *document.Node) []string {
	var widths []int
	rows := make([][]string, len(n.Content)) // of cells, whose lines LF parts
	for r := range n.Content {
		row := make([]string, 0, len(n.Content[r].Content))
		for c := range n.Content[r].Content {
			cell := &n.Content[r].Content[c]
			words := textCell(cell)
			row = append(row, words)
			span := 1
			if cell.Attrs != nil && cell.Attrs.Colspan > 1 {
				span = cell.Attrs.Colspan
			}
			for range span - 1 {
				row = append(row, "")
			}
			for len(widths) < len(row) {
				widths = append(widths, 0)
			}
			if span > 1 {
				continue // goes over several columns and makes none of them wide
			}
			for l := range strings.SplitSeq(words, "\n") {
				widths[len(row)-1] = max(widths[len(row)-1], widthOf(l))
			}
		}
		rows[r] = row
	}
	out := make([]string, 0, len(rows))
	for _, row := range rows {
		for more := true; more; {
			var line []byte
			more = false
			for c := range row {
				var words string
				words, row[c], _ = strings.Cut(row[c], "\n")
				more = more || row[c] != ""
				line = append(line, words...)
				if c < len(row)-1 {
					line = append(line, strings.Repeat(" ", max(0, widths[c]-widthOf(words))+2)...)
				}
			}
			out = append(out, strings.TrimRight(string(line), " "))
		}
	}
	return out
}

// textCell gives the lines of a cell in one.
func textCell(cell *document.Node) string {
	if len(cell.Content) == 1 && cell.Content[0].Type == document.Paragraph {
		return textInlines(cell.Content[0].Content)
	}
	return strings.Join(textLines(cell.Content, false), "\n")
}

// widthOf is how many columns a text takes.
func widthOf(s string) int {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return uniseg.StringWidth(s)
		}
	}
	return len(s)
}
