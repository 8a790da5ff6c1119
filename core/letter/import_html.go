package letter

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"github.com/vanng822/go-premailer/premailer"
	"golang.org/x/net/html"
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
func ImportHTML(src string) (Document, []Removed, error) {
	if len(src) > MaxBody {
		return Document{}, nil, &FormError{"page", fmt.Sprintf("is larger than %d bytes; take pictures out of its text", MaxBody)}
	}
	m := mask(normal(strings.TrimPrefix(src, "\uFEFF")))
	before := census(m.held)
	safe, removed := SanitizeCounting(m.comments())
	for what, n := range census(safe) {
		before[what] -= n
	}
	for what, n := range before {
		if n > 0 {
			removed[what] += n
		}
	}
	if elements := strings.Count(safe, "<"); elements > maxElements {
		return Document{}, nil, &FormError{"page", fmt.Sprintf("has %d tags; letters take %d", elements, maxElements)}
	}
	if work, selectors, elements := styleWork(safe); selectors > maxSelectors || work > maxStyleWork {
		return Document{}, nil, &FormError{"page", fmt.Sprintf("has %d selectors of style for %d elements, too many to look for each in each; make it simpler", selectors, elements)}
	}
	inlined, err := inlineStyles(safe)
	if err != nil {
		return Document{}, nil, &FormError{"page", "cannot be read: " + err.Error()}
	}
	page, lost := m.giveAll(Sanitize(inlined))
	for _, mark := range lost {
		removed["the mark "+clip(mark, 40)]++
	}
	if len(page) > MaxBody {
		return Document{}, nil, &FormError{"page", fmt.Sprintf("is larger than %d bytes with its styles in place", MaxBody)}
	}
	out := make([]Removed, 0, len(removed))
	for _, what := range slices.Sorted(maps.Keys(removed)) {
		out = append(out, Removed{what, removed[what]})
	}
	return ParseHTML(page), out, nil
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
				if a.Key != "style" && !strings.HasPrefix(a.Key, strings.ToLower(markName)) {
					out[clip(a.Key, 30)+" of <"+t.Data+">"]++
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
