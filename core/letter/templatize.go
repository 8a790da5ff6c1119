package letter

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// FieldWords are words that a field would be written as. Count is how often they
// stand in a letter without coming from it.
type FieldWords struct {
	Path  string
	As    string
	Words string
	Count int
}

// FieldOf gives what stands in a template for words that came from a field; false
// when the writer made them others, so that they stay words.
type FieldOf func(path, words string) (document.Attrs, bool)

// FieldsIn finds known words in a letter that no field says are its own, the longest
// first. Words stand between other characters than letters and digits.
func FieldsIn(known []FieldWords, docs ...document.Document) []FieldWords {
	known = slices.Clone(known)
	slices.SortStableFunc(known, func(a, b FieldWords) int { return len(b.Words) - len(a.Words) })
	for _, d := range docs {
		eachWords(d.Content, func(n *document.Node) {
			text := n.Text
			for i := range known {
				for at := findWhole(text, known[i].Words); at >= 0; at = findWhole(text, known[i].Words) {
					known[i].Count++
					// What is within a longer one is not counted again.
					text = text[:at] + strings.Repeat("\x00", len(known[i].Words)) + text[at+len(known[i].Words):]
				}
			}
		})
	}
	return slices.DeleteFunc(known, func(f FieldWords) bool { return f.Count == 0 })
}

// eachWords visits the words of a letter that came from no field and no template.
func eachWords(nodes []document.Node, visit func(n *document.Node)) {
	for i := range nodes {
		n := &nodes[i]
		if n.Type == document.Text && document.MergedMark(n) == nil && !isFixed(n) {
			visit(n)
		}
		eachWords(n.Content, visit)
	}
}

// findWhole finds words that are no part of others.
func findWhole(text, words string) int {
	if words == "" {
		return -1
	}
	for from := 0; ; {
		i := strings.Index(text[from:], words)
		if i < 0 {
			return -1
		}
		at := from + i
		if standsAlone(text, at, at+len(words)) {
			return at
		}
		from = at + len(words)
	}
}

// standsAlone reports whether neither a letter nor a digit is beside a stretch of a text.
func standsAlone(text string, from, to int) bool {
	before, _ := utf8.DecodeLastRuneInString(text[:from])
	after, _ := utf8.DecodeRuneInString(text[to:])
	return !wordRune(before) && !wordRune(after)
}

// FindFolded finds words that are no part of others in a text, whatever their case and however
// wide the spaces between them, from an offset on; -1, -1 for none.
func FindFolded(text, words string, from int) (start, end int) {
	first, _ := utf8.DecodeRuneInString(words)
	for at := from; words != "" && at < len(text); {
		r, size := utf8.DecodeRuneInString(text[at:])
		if sameFolded(r, first) {
			if n := foldedPrefix(text[at:], words); n > 0 && standsAlone(text, at, at+n) {
				return at, at + n
			}
		}
		at += size
	}
	return -1, -1
}

// foldedPrefix gives how many bytes at the beginning of a text are some words, 0 for none.
func foldedPrefix(text, words string) int {
	at := 0
	for _, w := range words {
		r, size := utf8.DecodeRuneInString(text[at:])
		switch {
		case unicode.IsSpace(w) && size > 0 && unicode.IsSpace(r): // a narrow space is one too
		case size == 0 || !sameFolded(r, w):
			return 0
		}
		at += size
	}
	return at
}

// sameFolded reports whether two runes are one under simple case folding (Unicode Standard,
// section 3.13).
func sameFolded(a, b rune) bool {
	if a == b {
		return true
	}
	for r := unicode.SimpleFold(a); r != a; r = unicode.SimpleFold(r) {
		if r == b {
			return true
		}
	}
	return false
}

func wordRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// ToTemplate gives the wording of a letter as that of a template: words that came
// from a field are the field again, gaps are their field or blank, and words of take
// are fields wherever they stand.
func ToTemplate(d document.Document, of FieldOf, take []FieldWords) document.Document {
	d.Content = templatize(document.Clone(d.Content), of, take)
	return markup.Canonical(d)
}

func templatize(nodes []document.Node, of FieldOf, take []FieldWords) []document.Node {
	var out []document.Node
	for i := 0; i < len(nodes); i++ {
		n := nodes[i]
		n.Prerendered = nil
		m := document.MergedMark(&n)
		switch {
		case n.Type == document.GapNode:
			out = append(out, opened(n))
		case n.Type == document.Text && m != nil && m.Path != "":
			words := n.Text
			for i+1 < len(nodes) && nodes[i+1].Type == document.Text && sameSource(document.MergedMark(&nodes[i+1]), m) {
				i++
				words += nodes[i].Text
			}
			n.Marks = lookOf(n.Marks)
			if attrs, ok := of(m.Path, words); ok {
				out = append(out, document.Node{Type: document.Field, Attrs: &attrs, Marks: n.Marks})
			} else {
				n.Text = words
				out = append(out, n)
			}
		case n.Type == document.Text:
			n.Marks = lookOf(n.Marks)
			out = append(out, withFields(n, take)...)
		default:
			n.Content = templatize(n.Content, of, take)
			out = append(out, n)
		}
	}
	return out
}

func sameSource(a, b *document.MarkAttrs) bool {
	return a != nil && a.Path == b.Path && a.Place == b.Place
}

// lookOf leaves out the marks that only letters have.
func lookOf(marks []document.Mark) []document.Mark {
	return slices.DeleteFunc(slices.Clone(marks), func(m document.Mark) bool {
		return m.Type == document.Merged || m.Type == document.FixedMark || m.Type == document.LeftOut
	})
}

// opened gives the field or the blank of a gap.
func opened(n document.Node) document.Node {
	marks := lookOf(n.Marks)
	if name, ok := strings.CutPrefix(n.Attrs.Path, "?"); ok {
		name, key, _ := strings.Cut(name, ".")
		return document.Node{Type: document.Blank, Attrs: &document.Attrs{Name: name, Path: key, Kind: n.Attrs.Kind, Hint: n.Attrs.Hint, Choices: n.Attrs.Choices}, Marks: marks}
	}
	return document.Node{Type: document.Field, Attrs: &document.Attrs{Path: n.Attrs.Path, Missing: document.MustBe}, Marks: marks}
}

// withFields cuts words at those that are to be fields.
func withFields(n document.Node, take []FieldWords) []document.Node {
	for _, f := range take {
		at := findWhole(n.Text, f.Words)
		if at < 0 {
			continue
		}
		before, after := n, n
		before.Text, after.Text = n.Text[:at], n.Text[at+len(f.Words):]
		var out []document.Node
		if before.Text != "" {
			out = append(out, withFields(before, take)...)
		}
		out = append(out, document.Node{Type: document.Field, Attrs: &document.Attrs{Path: f.Path, As: f.As, Missing: document.MustBe}, Marks: n.Marks})
		if after.Text != "" {
			out = append(out, withFields(after, take)...)
		}
		return out
	}
	return []document.Node{n}
}
