package markup

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/net/html"
)

// MarkName stands, with a number, for a mark while the page is made safe: within
// a tag as a word, in text as a comment, which no parser moves.
const MarkName = "LLMARK"

var (
	heldForm    = regexp.MustCompile(`(?i)<!--` + MarkName + `(\d+)-->|` + MarkName + `(\d+)LL`)
	heldInWords = regexp.MustCompile(MarkName + `(\d+)LL`)
)

// RawElements are those whose text is not markup (HTML standard, section 13.2.5).
var RawElements = []string{"script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes", "plaintext"}

// Masked is a page in which a word stands for every mark.
type Masked struct {
	Held  string
	marks []string
}

// Mask puts a word for every mark of a page.
func Mask(src string) (m Masked) {
	src = regexp.MustCompile(`(?i)`+MarkName).ReplaceAllString(src, "")
	var b strings.Builder
	for _, p := range Scan(src) {
		if !p.Tag {
			b.WriteString(p.Raw)
			continue
		}
		b.WriteString(m.Hold(p.Raw))
	}
	m.Held = b.String()
	return m
}

// Hold gives the word that stands for a mark.
func (m *Masked) Hold(mark string) string {
	m.marks = append(m.marks, mark)
	return MarkName + strconv.Itoa(len(m.marks)-1) + "LL"
}

// Comments gives the page with comments for the marks that stand in text.
func (m *Masked) Comments() string {
	var b strings.Builder
	z := html.NewTokenizer(strings.NewReader(m.Held))
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
			raw = slices.Contains(RawElements, string(name))
		case html.EndTagToken:
			raw = false
		case html.TextToken:
			if !raw {
				text = heldInWords.ReplaceAllString(text, "<!--"+MarkName+"$1-->")
			}
		}
		b.WriteString(text)
	}
}

// Give puts something for every mark that is held in a text.
func (m *Masked) Give(held string, put func(mark string) string) string {
	return heldInWords.ReplaceAllStringFunc(held, func(word string) string {
		k, err := strconv.Atoi(heldInWords.FindStringSubmatch(word)[1])
		if err != nil || k >= len(m.marks) {
			return ""
		}
		return put(m.marks[k])
	})
}

// GiveAll puts the marks back; those that were lost are listed.
func (m *Masked) GiveAll(page string) (out string, lost []string) {
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
