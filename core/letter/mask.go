package letter

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
)

// markName stands, with a number, for a mark while the page is made safe: within
// a tag as a word, in text as a comment, which no parser moves.
const markName = "LLMARK"

var (
	heldForm    = regexp.MustCompile(`(?i)<!--` + markName + `(\d+)-->|` + markName + `(\d+)LL`)
	heldInWords = regexp.MustCompile(markName + `(\d+)LL`)
)

// rawElements are those whose text is not markup (HTML standard, section 13.2.5).
var rawElements = []string{"script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes", "plaintext"}

// masked is a page in which a word stands for every mark.
type masked struct {
	held  string
	marks []string
}

// mask puts a word for every mark of a page.
func mask(src string) (m masked) {
	src = regexp.MustCompile(`(?i)`+markName).ReplaceAllString(src, "")
	var b strings.Builder
	for _, p := range scan(src) {
		if !p.tag {
			b.WriteString(p.raw)
			continue
		}
		b.WriteString(m.hold(p.raw))
	}
	m.held = b.String()
	return m
}

// hold gives the word that stands for a mark.
func (m *masked) hold(mark string) string {
	m.marks = append(m.marks, mark)
	return markName + strconv.Itoa(len(m.marks)-1) + "LL"
}

// comments gives the page with comments for the marks that stand in text.
func (m *masked) comments() string {
	var b strings.Builder
	z := html.NewTokenizer(strings.NewReader(m.held))
	z.SetMaxBuf(0)
	raw := false // the text of the element is not markup
	for {
		kind := z.Next()
		text := string(z.Raw())
		switch kind {
		case html.ErrorToken:
			return b.String()
		case html.StartTagToken:
			name, _ := z.TagName()
			raw = slices.Contains(rawElements, string(name))
		case html.EndTagToken:
			raw = false
		case html.TextToken:
			if !raw {
				text = heldInWords.ReplaceAllString(text, "<!--"+markName+"$1-->")
			}
		}
		b.WriteString(text)
	}
}

// give puts something for every mark that is held in a text.
func (m *masked) give(held string, put func(mark string) string) string {
	return heldInWords.ReplaceAllStringFunc(held, func(word string) string {
		k, err := strconv.Atoi(heldInWords.FindStringSubmatch(word)[1])
		if err != nil || k >= len(m.marks) {
			return ""
		}
		return put(m.marks[k])
	})
}

// giveAll puts the marks back; those that were lost are listed.
func (m *masked) giveAll(page string) (out string, lost []string) {
	seen := make([]bool, len(m.marks))
	out = heldForm.ReplaceAllStringFunc(page, func(word string) string {
		groups := heldForm.FindStringSubmatch(word)
		k, err := strconv.Atoi(groups[1] + groups[2])
		if err != nil || k >= len(m.marks) {
			return ""
		}
		seen[k] = true
		return m.marks[k]
	})
	for k, there := range seen {
		if !there {
			lost = append(lost, m.marks[k])
		}
	}
	return out, lost
}
