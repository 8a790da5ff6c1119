package interchange

import (
	"fmt"
	"regexp"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// Markdown writes a template's body as Markdown (CommonMark 0.31 with the tables
// and the strike of GitHub Flavored Markdown) with its marks. What Markdown does not
// have is lost: colours, fonts, sizes, underline, alignment, widths and spacers;
// columns follow each other, and a page comes as its plain-text part. A button is
// a link with the title "button".
func Markdown(d document.Document) string {
	switch d.Attrs.Body {
	case document.BodyHTML:
		d = render.Formatted(markup.Parse(render.PlainPart(d)))
	case document.BodyPlain:
		d = render.Formatted(d)
	}
	w := markdownWriter{}
	d.Content = w.nodes(document.Clone(d.Content))
	return w.Give(strings.Join(w.blocks(d.Content), "\n\n")+"\n", func(mark string) string { return mark })
}

type markdownWriter struct{ holder }

func (w *markdownWriter) blocks(nodes []document.Node) []string {
	var out []string
	for i := range nodes {
		if s := w.block(&nodes[i]); s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (w *markdownWriter) block(n *document.Node) string {
	switch n.Type {
	case document.Paragraph:
		return w.words(n.Content, false)
	case document.Heading:
		return strings.Repeat("#", n.Attrs.Level) + " " + strings.ReplaceAll(w.words(n.Content, true), "\\\n", " ")
	case document.Quote:
		return "> " + indented(strings.Join(w.blocks(n.Content), "\n\n"), "> ")
	case document.BulletList, document.OrderedList:
		var items []string
		for i := range n.Content {
			sign := "- "
			if n.Type == document.OrderedList {
				start := 1
				if n.Attrs != nil && n.Attrs.Start > 0 {
					start = n.Attrs.Start
				}
				sign = fmt.Sprintf("%d. ", start+i)
			}
			items = append(items, sign+indented(strings.Join(w.blocks(n.Content[i].Content), "\n\n"), strings.Repeat(" ", len(sign))))
		}
		return strings.Join(items, "\n")
	case document.Image:
		s := "![" + escapeMarkdown(n.Attrs.Alt) + "](<" + n.Attrs.Src + ">)"
		if n.Attrs.Href != "" {
			s = "[" + s + "](<" + n.Attrs.Href + ">)"
		}
		return s
	case document.Button:
		return "[" + w.words(n.Content, true) + `](<` + n.Attrs.Href + `> "button")`
	case document.Divider:
		return "---"
	case document.Table:
		return w.table(n)
	}
	return strings.Join(w.blocks(n.Content), "\n\n")
}

func indented(s, by string) string {
	lines := strings.Split(s, "\n")
	for i := 1; i < len(lines); i++ {
		if lines[i] != "" || by == "> " {
			lines[i] = by + lines[i]
		}
	}
	return strings.Join(lines, "\n")
}

func (w *markdownWriter) table(n *document.Node) string {
	var out []string
	for i := range n.Content {
		line := "|"
		for k := range n.Content[i].Content {
			cell := strings.Join(w.blocks(n.Content[i].Content[k].Content), " ")
			line += " " + strings.NewReplacer("\\\n", " ", "\n", " ").Replace(cell) + " |"
		}
		out = append(out, line)
		if i == 0 {
			out = append(out, "|"+strings.Repeat(" --- |", len(n.Content[0].Content)))
		}
	}
	return strings.Join(out, "\n")
}

var markdownSigns = map[string]string{document.Bold: "**", document.Italic: "*", document.Strike: "~~"}

// words writes what stands in a line. Spaces at the edge of marked words stand
// outside of the signs, as Markdown wants it.
func (w *markdownWriter) words(nodes []document.Node, oneLine bool) string {
	var b strings.Builder
	for i := 0; i < len(nodes); i++ {
		n := &nodes[i]
		if n.Type == document.Break {
			if oneLine {
				b.WriteByte(' ')
			} else {
				b.WriteString("\\\n")
			}
			continue
		}
		link := document.LinkOf(n)
		end := i
		for link != nil && end+1 < len(nodes) && document.SameLink(document.LinkOf(&nodes[end+1]), link) {
			end++
		}
		if link == nil {
			b.WriteString(marked(n))
			continue
		}
		b.WriteString("[")
		for k := i; k <= end; k++ {
			b.WriteString(marked(&nodes[k]))
		}
		b.WriteString("](<" + link.Href + ">)")
		i = end
	}
	s := b.String()
	if m := lineStart.FindStringIndex(s); m != nil { // would be read as a heading, a list, a quote
		s = s[:m[1]-1] + `\` + s[m[1]-1:]
	}
	return s
}

var lineStart = regexp.MustCompile(`^(?:[-+>#=]|\d+[.)])`)

func marked(n *document.Node) string {
	words := escapeMarkdown(n.Text)
	inner := strings.TrimSpace(words)
	if inner == "" {
		return words
	}
	at := strings.Index(words, inner)
	open, end := "", ""
	for _, m := range n.Marks {
		if sign := markdownSigns[m.Type]; sign != "" {
			open, end = open+sign, sign+end
		}
	}
	return words[:at] + open + inner + end + words[at+len(inner):]
}

var markdownEscape = regexp.MustCompile("[\\\\`*_\\[\\]<>~|&]")

func escapeMarkdown(s string) string { return markdownEscape.ReplaceAllString(s, `\$0`) }

// FromMarkdown reads a template's body from Markdown with marks, as Markdown writes
// it. HTML in it is words; what letters do not have, such as code, becomes words.
// A mark that opens or closes an only-when and stands alone is around blocks.
func FromMarkdown(src string) (document.Document, error) {
	if len(src) > document.MaxBody {
		return document.Document{}, &document.FormError{Where: "body", Why: fmt.Sprintf("is larger than %d bytes; shorten it", document.MaxBody)}
	}
	if err := safehtml.MarkdownWork(src); err != nil {
		return document.Document{}, err
	}
	m := markup.Mask(document.NormalLines(strings.TrimPrefix(src, "\uFEFF")))
	raw := []byte(m.Held)
	root := goldmark.New(goldmark.WithExtensions(extension.Table, extension.Strikethrough)).Parser().Parse(text.NewReader(raw))
	r := markdownReader{src: raw, masked: m}
	r.blocks(root)
	if r.tooDeep {
		return document.Document{}, safehtml.TooDeepMarkdown()
	}
	out := r.masked.Give(r.b.String(), func(mark string) string { return mark })
	d, err := markup.ParseMarkup(out)
	if err != nil {
		return d, err
	}
	if len(d.Content) == 0 {
		d.Content = []document.Node{document.NewParagraph()}
	}
	return markup.Canonical(d), nil
}

// markdownReader writes the markup of formatted bodies.
type markdownReader struct {
	src     []byte
	b       strings.Builder
	masked  markup.Masked
	deep    int
	tooDeep bool
}

var aloneForm = regexp.MustCompile(`^(?:` + markup.MarkName + `\d+LL\s*)+$`)

func (r *markdownReader) blocks(parent ast.Node) {
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		r.block(n)
	}
}

func (r *markdownReader) wrap(open string, n ast.Node, end string) {
	r.b.WriteString(open)
	r.blocks(n)
	r.b.WriteString(end)
}

func (r *markdownReader) block(n ast.Node) {
	if r.deep++; r.deep > document.MaxTree/2 {
		r.deep--
		r.tooDeep = true
		return
	}
	defer func() { r.deep-- }()
	switch n := n.(type) {
	case *ast.Heading:
		level := min(n.Level, 3)
		r.line(fmt.Sprintf("<h%d>", level), n, fmt.Sprintf("</h%d>", level))
	case *ast.Paragraph, *ast.TextBlock:
		r.paragraph(n)
	case *ast.Blockquote:
		r.wrap("<blockquote>", n, "</blockquote>")
	case *ast.List:
		name := "ul"
		open := "<ul>"
		if n.IsOrdered() {
			name, open = "ol", "<ol>"
			if n.Start > 1 {
				open = fmt.Sprintf(`<ol start="%d">`, n.Start)
			}
		}
		r.wrap(open, n, "</"+name+">")
	case *ast.ListItem:
		if n.FirstChild() == nil {
			r.b.WriteString("<li><p></p></li>")
			return
		}
		r.wrap("<li>", n, "</li>")
	case *ast.ThematicBreak:
		r.b.WriteString("<hr>")
	case *east.Table:
		r.wrap("<table>", n, "</table>")
	case *east.TableHeader:
		r.wrap("<tr>", n, "</tr>")
	case *east.TableRow:
		r.wrap("<tr>", n, "</tr>")
	case *east.TableCell:
		cell := "td"
		if _, head := n.Parent().(*east.TableHeader); head {
			cell = "th"
		}
		r.line("<"+cell+"><p>", n, "</p></"+cell+">")
	default: // code and HTML are words
		r.b.WriteString("<p>")
		for i := range n.Lines().Len() {
			if i > 0 {
				r.b.WriteString("<br>")
			}
			line := n.Lines().At(i)
			r.words(strings.TrimRight(string(line.Value(r.src)), "\n"))
		}
		r.b.WriteString("</p>")
	}
}

func (r *markdownReader) line(open string, n ast.Node, end string) {
	r.b.WriteString(open)
	r.inlines(n)
	r.b.WriteString(end)
}

// paragraph writes a paragraph, or a button or a picture that stands alone in it,
// or marks around blocks that stand alone.
func (r *markdownReader) paragraph(n ast.Node) {
	if only := n.FirstChild(); only != nil && only.NextSibling() == nil {
		switch x := only.(type) {
		case *ast.Link:
			if string(x.Title) == "button" {
				r.line(`<button href="`+r.attr(x.Destination)+`">`, x, "</button>")
				return
			}
			if img, ok := x.FirstChild().(*ast.Image); ok && img.NextSibling() == nil {
				r.picture(img, ` href="`+r.attr(x.Destination)+`"`)
				return
			}
		case *ast.Image:
			r.picture(x, "")
			return
		case *ast.Text:
			// Only-when, fixed: what opens or closes around blocks.
			words := strings.TrimSpace(string(x.Value(r.src)))
			if aloneForm.MatchString(words) && r.inBlocks(words) {
				r.b.WriteString(words)
				return
			}
		}
	}
	r.line("<p>", n, "</p>")
}

// inBlocks tells whether held marks all open or close something.
func (r *markdownReader) inBlocks(held string) bool {
	all := true
	r.masked.Give(held, func(mark string) string {
		inside := strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(mark, "{{"), "}}"))
		all = all && (strings.HasPrefix(inside, "#") || strings.HasPrefix(inside, "^") || strings.HasPrefix(inside, "/") || inside == "fixed")
		return ""
	})
	return all
}

func (r *markdownReader) picture(n *ast.Image, href string) {
	var alt strings.Builder
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		if t, ok := c.(*ast.Text); ok {
			alt.Write(t.Value(r.src))
		}
	}
	r.b.WriteString(`<img src="` + r.attr(n.Destination) + `" alt="` + r.attr([]byte(alt.String())) + `"` + href + `>`)
}

func (r *markdownReader) attr(v []byte) string {
	return string(safehtml.AppendEscaped(nil, unescapeMarkdown(string(v))))
}

// words writes words of the source, in which braces are no mark.
func (r *markdownReader) words(s string) {
	r.b.Write(safehtml.AppendEscaped(nil, strings.ReplaceAll(s, "{{", `\{\{`)))
}

var backslashed = regexp.MustCompile("\\\\([!-/:-@\\[-`{-~])")

func unescapeMarkdown(s string) string { return backslashed.ReplaceAllString(s, "$1") }

func (r *markdownReader) inlines(parent ast.Node) {
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		switch n := n.(type) {
		case *ast.Text:
			r.words(unescapeMarkdown(string(n.Value(r.src))))
			switch {
			case n.HardLineBreak():
				r.b.WriteString("<br>")
			case n.SoftLineBreak():
				r.b.WriteByte(' ')
			}
		case *ast.String:
			r.words(string(n.Value))
		case *ast.Emphasis:
			name := map[int]string{1: "i", 2: "b"}[n.Level]
			r.line("<"+name+">", n, "</"+name+">")
		case *east.Strikethrough:
			r.line("<s>", n, "</s>")
		case *ast.Link:
			r.line(`<a href="`+r.attr(n.Destination)+`">`, n, "</a>")
		case *ast.AutoLink:
			href := string(n.URL(r.src))
			if n.AutoLinkType == ast.AutoLinkEmail {
				href = "mailto:" + href
			}
			r.b.WriteString(`<a href="` + r.attr([]byte(href)) + `">`)
			r.words(string(n.Label(r.src)))
			r.b.WriteString("</a>")
		case *ast.RawHTML:
			for i := range n.Segments.Len() {
				segment := n.Segments.At(i)
				r.words(string(segment.Value(r.src)))
			}
		default: // code, a picture within a line: its words
			r.inlines(n)
		}
	}
}
