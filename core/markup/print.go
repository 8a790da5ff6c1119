package markup

import (
	"strings"

	"lucidletter/core/document"
)

// Print writes the text form of a document; Parse of it, or ParseMarkup for a
// formatted body in its canonical form, gives the same tree.
func Print(d document.Document) string {
	var b strings.Builder
	if d.Attrs.Body == document.BodyFormatted {
		printMarkup(&b, Canonical(d).Content, "")
		return b.String()
	}
	printBlocks(&b, d.Content)
	return b.String()
}

func printBlocks(b *strings.Builder, blocks []document.Node) {
	for i, n := range blocks {
		if i > 0 {
			b.WriteByte('\n')
		}
		if n.Type == document.Paragraph {
			printInlines(b, n.Content, false)
			continue
		}
		open, end := PrintPair(n)
		b.WriteString(open)
		b.WriteByte('\n')
		printBlocks(b, n.Content)
		if len(n.Content) > 0 {
			b.WriteByte('\n')
		}
		b.WriteString(end)
	}
}

// PrintPair gives the opening and the closing tag of a node with content.
func PrintPair(n document.Node) (open, end string) {
	if n.Type == document.Fixed || n.Type == document.FixedText {
		return "{{fixed}}", "{{/fixed}}"
	}
	sign := "#"
	if n.Attrs.Not {
		sign = "^"
	}
	return "{{" + sign + PrintCondition(n.Attrs) + "}}", "{{/" + n.Attrs.Path + "}}"
}

// printInlines writes what stands in a line; tagNext tells that a tag follows.
func printInlines(b *strings.Builder, list []document.Node, tagNext bool) {
	for i, n := range list {
		next := tagNext
		if i+1 < len(list) {
			next = list[i+1].Type != document.Text && list[i+1].Type != document.Break
		}
		printInline(b, n, next)
	}
}

func printInline(b *strings.Builder, n document.Node, tagNext bool) {
	switch n.Type {
	case document.Text:
		PrintText(b, LiteralBefore(n.Text, tagNext))
	case document.Break:
		b.WriteByte('\n')
	case document.Malformed:
		b.WriteString(n.Attrs.Code)
	case document.Comment:
		b.WriteString("{{!")
		if n.Attrs != nil { // one without words has none
			b.WriteString(n.Attrs.Code)
		}
		b.WriteString("}}")
	case document.GapNode:
		b.WriteString("{{" + n.Attrs.Path + "}}")
	case document.Passage:
		b.WriteString("{{>" + n.Attrs.Name + "}}")
	case document.When, document.FixedText:
		open, end := PrintPair(n)
		b.WriteString(open)
		printInlines(b, n.Content, true)
		b.WriteString(end)
	case document.Blank:
		printBlank(b, n.Attrs)
	case document.Field:
		b.WriteString("{{" + n.Attrs.Path)
		if n.Attrs.As != "" {
			b.WriteString(" as " + n.Attrs.As)
		}
		if n.Attrs.Missing == document.Instead || n.Attrs.Missing == document.Leave {
			b.WriteString("|" + escapeArg(n.Attrs.Fallback))
		}
		b.WriteString("}}")
	}
}

func printBlank(b *strings.Builder, a *document.Attrs) {
	b.WriteString("{{?" + a.Name)
	if a.Path != "" {
		b.WriteString("." + a.Path)
	}
	if a.Kind != "" {
		b.WriteString(": " + a.Kind)
	}
	for i, c := range a.Choices {
		if i > 0 {
			b.WriteString(" |")
		}
		b.WriteString(" " + escapeArg(c))
	}
	if a.Optional {
		b.WriteString(" optional")
	}
	if a.Hint != "" {
		b.WriteString(` "` + escapeArg(a.Hint) + `"`)
	}
	if a.Default != "" {
		b.WriteString(" = " + escapeArg(a.Default))
	}
	b.WriteString("}}")
}

// PrintText writes literal words; a brace behind a mark that was never closed must
// not become part of it.
func PrintText(b *strings.Builder, literal string) {
	if strings.HasPrefix(literal, "{") && strings.HasSuffix(b.String(), "{") {
		b.WriteByte('\\')
	}
	b.WriteString(literal)
}

// printWords writes words so that no mark is read in them: braces that stand
// together, or before a mark, get a backslash each, and backslashes before
// such a brace are doubled.
func printWords(b *strings.Builder, s string, tagNext bool) {
	for i := 0; i < len(s); {
		n := run(s[i:], '\\')
		braces := run(s[i+n:], '{')
		ends := i+n+braces == len(s) && tagNext
		escape := braces > 1 || (ends && braces == 1)
		if n > 0 && (braces > 0 || ends) {
			b.WriteString(strings.Repeat(`\\`, n))
		} else {
			b.WriteString(s[i : i+n])
		}
		i += n
		for range braces {
			if escape {
				b.WriteByte('\\')
			}
			b.WriteByte('{')
		}
		i += braces
		if n == 0 && braces == 0 {
			next := strings.IndexAny(s[i:], `\{`)
			if next < 0 {
				next = len(s) - i
			}
			b.WriteString(s[i : i+next])
			i += next
		}
	}
}

// CodeOf writes a field, a blank or another mark in the text form.
func CodeOf(n document.Node) string {
	var b strings.Builder
	printInline(&b, n, false)
	return b.String()
}
