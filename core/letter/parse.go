package letter

import "strings"

// Parse reads the text form of a plain body. It always gives a tree: marks
// that cannot be read stand in it as Malformed nodes, which Check reports.
// Text over MaxBody is cut off by the caller's own limit, not here.
func Parse(src string) Document {
	d := plainDoc()
	src = normal(src)
	current := paragraph()
	for _, p := range scan(src) {
		if p.tag {
			current.Content = append(current.Content, tagNode(p))
			continue
		}
		at := p.at
		for i, words := range strings.Split(p.text, "\n") {
			if i > 0 {
				d.Content = append(d.Content, current)
				current = paragraph()
			}
			current.Content = append(current.Content, textNode(words, at)...)
			at += len(words) + 1
		}
	}
	d.Content = append(d.Content, current)
	return d
}

func tagNode(p piece) Node {
	n, err := Node{}, error(nil)
	if p.err == "" {
		n, err = readTag(p.text)
	}
	if p.err != "" || err != nil {
		n = Node{Type: Malformed, Attrs: &Attrs{Code: p.raw}}
	}
	n.at = p.at
	return n
}

// whyMalformed gives the reason again for a mark that could not be read.
func whyMalformed(code string) string {
	for _, p := range scan(code) {
		if p.err != "" {
			return p.err
		}
		if p.tag {
			if _, err := readTag(p.text); err != nil {
				return err.Error()
			}
		}
	}
	return "it cannot be read"
}

// Print writes the text form of a document; Parse of it gives the same tree.
func Print(d Document) string {
	var b strings.Builder
	for i, p := range d.Content {
		if i > 0 {
			b.WriteByte('\n')
		}
		for j, n := range p.Content {
			tagNext := j+1 < len(p.Content) && p.Content[j+1].Type != Text
			printInline(&b, n, tagNext)
		}
	}
	return b.String()
}

func printInline(b *strings.Builder, n Node, tagNext bool) {
	switch n.Type {
	case Text:
		printWords(b, n.Text, tagNext)
	case Malformed:
		b.WriteString(n.Attrs.Code)
	case Comment:
		b.WriteString("{{!" + n.Attrs.Code + "}}")
	case GapNode:
		b.WriteString("{{" + n.Attrs.Path + "}}")
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
