// Package safehtml is what HTML may hold in a letter: pages and style sheets made safe,
// values escaped by where they stand (HTML standard, section 13.2.5 "Tokenization"), links
// of the schemes http, https, mailto and tel (RFC 3986). In goes HTML of anybody, out
// comes HTML that runs nothing and loads nothing but pictures.
//
// Limits are those of the work that style sheets and Markdown make: 1,000,000
// looks of a selector at an element, blocks of Markdown 32 deep.
package safehtml

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"

	"lucidletter/core/markup"
)

// Sanitize makes a page of HTML safe to send and to show: by a list of elements
// and attributes that letters are built of (bluemonday), with addresses of http,
// https, mailto, tel, and cid or pictures in the text for images, and with the
// narrow filter of filterCSS for styles. Conditional comments of mail programs
// stay, what is in them is made safe as well; other comments go. Sanitizing twice
// gives the same as once.
func Sanitize(page string) string {
	safe, _ := SanitizeCounting(page)
	return safe
}

// SanitizeCounting does the same, and counts what was taken out of style sheets and
// comments, by what it was.
func SanitizeCounting(page string) (safe string, removed map[string]int) {
	s := sanitizer{out: removals{}}
	return s.page(page), s.out
}

type sanitizer struct {
	out  removals
	kept []string // what stands in the page as <!--KEPT0--> while it is made safe
}

const keptName = "LLKEPT"

func (s *sanitizer) keep(what string) string {
	s.kept = append(s.kept, what)
	return "<!--" + keptName + strconv.Itoa(len(s.kept)-1) + "-->"
}

var keptForm = regexp.MustCompile(`<!--` + keptName + `(\d+)-->`)

func (s *sanitizer) page(src string) string {
	doctype, rest := s.prepare(src)
	return doctype + s.putBack(pagePolicy().Sanitize(rest))
}

// putBack gives a page what was put aside while it was made safe.
func (s *sanitizer) putBack(safe string) string {
	return keptForm.ReplaceAllStringFunc(safe, func(m string) string {
		k, err := strconv.Atoi(keptForm.FindStringSubmatch(m)[1])
		if err != nil || k >= len(s.kept) {
			return ""
		}
		return s.kept[k]
	})
}

var (
	doctypeForm  = regexp.MustCompile(`^(?i)<!doctype [a-z0-9 "'./:-]*>$`)
	condForm     = regexp.MustCompile(`(?is)^\[if ([a-z0-9 !&|()]+)\]>(.*)<!\[endif\]$`)
	condOpenForm = regexp.MustCompile(`(?i)^\[if [a-z0-9 !&|()]+\]><!$`)
	markComment  = regexp.MustCompile(`^` + markup.MarkName + `\d+$`)
)

// prepare goes once through the source: styles are filtered, and what bluemonday
// cannot keep is put aside.
func (s *sanitizer) prepare(src string) (doctype, rest string) {
	var b strings.Builder
	z := html.NewTokenizer(strings.NewReader(src))
	z.SetMaxBuf(0)
	for {
		kind := z.Next()
		raw := string(z.Raw())
		switch kind {
		case html.ErrorToken:
			return doctype, b.String()
		case html.DoctypeToken:
			if doctypeForm.MatchString(raw) && doctype == "" {
				doctype = raw
			}
		case html.CommentToken:
			b.WriteString(s.comment(raw, commentData(raw)))
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			if t.Data == "style" && kind == html.StartTagToken {
				if z.Next() == html.TextToken {
					b.WriteString(s.style(t, string(z.Raw())))
				}
				continue
			}
			b.WriteString(s.tag(t, raw))
		case html.TextToken:
			// What is taken out must not make a tag of what stands around it.
			b.WriteString(strings.ReplaceAll(raw, "<", "&lt;"))
		default:
			b.WriteString(raw)
		}
	}
}

// commentData gives what stands in a comment as it is written. The tokenizer's own text
// has its character references resolved, which would make tags of a value's signs.
func commentData(raw string) string {
	if data, ok := strings.CutPrefix(raw, "<!--"); ok {
		return strings.TrimSuffix(strings.TrimSuffix(data, "-->"), "--!>")
	}
	return strings.TrimSuffix(raw[min(2, len(raw)):], ">")
}

func (s *sanitizer) comment(raw, data string) string {
	switch m := condForm.FindStringSubmatch(data); {
	case markComment.MatchString(data):
		return raw
	case condOpenForm.MatchString(data), data == "<![endif]":
		return s.keep("<!--" + data + "-->")
	case m != nil && strings.HasPrefix(raw, "<!--"):
		inner := sanitizer{out: s.out}
		_, body := inner.prepare(m[2])
		safe := inner.putBack(officeNames.Replace(officePolicy().Sanitize(body)))
		if strings.Contains(safe, "--") && (strings.Contains(safe, "-->") || strings.Contains(safe, "--!>")) {
			s.out["a conditional comment"]++
			return ""
		}
		return s.keep("<!--[if " + m[1] + "]>" + safe + "<![endif]-->")
	}
	return ""
}

