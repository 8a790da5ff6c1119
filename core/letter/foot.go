package letter

import (
	"strings"

	"golang.org/x/net/html"

	"lucidletter/core/field"
)

// Foot is what stands in small print below a letter: words that lead to an address,
// and who sent it. "" leaves a line out.
type Foot struct {
	Words, Address string
	Sender         string
}

// WithFoot puts a foot below the two forms of a letter; page may be "". An
// address that stands in a form already, such as in its stationery, does not stand there
// twice.
func WithFoot(page, text string, f Foot) (string, string) {
	if plain := f.lines(func() string { return text }, func(words, address string) string { return words + ": " + address }, strings.TrimSpace); len(plain) > 0 {
		text = strings.TrimRight(text, "\n") + "\n\n" + strings.Join(plain, "\n") + "\n"
	}
	if page == "" {
		return page, text
	}
	small := f.lines(func() string { return pageWords(page) }, func(words, address string) string {
		return `<a href="` + html.EscapeString(address) + `" style="color:#5d6256">` + html.EscapeString(words) + `</a>`
	}, html.EscapeString)
	if len(small) == 0 {
		return page, text
	}
	block := `<div style="margin:16px auto 0;max-width:600px;padding:0 16px 16px;text-align:center;font:12px/1.5 Arial,sans-serif;color:#5d6256">` + strings.Join(small, "<br>") + `</div>`
	return beforeBodyEnd(page, block), text
}

// lines gives the lines that do not stand in the words of a letter yet; said gives those.
func (f Foot) lines(said func() string, link func(words, address string) string, plain func(string) string) []string {
	var out []string
	if f.Words != "" {
		out = append(out, link(f.Words, f.Address))
	}
	if f.Sender != "" && !saysAll(said(), f.Sender) {
		out = append(out, plain(f.Sender))
	}
	return out
}

// saysAll tells whether all parts of an address, between its commas, stand in some words
// in their order, whatever stands between them.
func saysAll(said, address string) bool {
	rest := field.PlainWords(said)
	for part := range strings.SplitSeq(address, ",") {
		words := field.PlainWords(part)
		at := strings.Index(rest, words)
		if at < 0 {
			return false
		}
		rest = rest[at+len(words):]
	}
	return true
}

// pageWords gives the words of a page.
func pageWords(page string) string {
	var out strings.Builder
	z := html.NewTokenizer(strings.NewReader(page))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		if kind == html.TextToken {
			out.WriteString(z.Token().Data + " ")
		}
	}
	return out.String()
}
