package interchange

import (
	"regexp"
	"slices"

	"lucidletter/core/document"
	"lucidletter/core/render"
)

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
func InventoryOf(d document.Document) Inventory {
	var out Inventory
	if d.Attrs.Body == document.BodyHTML {
		for _, p := range pageParts(render.PageSource(d)).parts {
			switch p.Kind {
			case PageLink:
				out.Links++
			case PagePicture:
				out.Pictures++
			}
		}
	}
	var look func(nodes []document.Node)
	look = func(nodes []document.Node) {
		for i := range nodes {
			n := &nodes[i]
			link := document.LinkOf(n)
			switch {
			case n.Type == document.Image:
				out.Pictures++
				if n.Attrs.Href != "" {
					out.Links++
				}
			case n.Type == document.Button:
				out.Links++
			case link != nil:
				if i == 0 || !document.SameLink(document.LinkOf(&nodes[i-1]), link) {
					out.Links++
				}
			case n.Type == document.Text && document.MergedMark(n) == nil && d.Attrs.Body != document.BodyHTML:
				out.Links += len(addressInWords.FindAllString(n.Text, -1))
			}
			if m := document.MergedMark(n); m != nil && m.Path != "" && !slices.Contains(out.Fields, m.Path) {
				out.Fields = append(out.Fields, m.Path)
			}
			if n.Type == document.GapNode && !slices.Contains(out.Fields, n.Attrs.Path) {
				out.Fields = append(out.Fields, n.Attrs.Path)
			}
			look(n.Content)
		}
	}
	look(d.Content)
	return out
}
