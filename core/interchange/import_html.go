// Package interchange brings pages and Markdown in and takes them out, and changes the
// parts of a page. In goes HTML of anybody (HTML standard) or Markdown (CommonMark 0.31
// with tables and strikethrough), out come documents and a list of what was left out.
//
// Limits: 1 MiB before and after, 1,000 selectors of style, 40,000 tags.
package interchange

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/vanng822/go-premailer/premailer"
	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/safehtml"
)

// Removed is something of an imported page that letters cannot hold, and how
// often it stood there.
type Removed struct {
	What  string `json:"what"` // "<script>", "onclick of <p>", "the style position"
	Count int    `json:"count"`
}

// ImportHTML reads a page that was made in an outside editor: UTF-8 HTML with
// marks in its text and its attributes. The page is made safe (Sanitize), the
// rules of its style sheets are written to the elements they are for, those for
// phones and for hovering stay in a style sheet. What was taken out is listed.
// A page larger than MaxBody, before or after, with more than 1,000 selectors of style,
// 40,000 tags or too much work for both, is refused with a *FormError.
func ImportHTML(src string) (document.Document, []Removed, error) {
	if len(src) > document.MaxBody {
		return document.Document{}, nil, &document.FormError{Where: "page", Why: fmt.Sprintf("is larger than %d bytes; take pictures out of its text", document.MaxBody)}
	}
	m := markup.Mask(document.NormalLines(strings.TrimPrefix(src, "\uFEFF")))
	before := census(m.Held)
	safe, removed := safehtml.SanitizeCounting(m.Comments())
	for what, n := range census(safe) {
		before[what] -= n
	}
	for what, n := range before {
		if n > 0 {
			removed[what] += n
		}
	}
	if elements := strings.Count(safe, "<"); elements > maxElements {
		return document.Document{}, nil, &document.FormError{Where: "page", Why: fmt.Sprintf("has %d tags; letters take %d", elements, maxElements)}
	}
	if work, selectors, elements := safehtml.StyleWork(safe); selectors > maxSelectors || work > safehtml.MaxStyleWork {
		return document.Document{}, nil, &document.FormError{Where: "page", Why: fmt.Sprintf("has %d selectors of style for %d elements, too many to look for each in each; make it simpler", selectors, elements)}
	}
	inlined, err := inlineStyles(safe)
	if err != nil {
		return document.Document{}, nil, &document.FormError{Where: "page", Why: "cannot be read: " + err.Error()}
	}
	page, lost := m.GiveAll(safehtml.Sanitize(inlined))
	for _, mark := range lost {
		removed["the mark "+markup.Clip(mark, 40)]++
	}
	if len(page) > document.MaxBody {
		return document.Document{}, nil, &document.FormError{Where: "page", Why: fmt.Sprintf("is larger than %d bytes with its styles in place", document.MaxBody)}
	}
	out := make([]Removed, 0, len(removed))
	for _, what := range slices.Sorted(maps.Keys(removed)) {
		out = append(out, Removed{what, removed[what]})
	}
	return markup.ParseHTML(page), out, nil
}

// Limits of an imported page besides that of styleWork.
const maxSelectors, maxElements = 1000, 40_000

// census counts the elements and the attributes of a page.
func census(src string) map[string]int {
	out := map[string]int{}
	z := html.NewTokenizer(strings.NewReader(src))
	z.SetMaxBuf(0)
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			if t.Data == "style" || t.Data == "meta" {
				continue // looked at by itself
			}
			out["<"+t.Data+">"]++
			for _, a := range t.Attr {
				if a.Key != "style" && !strings.HasPrefix(a.Key, strings.ToLower(markup.MarkName)) {
					out[markup.Clip(a.Key, 30)+" of <"+t.Data+">"]++
				}
			}
		}
	}
}

// inlineStyles writes the rules of style sheets to the elements they are for.
func inlineStyles(page string) (string, error) {
	if !strings.Contains(page, "<style") {
		return page, nil
	}
	doctype := ""
	if m := regexp.MustCompile(`^(?i)<!doctype[^>]*>\n?`).FindString(page); m != "" {
		doctype, page = m, page[len(m):]
	}
	p, err := premailer.NewPremailerFromString(page, premailer.NewOptions(premailer.WithCssToAttributes(false), premailer.WithKeepBangImportant(true)))
	if err != nil {
		return "", err
	}
	out, err := p.Transform()
	return doctype + out, err
}