// officeNames are those of office conditional comments whose capitals matter and are lost on the way.
var officeNames = strings.NewReplacer("o:officedocumentsettings", "o:OfficeDocumentSettings", "o:pixelsperinch", "o:PixelsPerInch", "o:allowpng", "o:AllowPNG")

// style keeps the safe rules of a style sheet.
func (s *sanitizer) style(t html.Token, sheet string) string {
	rules := filterCSS(sheet, s.out)
	if strings.TrimSpace(rules) == "" {
		return ""
	}
	media := ""
	for _, a := range t.Attr {
		if a.Key == "media" && mediaForm.MatchString(a.Val) {
			media = ` media="` + a.Val + `"`
		}
	}
	return s.keep("<style" + media + ">" + rules + "</style>")
}

var mediaForm = regexp.MustCompile(`^[A-Za-z0-9 ,():.-]+$`)

// tag filters the styles of an element and drops the settings of a page that do
// not belong into a letter.
func (s *sanitizer) tag(t html.Token, raw string) string {
	if t.Data == "meta" && !safeMeta(t) {
		return ""
	}
	k := slices.IndexFunc(t.Attr, func(a html.Attribute) bool { return a.Key == "style" })
	if k < 0 {
		return raw
	}
	if t.Attr[k].Val = filterStyle(t.Attr[k].Val, s.out); t.Attr[k].Val == "" {
		t.Attr = slices.Delete(t.Attr, k, k+1)
	}
	return t.String()
}

// safeMeta keeps what tells the size of the screen and the colours; the character
// set is that of the letter.
func safeMeta(t html.Token) bool {
	for _, a := range t.Attr {
		if a.Key == "http-equiv" || a.Key == "charset" && !strings.EqualFold(a.Val, "utf-8") {
			return false
		}
	}
	return true
}

var (
	pageElements = strings.Fields(`html head body title meta table thead tbody tfoot tr td th caption colgroup col div span p h1 h2 h3 h4 h5 h6 a img br hr
		ul ol li dl dt dd blockquote pre code b strong i em u s strike del ins small big sub sup font center address article section header footer main
		figure figcaption abbr cite q mark time wbr`)
	pageAttrs = strings.Fields("class id dir lang title align valign width height bgcolor role border style")
	// A web address, or one that begins with a mark.
	webAddress = regexp.MustCompile(`^(?i)(https?://|mailto:|tel:|cid:|` + markup.MarkName + `\d+)`)
	ariaNames  = strings.Fields("aria-hidden aria-label aria-labelledby aria-describedby aria-level aria-roledescription")
)

func newPolicy(elements ...string) *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(elements...)
	p.AllowNoAttrs().OnElements(elements...)
	p.AllowAttrs(pageAttrs...).Globally()
	p.AllowAttrs(ariaNames...).Globally()
	p.AllowAttrs("cellpadding", "cellspacing", "summary").OnElements("table")
	p.AllowAttrs("colspan", "rowspan", "nowrap", "scope", "span", "abbr").OnElements("td", "th", "col", "colgroup")
	p.AllowAttrs("background").Matching(webAddress).OnElements("td", "th", "body", "table")
	p.AllowAttrs("color", "face", "size").OnElements("font")
	p.AllowAttrs("href", "name", "target", "rel").OnElements("a")
	p.AllowAttrs("src", "alt", "hspace", "vspace").OnElements("img")
	p.AllowAttrs("start", "type").OnElements("ol", "ul", "li")
	p.AllowAttrs("text", "link", "vlink", "alink").OnElements("body")
	p.AllowAttrs("charset", "name", "content").OnElements("meta")
	p.AllowAttrs("xmlns", "xmlns:v", "xmlns:o", "xmlns:w").OnElements("html")
	p.AllowAttrs("size", "noshade", "color").OnElements("hr")
	p.AllowAttrs("datetime").OnElements("time")
	p.AllowURLSchemes("http", "https", "mailto", "tel", "cid")
	p.AllowRelativeURLs(true)
	p.AllowDataURIImages()
	p.AllowComments()
	return p
}

var pagePolicy = sync.OnceValue(func() *bluemonday.Policy { return newPolicy(pageElements...) })

// officePolicy allows the drawing elements that stand in conditional comments,
// too.
var officePolicy = sync.OnceValue(func() *bluemonday.Policy {
	drawing := regexp.MustCompile(`^([vow]:[a-z]+|xml|!\[endif\]--)$`)
	p := newPolicy(pageElements...)
	p.AllowElementsMatching(drawing)
	p.AllowNoAttrs().OnElementsMatching(drawing)
	p.AllowAttrs("xmlns:v", "xmlns:o", "xmlns:w", "arcsize", "strokecolor", "strokeweight", "stroke", "stroked", "fill", "fillcolor", "filled", "color", "type",
		"inset", "coordorigin", "coordsize", "style", "alt").OnElementsMatching(drawing)
	p.AllowAttrs("href", "src").Matching(webAddress).OnElementsMatching(drawing)
	return p
})
