package letter

import (
	"strings"

	"golang.org/x/net/html"
)

// Foot is what stands in small print below a letter: words that lead to an address,
// and who sent it. "" leaves a line out.
type Foot struct {
	Words, Address string
	Sender         string
}

// WithFoot puts a foot below the two forms of a letter; page may be "".
func WithFoot(page, text string, f Foot) (string, string) {
	var small, plain []string
	if f.Words != "" {
		small = append(small, `<a href="`+html.EscapeString(f.Address)+`" style="color:#5d6256">`+html.EscapeString(f.Words)+`</a>`)
		plain = append(plain, f.Words+": "+f.Address)
	}
	if f.Sender != "" {
		small, plain = append(small, html.EscapeString(f.Sender)), append(plain, f.Sender)
	}
	if len(plain) == 0 {
		return page, text
	}
	text = strings.TrimRight(text, "\n") + "\n\n" + strings.Join(plain, "\n") + "\n"
	if page == "" {
		return page, text
	}
	block := `<div style="margin:16px auto 0;max-width:600px;padding:0 16px 16px;text-align:center;font:12px/1.5 Arial,sans-serif;color:#5d6256">` + strings.Join(small, "<br>") + `</div>`
	return beforeBodyEnd(page, block), text
}
