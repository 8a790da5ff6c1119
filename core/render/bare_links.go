package render

import (
	"regexp"
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/safehtml"
)

// A bare address is words that can be followed as they stand: with http or https (RFC
// 3986 sections 3.1 and 3.2), or a host that begins with www. What closes a sentence or
// a bracket around it is no part of it (RFC 3986 appendix C).
var bareAddress = regexp.MustCompile(`(?i)\b(?:https?://|www\.)[^\s<>"“”„«»]+`)

// linked gives inline content with its bare addresses as links; the same list when it
// has none. An address that goes on in something that is no text, such as a gap, is not
// whole and stays as it is.
func linked(list []document.Node) []document.Node {
	if !slices.ContainsFunc(list, func(n document.Node) bool { return mayHoldAddress(n.Text) }) {
		return list
	}
	var out []document.Node
	for i := 0; i < len(list); {
		end := i
		var words strings.Builder
		for end < len(list) && list[end].Type == document.Text && document.LinkOf(&list[end]) == nil {
			words.WriteString(list[end].Text)
			end++
		}
		if end == i {
			out = append(out, list[i])
			i++
			continue
		}
		whole := end == len(list) || list[end].Type == document.Break
		out = append(out, withLinks(list[i:end], words.String(), whole)...)
		i = end
	}
	return out
}

func mayHoldAddress(s string) bool {
	return strings.Contains(s, "://") || strings.Contains(s, "www.") || strings.Contains(s, "WWW.")
}

// withLinks puts links on the addresses in the words of some texts.
func withLinks(texts []document.Node, words string, whole bool) []document.Node {
	var out []document.Node
	at, text := 0, 0 // where the next text begins, and which it is
	put := func(from, to int, href string) {
		for from < to {
			n := texts[text]
			last := at + len(n.Text)
			upTo := min(to, last)
			if part := n.Text[from-at : upTo-at]; part != "" {
				if part != n.Text {
					n = document.Node{Type: document.Text, Text: part, Marks: n.Marks}
				}
				if href != "" {
					n.Prerendered = nil
					n.Marks = append(slices.Clone(n.Marks), document.Mark{Type: document.Link, Attrs: &document.MarkAttrs{Href: href}})
				}
				out = append(out, n)
			}
			if from = upTo; from == last {
				at, text = last, text+1
			}
		}
	}
	done := 0
	for _, hit := range bareAddress.FindAllStringIndex(words, -1) {
		address := words[hit[0]:hit[1]]
		address = address[:len(address)-len(closing(address))]
		href := address
		if !strings.Contains(strings.ToLower(href), "://") {
			href = "https://" + href
		}
		if !whole && hit[1] == len(words) || !hasHost(href) || !safehtml.MayFollow(href) {
			continue
		}
		put(done, hit[0], "")
		done = hit[0] + len(address)
		put(hit[0], done, href)
	}
	put(done, len(words), "")
	return out
}

// closing gives the signs at the end of an address that belong to the words around it.
func closing(address string) string {
	rest := address
	for rest != "" {
		switch last := rest[len(rest)-1]; {
		case strings.IndexByte(".,;:!?'*", last) >= 0:
		case last == ')' && strings.Count(rest, "(") < strings.Count(rest, ")"),
			last == ']' && strings.Count(rest, "[") < strings.Count(rest, "]"),
			last == '}' && strings.Count(rest, "{") < strings.Count(rest, "}"):
		case strings.HasSuffix(rest, "’"), strings.HasSuffix(rest, "…"):
			rest = rest[:len(rest)-2]
		default:
			return address[len(rest):]
		}
		rest = rest[:len(rest)-1]
	}
	return address
}

// hasHost tells whether there is something to go to.
func hasHost(href string) bool {
	_, rest, _ := strings.Cut(href, "://")
	host, _, _ := strings.Cut(rest, "/")
	host, _, _ = strings.Cut(host, "?")
	return strings.Contains(strings.Trim(host, "."), ".") || strings.HasPrefix(host, "localhost")
}

// linkBlocks puts links on the bare addresses in blocks; fixed wording stays as it is.
func linkBlocks(blocks []document.Node) {
	for i := range blocks {
		switch n := &blocks[i]; n.Type {
		case document.Paragraph, document.Heading:
			n.Content = linked(n.Content)
		case document.Fixed:
		default:
			linkBlocks(n.Content)
		}
	}
}
