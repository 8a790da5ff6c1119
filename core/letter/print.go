package letter

import "strings"

// Print writes the text form of a document; Parse of it, or ParseMarkup for a
// formatted body in its canonical form, gives the same tree.
func Print(d Document) string {
	var b strings.Builder
	if d.Attrs.Body == BodyFormatted {
		printMarkup(&b, Canonical(d).Content, "")
		return b.String()
	}
	printBlocks(&b, d.Content)
	return b.String()
}

func printBlocks(b *strings.Builder, blocks []Node) {
	for i, n := range blocks {
		if i > 0 {
			b.WriteByte('\n')
		}
		if n.Type == Paragraph {
			printInlines(b, n.Content, false)
			continue
		}
		open, end := printPair(n)
		b.WriteString(open)
		b.WriteByte('\n')
		printBlocks(b, n.Content)
		if len(n.Content) > 0 {
			b.WriteByte('\n')
		}
		b.WriteString(end)
	}
}

// printPair gives the opening and the closing tag of a node with content.
func printPair(n Node) (open, end string) {
	if n.Type == Fixed || n.Type == FixedText {
		return "{{fixed}}", "{{/fixed}}"
	}
	sign := "#"
	if n.Attrs.Not {
		sign = "^"
	}
	return "{{" + sign + printCondition(n.Attrs) + "}}", "{{/" + n.Attrs.Path + "}}"
}

// printInlines writes what stands in a line; tagNext tells that a tag follows.
func printInlines(b *strings.Builder, list []Node, tagNext bool) {
	for i, n := range list {
		next := tagNext
		if i+1 < len(list) {
			next = list[i+1].Type != Text && list[i+1].Type != Break
		}
		printInline(b, n, next)
	}
}

func printInline(b *strings.Builder, n Node, tagNext bool) {
	switch n.Type {
	case Text:
		printText(b, literalBefore(n.Text, tagNext))
	case Break:
		b.WriteByte('\n')
	case Malformed:
		b.WriteString(n.Attrs.Code)
	case Comment:
		b.WriteString("{{!")
		if n.Attrs != nil { // one without words has none
			b.WriteString(n.Attrs.Code)
		}
		b.WriteString("}}")
	case GapNode:
		b.WriteString("{{" + n.Attrs.Path + "}}")
	case Passage:
		b.WriteString("{{>" + n.Attrs.Name + "}}")
	case When, FixedText:
		open, end := printPair(n)
		b.WriteString(open)
		printInlines(b, n.Content, true)
		b.WriteString(end)
	case Blank:
		printBlank(b, n.Attrs)
	case Field:
		b.WriteString("{{" + n.Attrs.Path)
		if n.Attrs.As != "" {
			b.WriteString(" as " + n.Attrs.As)
		}
		if n.Attrs.Missing == Instead || n.Attrs.Missing == Leave {
			b.WriteString("|" + escapeArg(n.Attrs.Fallback))
		}
		b.WriteString("}}")
	}
}

func printBlank(b *strings.Builder, a *Attrs) {
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

// printText writes literal words; a brace behind a mark that was never closed must
// not become part of it.
func printText(b *strings.Builder, literal string) {
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
