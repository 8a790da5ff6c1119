package letter

import (
	"lucidletter/core/document"
	"lucidletter/core/template"
)

// leads is something in a body that leads to an address: a link with its words, a
// button or a picture, in a block counted from 1.
type leads struct {
	href, words string
	block       int
}

// linksOf gives what leads to addresses in a body, in order. A link over several
// nodes, of which some look different, is one.
func linksOf(d document.Document) []leads {
	var out []leads
	block := 0
	var walk func(nodes []document.Node)
	walk = func(nodes []document.Node) {
		var before *document.MarkAttrs
		for i := range nodes {
			n := &nodes[i]
			if n.Attrs != nil {
				for _, a := range []string{n.Attrs.Href, n.Attrs.Src} {
					if a != "" {
						out = append(out, leads{a, template.WordsIn(n.Content), block})
					}
				}
			}
			link := document.LinkOf(n)
			switch {
			case link == nil:
			case document.SameLink(before, link):
				out[len(out)-1].words += n.Text
			default:
				out = append(out, leads{link.Href, n.Text, block})
			}
			before = link
			walk(n.Content)
		}
	}
	for i := range d.Content {
		block = i + 1
		walk(d.Content[i : i+1])
	}
	return out
}

// addressesOf gives all that the links and buttons of a body lead to, and its
// pictures with where they are, in order.
func addressesOf(d document.Document) []string {
	var out []string
	for _, l := range linksOf(d) {
		out = append(out, l.href)
	}
	return out
}
