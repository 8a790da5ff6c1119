package render

import (
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

// PageSource writes the HTML of a letter: tags and words as they stand, merged
// words made safe for their place.
func PageSource(d document.Document) string {
	var out []byte
	for i := range d.Content {
		if i > 0 {
			out = append(out, '\n')
		}
		for k := range d.Content[i].Content {
			n := &d.Content[i].Content[k]
			switch {
			case n.Type == document.GapNode && n.Attrs.Place == "":
				out = safehtml.AppendEscaped(append(out, "‹"...), n.Attrs.Label)
				out = append(out, "›"...)
			case n.Type != document.GapNode:
				out = AppendPageNode(out, n)
			}
		}
	}
	return string(out)
}

// AppendPageNode writes words of the letter of a page, merged ones made safe for their place.
func AppendPageNode(dst []byte, n *document.Node) []byte {
	merged := document.MergedMark(n)
	switch {
	case n.Type == document.Break:
		return append(dst, "<br>"...)
	case merged == nil:
		return append(dst, n.Text...)
	case safehtml.PlaceNamed(merged.Place) > safehtml.InAttr:
		return safehtml.AppendPlace(dst, n.Text, safehtml.PlaceNamed(merged.Place))
	}
	return safehtml.AppendEscaped(dst, document.NormalLines(n.Text))
}

// PageText gives what a page says as a text.
func PageText(src string) string {
	root, err := html.Parse(strings.NewReader(src))
	if err != nil {
		return "" // a page nested deeper than the parser goes
	}
	return textOf(pageBlocks(root, 0))
}

// maxPageDepth is how deep the elements of a page are read.
const maxPageDepth = 200

var (
	unseen    = []atom.Atom{atom.Head, atom.Script, atom.Style, atom.Template, atom.Noscript, atom.Title, atom.Svg}
	pageMarks = map[atom.Atom]string{
		atom.B: document.Bold, atom.Strong: document.Bold, atom.I: document.Italic, atom.Em: document.Italic, atom.U: document.Underline, atom.S: document.Strike, atom.Del: document.Strike, atom.Strike: document.Strike,
	}
)

// pageBlocks reads the blocks of a page: neighbouring words and elements within a
// line are one paragraph.
func pageBlocks(parent *html.Node, depth int) []document.Node {
	var out []document.Node
	var line []document.Node
	flush := func() {
		if line = trimLine(line); len(line) > 0 {
			out = append(out, document.NewParagraph(line...))
		}
		line = nil
	}
	for n := parent.FirstChild; n != nil; n = n.NextSibling {
		if depth > maxPageDepth || n.Type == html.ElementNode && (slices.Contains(unseen, n.DataAtom) || hidden(n)) {
			continue
		}
		if isLineNode(n, depth) {
			line = append(line, pageLine(n, nil, depth)...)
			continue
		}
		flush()
		out = append(out, pageBlock(n, depth)...)
	}
	flush()
	return out
}

// isLineNode tells whether a node stands within a line.
func isLineNode(n *html.Node, depth int) bool {
	switch {
	case n.Type == html.TextNode:
		return true
	case n.Type != html.ElementNode:
		return false
	case n.DataAtom == atom.Br || n.DataAtom == atom.Img && hasParentLink(n):
		return true
	case !slices.Contains(safehtml.InlineTags, n.Data) || depth > maxPageDepth:
		return false
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		if c.Type == html.ElementNode && !isLineNode(c, depth+1) {
			return false
		}
	}
	return true
}

func hasParentLink(n *html.Node) bool { return n.Parent != nil && n.Parent.DataAtom == atom.A }

func pageBlock(n *html.Node, depth int) []document.Node {
	inside := func() []document.Node { return pageBlocks(n, depth+1) }
	one := func(t document.NodeType, content []document.Node) []document.Node {
		if len(content) == 0 {
			return nil
		}
		return []document.Node{{Type: t, Content: content}}
	}
	switch n.DataAtom {
	case atom.Ul, atom.Ol:
		t := document.BulletList
		if n.DataAtom == atom.Ol {
			t = document.OrderedList
		}
		var items []document.Node
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			if c.DataAtom == atom.Li {
				items = append(items, one(document.ListItem, pageBlocks(c, depth+1))...)
			}
		}
		list := one(t, items)
		if start, err := strconv.Atoi(attrOf(n, "start")); err == nil && len(list) > 0 && t == document.OrderedList {
			list[0].Attrs = &document.Attrs{Start: start}
		}
		return list
	case atom.Blockquote:
		return one(document.Quote, inside())
	case atom.Hr:
		return []document.Node{{Type: document.Divider}}
	case atom.Img:
		if attrOf(n, "alt") == "" {
			return nil
		}
		return []document.Node{{Type: document.Image, Attrs: &document.Attrs{Alt: attrOf(n, "alt")}}}
	case atom.Table:
		return pageTable(n, depth)
	}
	return inside()
}

