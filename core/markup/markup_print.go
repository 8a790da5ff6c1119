package markup

import (
	"fmt"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
)

// The text form of a formatted body is HTML of the few elements below, with
// marks in it. Signs that stand for themselves are escaped as in HTML; what is
// between the braces of a mark is not.

// blockElements are the elements of the blocks that hold something.
var blockElements = map[document.NodeType]string{
	document.Paragraph: "p", document.BulletList: "ul", document.OrderedList: "ol", document.ListItem: "li", document.Quote: "blockquote", document.Button: "button",
	document.Table: "table", document.TableRow: "tr", document.TableHeading: "th", document.TableCell: "td", document.Columns: "columns", document.Column: "column",
}

// markElements are the elements of the marks.
var markElements = map[string]string{
	document.Bold: "b", document.Italic: "i", document.Underline: "u", document.Strike: "s", document.TextStyle: "span", document.Highlight: "mark", document.Link: "a",
}

// printMarkup writes the text form of a formatted body, each block with words
// on a line of its own.
func printMarkup(b *strings.Builder, blocks []document.Node, indent string) {
	for i := range blocks {
		n := &blocks[i]
		b.WriteString(indent)
		switch n.Type {
		case document.OnlyWhen, document.Fixed:
			open, end := PrintPair(*n)
			b.WriteString(open + "\n")
			printMarkup(b, n.Content, indent)
			b.WriteString(indent + end + "\n")
		case document.Divider:
			b.WriteString("<hr>\n")
		case document.Spacer:
			b.WriteString("<spacer" + printAttrs(n.Attrs) + ">\n")
		case document.Image:
			b.WriteString("<img" + printAttrs(n.Attrs) + ">\n")
		case document.Paragraph, document.Heading, document.Button:
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

func elementOf(n *document.Node) string {
	if n.Type == document.Heading {
		return "h" + strconv.Itoa(n.Attrs.Level)
	}
	return blockElements[n.Type]
}

func printAttrs(a *document.Attrs) string {
	if a == nil {
		return ""
	}
	var b strings.Builder
	words := func(name, v string) {
		if v != "" {
			fmt.Fprintf(&b, ` %s="%s"`, name, PrintAddress(v))
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
func literal(s string) string { return LiteralBefore(s, false) }

// LiteralBefore writes words so that they are read as they stand; tagNext tells that a mark stands behind them.
func LiteralBefore(s string, tagNext bool) string {
	var b strings.Builder
	printWords(&b, s, tagNext)
	return b.String()
}

// PrintAddress writes an address, whose marks stay marks.
func PrintAddress(s string) string {
	var b strings.Builder
	for _, p := range Scan(s) {
		if p.Tag {
			b.WriteString(p.Raw)
		} else {
			b.WriteString(html.EscapeString(p.Raw))
		}
	}
	return b.String()
}

// printMarked writes inlines with their marks as elements, those that
// neighbours share around both. TagAfter tells that a mark follows the last.
func printMarked(b *strings.Builder, list []document.Node, tagAfter bool) {
	document.Nest(list, shown, &markupWriter{b, tagAfter})
}

// markupWriter writes inlines as markup.
type markupWriter struct {
	*strings.Builder
	tagAfter bool
}

// Open writes the tag of a mark.
func (w *markupWriter) Open(m document.Mark) {
	w.WriteString("<" + markElements[m.Type] + printMarkAttrs(m.Attrs) + ">")
}

// End writes its end tag.
func (w *markupWriter) End(m document.Mark) { w.WriteString("</" + markElements[m.Type] + ">") }

// Inline writes words, a line break or a mark of the text form.
func (w *markupWriter) Inline(list []document.Node, i int, marks []document.Mark) {
	switch n := &list[i]; n.Type {
	case document.Text:
		next := w.tagAfter && len(marks) == 0
		if i+1 < len(list) {
			next = list[i+1].Type != document.Text && list[i+1].Type != document.Break && document.SameMarks(shown(&list[i+1]), marks)
		}
		PrintText(w.Builder, html.EscapeString(LiteralBefore(n.Text, next)))
	case document.Break:
		w.WriteString("<br>")
	case document.When, document.FixedText:
		start, end := PrintPair(*n)
		w.WriteString(start)
		printMarked(w.Builder, n.Content, true)
		w.WriteString(end)
	default:
		printInline(w.Builder, *n, false)
	}
}

// shown are the marks that have an element.
func shown(n *document.Node) []document.Mark {
	if n.Type == document.When || n.Type == document.FixedText {
		return nil
	}
	var out []document.Mark
	for _, m := range n.Marks {
		if markElements[m.Type] != "" {
			out = append(out, m)
		}
	}
	return out
}

func printMarkAttrs(a *document.MarkAttrs) string {
	if a == nil {
		return ""
	}
	var b strings.Builder
	for _, p := range [][2]string{{"href", a.Href}, {"color", a.Color}, {"font", a.FontFamily}, {"size", strings.TrimSuffix(a.FontSize, "px")}} {
		if p[1] != "" {
			fmt.Fprintf(&b, ` %s="%s"`, p[0], PrintAddress(p[1]))
		}
	}
	return b.String()
}
