package letter

import (
	"strconv"
	"strings"

	"github.com/rivo/uniseg"
)

// RenderText writes the body or the subject of a letter as plain text with LF
// line ends: of a formatted body the plain part, with links as "words
// (address)", numbered lists, and tables whose columns stand below each other;
// of an HTML body what its page says. A gap is written as its label in ‹ ›, so
// that a proof shows where it is; a letter with gaps is refused before this by
// CheckLetter.
func RenderText(d Document) string {
	switch d.Attrs.Body {
	case BodyFormatted:
		return textOf(d.Content)
	case BodyHTML:
		return pageText(pageSource(d))
	}
	var b strings.Builder
	for i, p := range d.Content {
		if i > 0 {
			b.WriteByte('\n')
		}
		for _, n := range p.Content {
			switch n.Type {
			case Text:
				b.WriteString(n.Text)
			case Break:
				b.WriteByte('\n')
			case GapNode:
				b.WriteString("‹" + n.Attrs.Label + "›")
			}
		}
	}
	return b.String()
}

// textOf writes blocks as plain text: an empty line between two of them.
func textOf(blocks []Node) string {
	return strings.Join(textLines(blocks, true), "\n")
}

// textLines gives the lines of blocks; loose puts an empty line between them.
func textLines(blocks []Node, loose bool) []string {
	var out []string
	for i := range blocks {
		lines := textBlock(&blocks[i])
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

func textBlock(n *Node) []string {
	a := n.Attrs
	if a == nil {
		a = &Attrs{}
	}
	switch n.Type {
	case Paragraph, Heading:
		return strings.Split(textInlines(n.Content), "\n")
	case Button:
		return []string{withAddress(textInlines(n.Content), a.Href)}
	case Image:
		if a.Alt == "" && a.Href == "" {
			return nil
		}
		return []string{withAddress(inBrackets(a.Alt), a.Href)}
	case BulletList, OrderedList:
		return textList(n, a)
	case Quote:
		lines := textLines(n.Content, true)
		for i, l := range lines {
			lines[i] = strings.TrimRight("> "+l, " ")
		}
		return lines
	case Divider:
		return []string{strings.Repeat("-", 40)}
	case Table:
		return textTable(n)
	case Spacer:
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

func textInlines(list []Node) string {
	var out []byte
	var link *MarkAttrs
	start := 0
	endLink := func() {
		if link != nil {
			words := string(out[start:])
			bare := strings.TrimRight(words, " ")
			out = append(append(out[:start], withAddress(bare, link.Href)...), words[len(bare):]...)
		}
		link = nil
	}
	for i := range list {
		n := &list[i]
		if l := linkOf(n); l == nil || !sameLink(link, l) {
			endLink()
			link, start = l, len(out)
		}
		switch n.Type {
		case Text:
			out = append(out, n.Text...)
		case Break:
			out = append(out, '\n')
		case GapNode:
			out = append(append(append(out, "‹"...), n.Attrs.Label...), "›"...)
		case When, FixedText:
			out = append(out, textInlines(n.Content)...)
		}
	}
	endLink()
	return string(out)
}

func textList(n *Node, a *Attrs) []string {
	var out []string
	for i := range n.Content {
		mark := "- "
		if n.Type == OrderedList {
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
func textTable(n *Node) []string {
	var rows [][][]string
	var widths []int
	for r := range n.Content {
		var row [][]string
		for c := range n.Content[r].Content {
			cell := &n.Content[r].Content[c]
			lines := textLines(cell.Content, false)
			row = append(row, lines)
			span := 1
			if cell.Attrs != nil && cell.Attrs.Colspan > 1 {
				span = cell.Attrs.Colspan
			}
			for range span - 1 {
				row = append(row, nil)
			}
			for len(widths) < len(row) {
				widths = append(widths, 0)
			}
			if span > 1 {
				continue // goes over several columns and makes none of them wide
			}
			for _, l := range lines {
				widths[len(row)-1] = max(widths[len(row)-1], uniseg.StringWidth(l))
			}
		}
		rows = append(rows, row)
	}
	var out []string
	for _, row := range rows {
		high := 1
		for _, cell := range row {
			high = max(high, len(cell))
		}
		for k := range high {
			var b strings.Builder
			for c, cell := range row {
				if c > 0 {
					b.WriteString("  ")
				}
				words := ""
				if k < len(cell) {
					words = cell[k]
				}
				b.WriteString(words)
				b.WriteString(strings.Repeat(" ", max(0, widths[c]-uniseg.StringWidth(words))))
			}
			out = append(out, strings.TrimRight(b.String(), " "))
		}
	}
	return out
}
