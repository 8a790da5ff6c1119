package letter

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Wrap puts the header and the footer of a stationery around a formatted letter.
// The look of the stationery's sheet, its header's, is that of the whole where the
// letter has none of its own. Other bodies are given back as they are.
func Wrap(header, body, footer document.Document) document.Document {
	if body.Attrs.Body != document.BodyFormatted {
		return body
	}
	out := body
	out.Content = slices.Concat(header.Content, body.Content, footer.Content)
	look, own := header.Attrs, &out.Attrs
	if own.Font == "" {
		own.Font = look.Font
	}
	if own.Size == 0 {
		own.Size = look.Size
	}
	if own.Color == "" {
		own.Color = look.Color
	}
	if own.Background == "" {
		own.Background = look.Background
	}
	if own.Align == "" {
		own.Align = look.Align
	}
	return out
}

// PictureKeys gives the keys of the pictures that travel with a page: those whose
// address is cid: and the SHA-256 of the file (RFC 2392), each once.
func PictureKeys(page string) []string {
	if !strings.Contains(page, "cid:") {
		return nil // most have none
	}
	var out []string
	for _, m := range markup.KeyForm.FindAllString(page, -1) {
		if key := markup.PictureKey(m); !slices.Contains(out, key) {
			out = append(out, key)
		}
	}
	return out
}

// ShowPictures gives HTML in which pictures that travel with a letter are fetched
// from where the program serves them, for a screen.
func ShowPictures(page, from string) string {
	return markup.KeyForm.ReplaceAllStringFunc(page, func(m string) string { return from + m[len("cid:"):] })
}

var contentForm = regexp.MustCompile(`\bcid:([0-9a-f]{64})@[\w.-]+`)

// ShowSent gives the HTML of a letter that was composed, its pictures fetched from
// where the program serves them, for a screen.
func ShowSent(page, from string) string { return contentForm.ReplaceAllString(page, from+"$1") }
