package letter

import (
	"regexp"
	"slices"
	"strings"
)

// Wrap puts the header and the footer of a stationery around a formatted letter.
// The look of the stationery's sheet, its header's, is that of the whole where the
// letter has none of its own. Other bodies are given back as they are.
func Wrap(header, body, footer Document) Document {
	if body.Attrs.Body != BodyFormatted {
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

// Inventory is what a letter holds that its template may keep its writer from
// adding: how many links, buttons and addresses in words, how many pictures, and
// the fields whose words stand in it.
type Inventory struct {
	Links    int
	Pictures int
	Fields   []string
}

var addressInWords = regexp.MustCompile(`(?i)\b(?:https?://|www\.)\S`)

// InventoryOf counts a letter.
func InventoryOf(d Document) Inventory {
	var out Inventory
	if d.Attrs.Body == BodyHTML {
		for _, p := range pageParts(pageSource(d)).parts {
			switch p.Kind {
			case PageLink:
				out.Links++
			case PagePicture:
				out.Pictures++
			}
		}
	}
	var look func(nodes []Node)
	look = func(nodes []Node) {
		for i := range nodes {
			n := &nodes[i]
			link := linkOf(n)
			switch {
			case n.Type == Image:
				out.Pictures++
				if n.Attrs.Href != "" {
					out.Links++
				}
			case n.Type == Button:
				out.Links++
			case link != nil:
				if i == 0 || !sameLink(linkOf(&nodes[i-1]), link) {
					out.Links++
				}
			case n.Type == Text && mergedMark(n) == nil && d.Attrs.Body != BodyHTML:
				out.Links += len(addressInWords.FindAllString(n.Text, -1))
			}
			if m := mergedMark(n); m != nil && m.Path != "" && !slices.Contains(out.Fields, m.Path) {
				out.Fields = append(out.Fields, m.Path)
			}
			if n.Type == GapNode && !slices.Contains(out.Fields, n.Attrs.Path) {
				out.Fields = append(out.Fields, n.Attrs.Path)
			}
			look(n.Content)
		}
	}
	look(d.Content)
	return out
}

// PictureKeys gives the keys of the pictures that travel with a page: those whose
// address is cid: and the SHA-256 of the file (RFC 2392), each once.
func PictureKeys(page string) []string {
	if !strings.Contains(page, "cid:") {
		return nil // most have none
	}
	var out []string
	for _, m := range keyForm.FindAllString(page, -1) {
		if key := PictureKey(m); !slices.Contains(out, key) {
			out = append(out, key)
		}
	}
	return out
}

var keyForm = regexp.MustCompile(`\bcid:[0-9a-f]{64}\b`)

// PictureKey gives the key of an address cid:… of a picture, or "".
func PictureKey(address string) string {
	if len(address) == len("cid:")+64 && keyForm.MatchString(address) {
		return address[len("cid:"):]
	}
	return ""
}

// ShowPictures gives HTML in which pictures that travel with a letter are fetched
// from where the program serves them, for a screen.
func ShowPictures(page, from string) string {
	return keyForm.ReplaceAllStringFunc(page, func(m string) string { return from + m[len("cid:"):] })
}

var contentForm = regexp.MustCompile(`\bcid:([0-9a-f]{64})@[\w.-]+`)

// ShowSent gives the HTML of a letter that was composed, its pictures fetched from
// where the program serves them, for a screen.
func ShowSent(page, from string) string { return contentForm.ReplaceAllString(page, from+"$1") }
