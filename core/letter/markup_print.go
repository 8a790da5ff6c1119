package letter

import (
	"fmt"
	"strconv"
	"strings"

	"golang.org/x/net/html"
)

// The text form of a formatted body is HTML of the few elements below, with
// marks in it. Signs that stand for themselves are escaped as in HTML; what is
// between the braces of a mark is not.

// blockElements are the elements of the blocks that hold something.
var blockElements = map[NodeType]string{
	Paragraph: "p", BulletList: "ul", OrderedList: "ol", ListItem: "li", Quote: "blockquote", Button: "button",
	Table: "table", TableRow: "tr", TableHeading: "th", TableCell: "td", Columns: "columns", Column: "column",
}

// markElements are the elements of the marks.
var markElements = map[string]string{
	Bold: "b", Italic: "i", Underline: "u", Strike: "s", TextStyle: "span", Highlight: "mark", Link: "a",
}

// printMarkup writes the text form of a formatted body, each block with words
// on a line of its own.
func printMarkup(b *strings.Builder, blocks []Node, indent string) {
	for i := range blocks {
		n := &blocks[i]
		b.WriteString(indent)
		switch n.Type {
		case OnlyWhen, Fixed:
			open, end := printPair(*n)
			b.WriteString(open + "\n")
			printMarkup(b, n.Content, indent)
			b.WriteString(indent + end + "\n")
		case Divider:
			b.WriteString("<hr>\n")
		case Spacer:
			b.WriteString("<spacer" + printAttrs(n.Attrs) + ">\n")
		case Image:
			b.WriteString("<img" + printAttrs(n.Attrs) + ">\n")
		case Paragraph, Heading, Button:
			name := elementOf(n)
			b.WriteString("<" + name + printAttrs(n.Attrs) + ">")
			printMarked(b, n.Content, false)
			b.WriteString("</" + name + ">\n")
		default:
			name := elementOf(n)
			b.WriteString("<" + name + printAttrs(n.Attrs) + ">\n")
			printMarkup(b, n.Content, indent+"  ")
			b.WriteString(indent + "</" + name + ">\n")
		}
	}
}

func elementOf(n *Node) string {
	if n.Type == Heading {
		return "h" + strconv.Itoa(n.Attrs.Level)
	}
	return blockElements[n.Type]
}

func printAttrs(a *Attrs) string {
	if a == nil {
		return ""
	}
	var b strings.Builder
	words := func(name, v string) {
		if v != "" {
			fmt.Fprintf(&b, ` %s="%s"`, name, printAddress(v))
		}
	}
	number := func(name string, v int) {
		if v != 0 {
			fmt.Fprintf(&b, ` %s="%d"`, name, v)
		}
	}
	words("href", a.Href)
	words("src", a.Src)
	if a.Alt != "" {
		fmt.Fprintf(&b, ` alt="%s"`, html.EscapeString(literal(a.Alt)))
	}
	words("align", a.Align)
	number("start", a.Start)
	number("width", a.Width)
	number("height", a.Height)
	words("color", a.Color)
	number("colspan", a.Colspan)
	number("rowspan", a.Rowspan)
	if len(a.Colwidth) > 0 {
		list := make([]string, len(a.Colwidth))
		for i, w := range a.Colwidth {
			list[i] = strconv.Itoa(w)
		}
		words("colwidth", strings.Join(list, " "))
	}
	return b.String()
}

// literal writes words so that no mark is read in them.
func literal(s string) string { return literalBefore(s, false) }

func literalBefore(s string, tagNext bool) string {
	var b strings.Builder
	printWords(&b, s, tagNext)
	return b.String()
}

// printAddress writes an address, whose marks stay marks.
func printAddress(s string) string {
	var b strings.Builder
	for _, p := range scan(s) {
		if p.tag {
			b.WriteString(p.raw)
		} else {
			b.WriteString(html.EscapeString(p.raw))
		}
	}
	return b.String()
}

// printMarked writes inlines with their marks as elements, those that
// neighbours share around both. TagAfter tells that a mark follows the last.
func printMarked(b *strings.Builder, list []Node, tagAfter bool) {
	nest(list, shown, &markupWriter{b, tagAfter})
}

// markupWriter writes inlines as markup.
type markupWriter struct {
	*strings.Builder
	tagAfter bool
}

func (w *markupWriter) open(m Mark) {
	w.WriteString("<" + markElements[m.Type] + printMarkAttrs(m.Attrs) + ">")
}

func (w *markupWriter) end(m Mark) { w.WriteString("</" + markElements[m.Type] + ">") }

func (w *markupWriter) node(list []Node, i int, marks []Mark) {
	switch n := &list[i]; n.Type {
	case Text:
		next := w.tagAfter && len(marks) == 0
		if i+1 < len(list) {
			next = list[i+1].Type != Text && list[i+1].Type != Break && sameMarks(shown(&list[i+1]), marks)
		}
		printText(w.Builder, html.EscapeString(literalBefore(n.Text, next)))
	case Break:
		w.WriteString("<br>")
	case When, FixedText:
		start, end := printPair(*n)
		w.WriteString(start)
		printMarked(w.Builder, n.Content, true)
		w.WriteString(end)
	default:
		printInline(w.Builder, *n, false)
	}
}

// shown are the marks that have an element.
func shown(n *Node) []Mark {
	if n.Type == When || n.Type == FixedText {
		return nil
	}
	var out []Mark
	for _, m := range n.Marks {
		if markElements[m.Type] != "" {
			out = append(out, m)
		}
	}
	return out
}

func printMarkAttrs(a *MarkAttrs) string {
	if a == nil {
		return ""
	}
	var b strings.Builder
	for _, p := range [][2]string{{"href", a.Href}, {"color", a.Color}, {"font", a.FontFamily}, {"size", strings.TrimSuffix(a.FontSize, "px")}} {
		if p[1] != "" {
			fmt.Fprintf(&b, ` %s="%s"`, p[0], printAddress(p[1]))
		}
	}
	return b.String()
}
