// Package render writes documents: as HTML for mail programs, with every style at its
// element, and as plain text of lines that are not broken. In goes a merged document, out
// come the bytes that are sent, made safe (package safehtml). Pages are read as text, too.
//
// Addresses in words become links (RFC 3986 section 3); words that are read from the right
// keep their side (Unicode Standard Annex 9). Elements of a page are read 200 deep.
package render

import (
	"strconv"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

// RenderHTML writes the body of a letter as an HTML page for mail programs: of a
// formatted body a sheet of 600 pixels that shrinks on phones, with tables for
// columns and styles on the elements (common practice, no source: many mail
// programs read neither style sheets nor newer layout), and a hint that it may
// be shown dark; of an HTML body its own page, made safe again by Sanitize. Of a
// plain body it gives "". Title is the subject.
func RenderHTML(d document.Document, title string) string {
	switch d.Attrs.Body {
	case document.BodyFormatted:
		return string(AppendHTML(nil, d, title))
	case document.BodyHTML:
		return safehtml.Sanitize(PageSource(d))
	}
	return ""
}

// The looks of a formatted letter that sets none of its own.
const (
	sheetWidth  = 600
	usualFont   = "Arial"
	usualSize   = 16
	usualColor  = "#1a1a1a"
	usualButton = "#1f4d3a"
	quietLine   = "#d0d0d0"
	blockSpace  = "margin:0 0 16px"
)

var headingSizes = [...]int{28, 22, 18}

// AppendHTML writes the page of a formatted body into the caller's buffer.
func AppendHTML(dst []byte, d document.Document, title string) []byte {
	w := htmlWriter{out: dst, sheet: d.Attrs}
	w.page(d.Content, title)
	return w.out
}

// BlockHTML gives the HTML of one block of a formatted letter.
func BlockHTML(sheet document.DocAttrs, n *document.Node) string {
	w := htmlWriter{sheet: sheet}
	w.block(n)
	return string(w.out)
}

type htmlWriter struct {
	out    []byte
	sheet  document.DocAttrs
	linked bool // the link that is open may be followed

	inButton bool // whose words lead where it does
}

func (w *htmlWriter) put(parts ...string) {
	for _, p := range parts {
		w.out = append(w.out, p...)
	}
}

func (w *htmlWriter) escaped(s string) { w.out = safehtml.AppendEscaped(w.out, s) }

func (w *htmlWriter) number(n int) { w.out = strconv.AppendInt(w.out, int64(n), 10) }

func (w *htmlWriter) page(blocks []document.Node, title string) {
	a := w.sheet
	lang := a.Lang
	if lang == "" {
		lang = "en"
	}
	w.put(`<!DOCTYPE html><html lang="`)
	w.escaped(lang)
	w.put(`" dir="`, direction(lang), `"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">`,
		`<meta name="color-scheme" content="light dark"><meta name="supported-color-schemes" content="light dark"><title>`)
	w.escaped(title)
	w.put(`</title><style>:root{color-scheme:light dark;supported-color-schemes:light dark}`,
		`@media (max-width:620px){.col{display:block!important;width:auto!important;padding-left:0!important;padding-right:0!important}}`)
	if a.Color == "" && a.Background == "" {
		w.put(`@media (prefers-color-scheme:dark){.sheet{background:#161a16!important;color:#e8e6df!important}.sheet a.plain{color:#9cc9b2!important}}`)
	}
	background := a.Background
	if background == "" {
		background = "#ffffff"
	}
	align, margin := "left", "0"
	if a.Align == "center" {
		align, margin = "center", "0 auto"
	}
	w.put(`</style></head><body class="sheet" style="margin:0;padding:0;background:`, background, `">`,
		`<table role="presentation" width="100%" cellpadding="0" cellspacing="0" border="0"><tr><td align="`, align, `" style="padding:16px">`,
		"<!--[if mso]><table role=\"presentation\" width=\"600\" cellpadding=\"0\" cellspacing=\"0\"><tr><td><![endif]-->",
		`<div class="sheet" style="max-width:600px;margin:`, margin, `;text-align:`, document.SideOf(direction(lang)), `;line-height:1.5;background:#ffffff;`)
	w.wordStyle(a.Font, a.Size, a.Color)
	if a.Background != "" {
		w.put(";padding:24px")
	}
	w.put("\">\n")
	for i := range blocks {
		w.block(&blocks[i])
		w.put("\n")
	}
	w.put("</div><!--[if mso]></td></tr></table><![endif]--></td></tr></table></body></html>\n")
}

// direction is that of the script of a language: Arabic, Hebrew, Persian and Urdu
// are written from right to left (Unicode Standard Annex 9).
func direction(lang string) string {
	switch base, _, _ := strings.Cut(strings.ToLower(lang), "-"); base {
	case "ar", "he", "fa", "ur":
		return "rtl"
	}
	return "ltr"
}

func (w *htmlWriter) wordStyle(font string, size int, color string) {
	if font == "" {
		font = usualFont
	}
	if size == 0 {
		size = usualSize
	}
	if color == "" {
		color = usualColor
	}
	w.put("font-family:", fontStack(font), ";font-size:")
	w.number(size)
	w.put("px;color:", color)
}

func fontStack(name string) string {
	if s := document.Fonts[name]; s != "" {
		return s
	}
	return document.Fonts[usualFont]
}

func (w *htmlWriter) blocks(blocks []document.Node) {
	for i := range blocks {
		w.block(&blocks[i])
	}
}

func (w *htmlWriter) block(n *document.Node) {
	if n.Prerendered != nil {
		w.out = n.Prerendered.AppendHTML(w.out)
		return
	}
	a := n.Attrs
	if a == nil {
		a = &noAttrs
	}
	switch n.Type {
	case document.Paragraph:
		dir, side := w.bidi(n, a.Align)
		w.put("<p", dir, ` style="`+blockSpace, side, `">`)
		w.inlines(n.Content)
		w.put("</p>")
	case document.Heading:
		level := min(max(a.Level, 1), len(headingSizes))
		tag := "h" + strconv.Itoa(level)
		dir, side := w.bidi(n, a.Align)
		w.put("<", tag, dir, ` style="margin:24px 0 12px;line-height:1.25;font-size:`)
		w.number(headingSizes[level-1])
		w.put("px", side, `">`)
		w.inlines(n.Content)
		w.put("</", tag, ">")
	case document.BulletList, document.OrderedList:
		w.list(n, a)
	case document.Quote:
		w.put(`<blockquote style="`, blockSpace, `;padding:`, w.indent("14"), `;border-`, document.SideOf(direction(w.sheet.Lang)), `:3px solid `, quietLine, `">`)
		w.blocks(n.Content)
		w.put("</blockquote>")
	case document.Image:
		w.image(a)
	case document.Button:
		w.button(n, a)
	case document.Table:
		w.table(n)
	case document.Columns:
		w.columns(n)
	case document.Divider:
		w.put(`<hr style="margin:16px 0;border:0;border-top:1px solid `, quietLine, `">`)
	case document.Spacer:
		height := a.Height
		if height == 0 {
			height = 16
		}
		px := strconv.Itoa(height)
		w.put(`<div style="height:`, px, `px;line-height:`, px, `px;font-size:1px">&nbsp;</div>`)
	case document.Fixed, document.OnlyWhen:
		w.blocks(n.Content)
	}
}

var noAttrs document.Attrs

func aligned(align string) string {
	if align == "" {
		return ""
	}
	return ";text-align:" + align
}

func (w *htmlWriter) list(n *document.Node, a *document.Attrs) {
	tag := "ul"
	if n.Type == document.OrderedList {
		tag = "ol"
	}
	w.put("<", tag)
	if a.Start > 1 {
		w.put(` start="`, strconv.Itoa(a.Start), `"`)
	}
	w.put(` style="`, blockSpace, `;padding:`, w.indent("26"), `">`)
	for i := range n.Content {
		item := &n.Content[i]
		w.put(`<li style="margin:0 0 4px">`)
		// The words of an item stand without the space of a paragraph.
		if len(item.Content) > 0 && item.Content[0].Type == document.Paragraph {
			w.inlines(item.Content[0].Content)
			w.blocks(item.Content[1:])
		} else {
			w.blocks(item.Content)
		}
		w.put("</li>")
	}
	w.put("</", tag, ">")
}

func (w *htmlWriter) image(a *document.Attrs) {
	if !safehtml.MayFollow(a.Src) {
		return
	}
	w.put(`<p style="`, blockSpace, aligned(a.Align), `">`)
	link := a.Href != "" && safehtml.MayFollow(a.Href)
	if link {
		w.link(a.Href, "")
	}
	w.put(`<img src="`)
	w.escaped(a.Src)
	w.put(`" alt="`)
	w.escaped(a.Alt)
	w.put(`"`)
	if a.Width > 0 {
		width := strconv.Itoa(min(a.Width, sheetWidth))
		w.put(` width="`, width, `" style="width:`, width, `px;`)
	} else {
		w.put(` style="`)
	}
	w.put(`max-width:100%;height:auto;border:0">`)
	if link {
		w.put("</a>")
	}
	w.put("</p>")
}

func (w *htmlWriter) button(n *document.Node, a *document.Attrs) {
	color := a.Color
	if color == "" {
		color = usualButton
	}
	if !safehtml.MayFollow(a.Href) {
		return
	}
	align := a.Align
	if align == "" || align == "justify" {
		align = "left"
	}
	w.put(`<table role="presentation" cellpadding="0" cellspacing="0" border="0" align="`, align, `" style="`, blockSpace, buttonPlace(align),
		`"><tr><td style="border-radius:4px;background:`, color, `">`)
	w.link(a.Href, "display:inline-block;padding:12px 22px;font-weight:bold;text-decoration:none;color:"+wordsOn(color))
	w.inButton = true
	w.inlines(n.Content)
	w.inButton = false
	w.put(`</a></td></tr></table><div style="clear:both;line-height:0;font-size:0">&nbsp;</div>`)
}

func buttonPlace(align string) string {
	switch align {
	case "center":
		return ";margin-left:auto;margin-right:auto"
	case "right":
		return ";margin-left:auto"
	}
	return ""
}

func (w *htmlWriter) link(href, style string) {
	w.put(`<a href="`)
	if strings.Contains(href, "{{") {
		href = "#" // a gap stands in it
	}
	w.escaped(href)
	w.put(`"`)
	if style == "" {
		w.put(` class="plain"`)
	} else {
		w.put(` style="`, style, `"`)
	}
	w.put(">")
}

func (w *htmlWriter) table(n *document.Node) {
	w.put(`<table cellpadding="0" cellspacing="0" border="0" width="100%" style="`, blockSpace, `;border-collapse:collapse">`)
	for r := range n.Content {
		w.put("<tr>")
		for c := range n.Content[r].Content {
			w.cell(&n.Content[r].Content[c])
		}
		w.put("</tr>")
	}
	w.put("</table>")
}

func (w *htmlWriter) cell(n *document.Node) {
	a := n.Attrs
	if a == nil {
		a = &noAttrs
	}
	tag, align := "td", a.Align
	if n.Type == document.TableHeading {
		tag = "th"
	}
	if align == "" {
		align = "left"
	}
	w.put("<", tag)
	if a.Colspan > 1 {
		w.put(` colspan="`, strconv.Itoa(a.Colspan), `"`)
	}
	if a.Rowspan > 1 {
		w.put(` rowspan="`, strconv.Itoa(a.Rowspan), `"`)
	}
	w.put(` valign="top" style="border:1px solid `, quietLine, `;padding:7px 10px;text-align:`, align)
	if len(a.Colwidth) == 1 && a.Colwidth[0] > 0 {
		w.put(";width:", strconv.Itoa(a.Colwidth[0]), "px")
	}
	w.put(`">`)
	if len(n.Content) == 1 && n.Content[0].Type == document.Paragraph {
		w.inlines(n.Content[0].Content)
	} else {
		w.blocks(n.Content)
	}
	w.put("</", tag, ">")
}

func (w *htmlWriter) columns(n *document.Node) {
	w.put(`<table role="presentation" width="100%" cellpadding="0" cellspacing="0" border="0"><tr>`)
	for i, width := range columnWidths(n.Content) {
		left, right := "8px", "8px"
		if i == 0 {
			left = "0"
		}
		if i == len(n.Content)-1 {
			right = "0"
		}
		w.put(`<td class="col" width="`, strconv.Itoa(width), `%" valign="top" style="width:`, strconv.Itoa(width), `%;padding:0 `, right, ` 0 `, left, `">`)
		w.blocks(n.Content[i].Content)
		w.put("</td>")
	}
	w.put("</tr></table>")
}

// columnWidths gives the widths in per cent: columns without one share the rest.
func columnWidths(columns []document.Node) []int {
	out := make([]int, len(columns))
	rest, open := 100, 0
	for i := range columns {
		if a := columns[i].Attrs; a != nil && a.Width > 0 {
			out[i] = a.Width
			rest -= a.Width
		} else {
			open++
		}
	}
	for i := range out {
		if out[i] == 0 {
			out[i] = max(rest/open, 10)
		}
	}
	return out
}
