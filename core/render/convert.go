package render

import (
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Formatted gives a plain body as a formatted one: lines with an empty line
// between them are paragraphs, lines without one stand under each other. Other
// bodies are given back as they are.
func Formatted(d document.Document) document.Document {
	if d.Attrs.Body != document.BodyPlain {
		return d
	}
	out := document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: document.FormatVersion, Body: document.BodyFormatted, Lang: d.Attrs.Lang}}
	out.Content = formattedLines(d.Content)
	linkBlocks(out.Content)
	if len(out.Content) == 0 {
		out.Content = []document.Node{document.NewParagraph()}
	}
	return markup.Canonical(out)
}

func formattedLines(lines []document.Node) []document.Node {
	var out []document.Node
	open := false // the last paragraph goes on
	for _, n := range lines {
		switch {
		case n.Type == document.OnlyWhen || n.Type == document.Fixed:
			if n.Content = formattedLines(n.Content); len(n.Content) > 0 {
				out = append(out, n)
			}
			open = false
		case document.HasNoWords(n):
			open = false
		case open:
			last := &out[len(out)-1]
			last.Content = append(append(last.Content, document.Node{Type: document.Break}), n.Content...)
		default:
			out = append(out, document.NewParagraph(document.Clone(n.Content)...))
			open = true
		}
	}
	return out
}

// Readable gives the wording of a template for people: of a plain body and of a
// page the text form, of a formatted body its text with labels in ‹ › for fields
// and blanks.
func Readable(d document.Document, labelOf func(path string) string) string {
	if d.Attrs.Body != document.BodyFormatted {
		return markup.Print(d)
	}
	return textOf(labelled(document.Clone(d.Content), labelOf))
}

func labelled(nodes []document.Node, labelOf func(path string) string) []document.Node {
	for i := range nodes {
		n := &nodes[i]
		n.Prerendered = nil
		switch n.Type {
		case document.Field:
			*n = document.Node{Type: document.GapNode, Attrs: &document.Attrs{Label: labelOf(n.Attrs.Path)}, Marks: n.Marks}
		case document.Blank:
			*n = document.Node{Type: document.GapNode, Attrs: &document.Attrs{Label: strings.ReplaceAll(n.Attrs.Name, "_", " ")}, Marks: n.Marks}
		case document.Comment, document.Passage, document.Malformed:
			*n = document.Node{Type: document.Text, Text: markup.CodeOf(*n), Marks: n.Marks}
		case document.OnlyWhen:
			n.Content = append([]document.Node{document.NewParagraph(document.Node{Type: document.Text, Text: "(only when " + labelOf(n.Attrs.Path) + WhenTail(n.Attrs) + ")"})}, labelled(n.Content, labelOf)...)
			n.Type = document.Fixed
		default:
			labelled(n.Content, labelOf)
		}
	}
	return nodes
}

// WhenTail says what a condition compares with, in words: " is Berlin".
func WhenTail(a *document.Attrs) string {
	switch {
	case a.Op == "" && a.Not:
		return " is empty"
	case a.Op == "":
		return ""
	}
	return strings.TrimPrefix(markup.PrintCondition(a), a.Path)
}

// Words gives what a template says as text to be searched, with … for its fields
// and blanks.
func Words(d document.Document) string {
	d.Content = onlyWords(document.Clone(d.Content))
	return RenderText(d)
}

func onlyWords(nodes []document.Node) []document.Node {
	out := make([]document.Node, 0, len(nodes))
	for _, n := range nodes {
		n.Prerendered = nil
		switch n.Type {
		case document.Text, document.Break:
			out = append(out, n)
		case document.Field, document.Blank, document.Passage, document.GapNode:
			out = append(out, document.Node{Type: document.Text, Text: "…"})
		case document.Comment, document.Malformed:
		case document.When, document.FixedText, document.OnlyWhen, document.Fixed:
			out = append(out, onlyWords(n.Content)...)
		default:
			n.Content = onlyWords(n.Content)
			out = append(out, n)
		}
	}
	return out
}
