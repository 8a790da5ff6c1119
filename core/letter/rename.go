package letter

import "strings"

// PathsIn gives the paths of the fields in documents, also those of conditions and
// in addresses, each once.
func PathsIn(docs ...Document) []string {
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
func Renamed(d Document, to func(path string) string) Document {
	d.Content = renamed(clone(d.Content), to)
	return d
}

func renamed(nodes []Node, to func(string) string) []Node {
	for i := range nodes {
		n := &nodes[i]
		if n.Attrs != nil {
			a := *n.Attrs
			switch n.Type {
			case Field, When, OnlyWhen:
				a.Path = to(a.Path)
			}
			a.Href, a.Src = renamedAddress(a.Href, to), renamedAddress(a.Src, to)
			n.Attrs = &a
		}
		for k, m := range n.Marks {
			if m.Type == Link && m.Attrs != nil && strings.Contains(m.Attrs.Href, "{{") {
				a := *m.Attrs
				a.Href = renamedAddress(a.Href, to)
				n.Marks = append([]Mark{}, n.Marks...)
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
