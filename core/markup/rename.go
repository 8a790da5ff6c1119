package markup

import (
	"strings"

	"lucidletter/core/document"
)

// PathsIn gives the paths of the fields in documents, also those of conditions and
// in addresses, each once.
func PathsIn(docs ...document.Document) []string {
	var out []string
	seen := map[string]bool{}
	for _, d := range docs {
		Renamed(d, func(path string) string {
			if !seen[path] {
				seen[path] = true
				out = append(out, path)
			}
			return path
		})
	}
	return out
}

// Renamed gives a document with other paths for its fields, also in conditions and
// in addresses. The input is left as it is.
func Renamed(d document.Document, to func(path string) string) document.Document {
	d.Content = renamed(document.Clone(d.Content), to)
	return d
}

func renamed(nodes []document.Node, to func(string) string) []document.Node {
	for i := range nodes {
		n := &nodes[i]
		if n.Attrs != nil {
			a := *n.Attrs
			switch n.Type {
			case document.Field, document.When, document.OnlyWhen:
				a.Path = to(a.Path)
			}
			a.Href, a.Src = renamedAddress(a.Href, to), renamedAddress(a.Src, to)
			n.Attrs = &a
		}
		for k, m := range n.Marks {
			if m.Type == document.Link && m.Attrs != nil && strings.Contains(m.Attrs.Href, "{{") {
				a := *m.Attrs
				a.Href = renamedAddress(a.Href, to)
				n.Marks = append([]document.Mark{}, n.Marks...)
				n.Marks[k].Attrs = &a
			}
		}
		renamed(n.Content, to)
	}
	return nodes
}

func renamedAddress(src string, to func(string) string) string {
	if !strings.Contains(src, "{{") {
		return src
	}
	return Print(Renamed(Parse(src), to))
}
