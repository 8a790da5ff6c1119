package markup

import (
	"slices"
	"strings"
	"unicode"

	"lucidletter/core/document"
)

// Canonical gives the one way to store a formatted tree, in which its text form
// comes back: neighbouring words with the same marks are one text, there is no
// empty text, no mark twice and none on an only-when, no control sign (a tab is a
// space), no setting that is written out though it is the usual one. Other trees
// are given back as they are.
func Canonical(d document.Document) document.Document {
	if d.Attrs.Body != document.BodyFormatted {
		return d
	}
	d.Content = canonicalNodes(d.Content)
	if d.Content == nil {
		d.Content = []document.Node{}
	}
	return d
}

func canonicalNodes(nodes []document.Node) []document.Node {
	var out []document.Node
	for _, n := range nodes {
		n.Marks = canonicalMarks(n)
		n.Attrs = canonicalAttrs(n)
		if n.Type == document.Text {
			n.Text = printable(n.Text)
			if n.Text == "" {
				continue
			}
			if k := len(out) - 1; k >= 0 && out[k].Type == document.Text && document.SameMarks(out[k].Marks, n.Marks) {
				out[k].Text += n.Text
				continue
			}
		}
		n.Content = canonicalNodes(n.Content)
		if len(n.Content) == 0 && (n.Type == document.OnlyWhen || n.Type == document.Fixed || n.Type == document.When || n.Type == document.FixedText) {
			continue
		}
		out = append(out, n)
	}
	return out
}

// printable takes out the signs that no text form can carry.
func printable(s string) string {
	if !strings.ContainsFunc(s, func(r rune) bool { return unicode.IsControl(r) || r == unicode.ReplacementChar }) {
		return s
	}
	return strings.Map(func(r rune) rune {
		switch {
		case r == '\t' || r == '\n' || r == '\r' || r == '\v' || r == '\f':
			return ' '
		case unicode.IsControl(r):
			return -1
		}
		return r
	}, strings.ToValidUTF8(s, "\uFFFD"))
}

func canonicalMarks(n document.Node) []document.Mark {
	if n.Type == document.When || n.Type == document.FixedText || !slices.Contains(document.InlineTypes, n.Type) {
		return nil
	}
	var out []document.Mark
	for _, m := range n.Marks {
		if m.Attrs != nil {
			a := *m.Attrs
			a.Href = canonicalAddress(a.Href)
			m.Attrs = &a
			if a.Empty() {
				m.Attrs = nil
			}
		}
		if m.Type == document.TextStyle && m.Attrs == nil || slices.ContainsFunc(out, func(o document.Mark) bool { return o.Type == m.Type }) {
			continue
		}
		out = append(out, m)
	}
	return out
}

func canonicalAttrs(n document.Node) *document.Attrs {
	if n.Attrs == nil {
		return nil
	}
	a := *n.Attrs
	usual := func(v *int, is int) {
		if *v == is {
			*v = 0
		}
	}
	usual(&a.Colspan, 1)
	usual(&a.Rowspan, 1)
	usual(&a.Start, 1)
	if a.Align == "left" {
		a.Align = ""
	}
	if n.Type == document.Field && a.Missing == "" {
		a.Missing = document.MustBe
	}
	if len(a.Colwidth) > 0 && !slices.ContainsFunc(a.Colwidth, func(w int) bool { return w > 0 }) {
		a.Colwidth = nil
	}
	if n.Type == document.Comment {
		a.Code = strings.TrimRight(a.Code, " \t\n")
	}
	a.Alt, a.Href, a.Src = printable(a.Alt), canonicalAddress(a.Href), canonicalAddress(a.Src)
	if a.Given() == 0 {
		return nil
	}
	return &a
}

// canonicalAddress gives the one way to write an address in the text form.
func canonicalAddress(s string) string {
	pieces := Scan(strings.TrimSpace(printable(s)))
	var b strings.Builder
	for i, p := range pieces {
		if p.Tag {
			b.WriteString(p.Raw)
		} else {
			printWords(&b, p.text, i+1 < len(pieces))
		}
	}
	return b.String()
}