// pageTable reads a table of data as one, and a table that only holds the layout
// as the blocks in its cells.
func pageTable(n *html.Node, depth int) []document.Node {
	var rows []document.Node
	layout := attrOf(n, "role") == "presentation"
	wide := 0
	var look func(*html.Node)
	look = func(p *html.Node) {
		for c := p.FirstChild; c != nil; c = c.NextSibling {
			switch c.DataAtom {
			case atom.Tbody, atom.Thead, atom.Tfoot:
				look(c)
			case atom.Tr:
				row := document.Node{Type: document.TableRow}
				for cell := c.FirstChild; cell != nil; cell = cell.NextSibling {
					if cell.DataAtom != atom.Td && cell.DataAtom != atom.Th || hidden(cell) {
						continue
					}
					t := document.TableCell
					if cell.DataAtom == atom.Th {
						t = document.TableHeading
					}
					blocks := pageBlocks(cell, depth+1)
					layout = layout || len(blocks) > 1 || len(blocks) == 1 && blocks[0].Type != document.Paragraph
					one := document.Node{Type: t, Content: blocks}
					if span, err := strconv.Atoi(attrOf(cell, "colspan")); err == nil && span > 1 && span <= 40 {
						one.Attrs = &document.Attrs{Colspan: span}
					}
					row.Content = append(row.Content, one)
				}
				wide = max(wide, len(row.Content))
				rows = append(rows, row)
			}
		}
	}
	look(n)
	if !layout && wide > 1 {
		return []document.Node{{Type: document.Table, Content: rows}}
	}
	var out []document.Node
	for _, r := range rows {
		for _, c := range r.Content {
			out = append(out, c.Content...)
		}
	}
	return out
}

// pageLine reads what stands within a line.
func pageLine(n *html.Node, marks []document.Mark, depth int) []document.Node {
	switch {
	case n.Type == html.TextNode:
		return []document.Node{{Type: document.Text, Text: foldSpace(n.Data), Marks: marks}}
	case n.DataAtom == atom.Br:
		return []document.Node{{Type: document.Break}}
	case n.DataAtom == atom.Img:
		if alt := attrOf(n, "alt"); alt != "" {
			return []document.Node{{Type: document.Text, Text: inBrackets(alt), Marks: marks}}
		}
		return nil
	case depth > maxPageDepth || n.Type != html.ElementNode || hidden(n):
		return nil
	}
	if t := pageMarks[n.DataAtom]; t != "" {
		marks = append(slices.Clone(marks), document.Mark{Type: t})
	}
	if href := attrOf(n, "href"); n.DataAtom == atom.A && href != "" && !strings.HasPrefix(href, "#") {
		marks = append(slices.Clone(marks), document.Mark{Type: document.Link, Attrs: &document.MarkAttrs{Href: href}})
	}
	var out []document.Node
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		out = append(out, pageLine(c, marks, depth+1)...)
	}
	return out
}

// hidden tells whether an element is kept from sight, as a line for the preview
// in the list of a mail program is.
func hidden(n *html.Node) bool {
	style := strings.ReplaceAll(strings.ToLower(attrOf(n, "style")), " ", "")
	return strings.Contains(style, "display:none") || strings.Contains(style, "mso-hide:all")
}

func attrOf(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key {
			return a.Val
		}
	}
	return ""
}

// foldSpace makes one space of every run of white space, as HTML shows it. A
// space that may not break is a plain one in text.
func foldSpace(s string) string {
	var b strings.Builder
	space := false
	for _, r := range s {
		switch r {
		case ' ', '\t', '\n', '\r', '\f':
			space = true
			continue
		case '\u00a0':
			r = ' '
		case '\u200b', '\u200c', '\u00ad', '\ufeff':
			continue
		}
		if space {
			b.WriteByte(' ')
			space = false
		}
		b.WriteRune(r)
	}
	if space {
		b.WriteByte(' ')
	}
	return b.String()
}

// trimLine takes the space at the ends of a line and beside its breaks away, and
// of two spaces that meet between elements one.
func trimLine(line []document.Node) []document.Node {
	atStart := true
	for i := range line {
		n := &line[i]
		if n.Type == document.Text {
			if atStart {
				n.Text = strings.TrimLeft(n.Text, " ")
			}
			if n.Text != "" {
				atStart = strings.HasSuffix(n.Text, " ")
			}
			continue
		}
		atStart = true
		if i > 0 && line[i-1].Type == document.Text {
			line[i-1].Text = strings.TrimRight(line[i-1].Text, " ")
		}
	}
	for len(line) > 0 {
		last := &line[len(line)-1]
		if last.Type == document.Text {
			last.Text = strings.TrimRight(last.Text, " ")
		}
		if last.Type == document.Text && last.Text != "" {
			break
		}
		line = line[:len(line)-1]
	}
	for len(line) > 0 && (line[0].Type == document.Break || line[0].Text == "") {
		line = line[1:]
	}
	return line
}
