package safehtml

import (
	"fmt"
	"regexp"
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/document"
)

// What libraries do with a text may take far longer than the text is long. Their work is
// estimated before they see it, and more than a letter ever needs is refused. The limits
// take a tenth of a second or so, on a small machine half a second.
const (
	MaxStyleWork = 1_000_000 // looks of a selector at an element
	maxMarksRun  = 2000      // signs of emphasis, or brackets, in one paragraph of Markdown
	maxMarksAll  = 20_000    // and in all
)

// longSelectors look at more than one element for each: at those beside it or within it.
// Each look is a small one, of which longShare make one of the others.
var longSelectors = regexp.MustCompile(`(?i):(?:nth|first|last|only|has|contains|matches|not|is|where|empty|root)|~|\+`)

const longShare = 200

// StyleWork estimates the work of writing the rules of a page to its elements: every
// selector is looked for in every element; one that asks for those beside an element
// looks at them each time, and one that asks for several above each other tries every way
// up.
func StyleWork(page string) (work float64, selectors, elements int) {
	root, err := html.Parse(strings.NewReader(page))
	if err != nil {
		return 0, 0, 0 // a reader of a string gives no error
	}
	beside, deepest := 0, 0
	var sheets strings.Builder
	var walk func(n *html.Node, depth int)
	walk = func(n *html.Node, depth int) {
		deepest = max(deepest, depth)
		children := 0
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			if c.Type == html.ElementNode {
				children++
				elements++
			} else if c.Type == html.TextNode && n.Data == "style" {
				sheets.WriteString(c.Data)
			}
			walk(c, depth+1)
		}
		beside = max(beside, children)
	}
	walk(root, 0)
	for _, selector := range selectorsOf(sheets.String()) {
		selectors++
		looks := 1.0
		if longSelectors.MatchString(selector) {
			looks += float64(max(beside, deepest)) / longShare
		}
		above := strings.Count(strings.Join(strings.Fields(strings.ReplaceAll(selector, ">", " ")), " "), " ")
		ways, most := 1.0, 1.0
		for k := range min(max(0, above-1), deepest) { // so many of those above can be chosen
			ways *= float64(deepest-k) / float64(k+1)
			most = max(most, ways)
		}
		work += float64(elements) * (looks + most/longShare)
	}
	return work, selectors, elements
}

// selectorsOf gives the selectors of a style sheet, each for itself.
func selectorsOf(sheet string) []string {
	var out []string
	start := 0
	for i, c := range sheet {
		switch c {
		case '{':
			if prelude := strings.TrimSpace(sheet[start:i]); prelude != "" && prelude[0] != '@' {
				for one := range strings.SplitSeq(prelude, ",") {
					out = append(out, strings.TrimSpace(one))
				}
			}
			start = i + 1
		case '}', ';':
			start = i + 1
		}
	}
	return out
}

var (
	paragraphEnd = regexp.MustCompile(`\n[ \t]*\n`)
	nestedStart  = regexp.MustCompile(`(?m)^(?:[ \t]{0,8}(?:>|[-+*]|\d{1,9}[.)]))+`)
	nestedSign   = regexp.MustCompile(`>|[-+*]|\d{1,9}[.)]`)
)

// MarkdownWork refuses Markdown that a reader of it would take long for: signs of
// emphasis and brackets are looked for among all those of their paragraph, and blocks in
// each other line by line.
func MarkdownWork(src string) error {
	for _, start := range nestedStart.FindAllString(src, -1) {
		if len(nestedSign.FindAllString(start, document.MaxTree)) > document.MaxTree/2 && strings.Trim(start, "-*+ \t") != "" {
			return TooDeepMarkdown()
		}
	}
	all := 0
	for _, paragraph := range paragraphEnd.Split(src, -1) {
		signs := 0
		for i := range len(paragraph) {
			switch paragraph[i] {
			case '*', '_', '~', '[', ']':
				signs++
			}
		}
		if all += signs; signs > maxMarksRun || all > maxMarksAll {
			return &document.FormError{Where: "body", Why: fmt.Sprintf("has more than %d signs such as * and [ in a paragraph, or %d in all; shorten it", maxMarksRun, maxMarksAll)}
		}
	}
	return nil
}

// TooDeepMarkdown is the error of a text whose blocks stand too deep in each other.
func TooDeepMarkdown() error {
	return &document.FormError{Where: "body", Why: fmt.Sprintf("has blocks more than %d deep in each other", document.MaxTree/2)}
}
