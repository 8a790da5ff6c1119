package interchange

import (
	"fmt"
	"strconv"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
)

// In a letter that is a page, merged words, gaps and fixed wording are held as fields
// of no record while its parts are found, so that they stay what they are.
const heldPath = "held.n"

// heldPage is the page of a letter with its marked words held.
type heldPage struct {
	src  document.Document
	held []document.Node
}

func holdLetter(d document.Document) heldPage {
	var h heldPage
	h.src = d
	h.src.Content = document.Clone(d.Content)
	document.EachLine(h.src.Content, func(line *document.Node) {
		for i, n := range line.Content {
			if n.Type == document.GapNode || n.Type == document.Text && len(n.Marks) > 0 {
				line.Content[i] = document.Node{Type: document.Field, Attrs: &document.Attrs{Path: heldPath + strconv.Itoa(len(h.held)), Missing: document.MustBe}}
				h.held = append(h.held, n)
			}
		}
	})
	return h
}

// give puts back what is held.
func (h *heldPage) give(d document.Document) document.Document {
	document.EachLine(d.Content, func(line *document.Node) {
		for i, n := range line.Content {
			if n.Type != document.Field {
				continue
			}
			if number, ok := strings.CutPrefix(n.Attrs.Path, heldPath); ok {
				if k, err := strconv.Atoi(number); err == nil && k < len(h.held) {
					line.Content[i] = h.held[k]
				}
			}
		}
	})
	return d
}

func heldMark(k int) string { return "{{" + heldPath + strconv.Itoa(k) + "}}" }

// words is what stands for a held node in the text of a part.
func (h *heldPage) words(k int) string {
	if n := &h.held[k]; n.Type == document.GapNode {
		return "‹" + n.Attrs.Label + "›"
	}
	return h.held[k].Text
}

// spell gives the text of a part with its held words.
func (h *heldPage) spell(text string) string {
	for k := range h.held {
		text = strings.Replace(text, heldMark(k), h.words(k), 1)
	}
	return text
}

// LetterParts gives what can be changed in the page of a letter, with the words as
// they are read; a gap is its label between ‹ and ›.
func LetterParts(d document.Document) []PagePart {
	h := holdLetter(d)
	parts := PageParts(h.src)
	for i := range parts {
		parts[i].Text = h.spell(parts[i].Text)
	}
	return parts
}

// SetLetterPart gives the page of a letter with other words in one part. Words that
// were merged, gaps and fixed wording stay what they are where they stand in the new
// words as they were; the rest is what the writer typed.
func SetLetterPart(d document.Document, index int, text string) (document.Document, error) {
	h := holdLetter(d)
	parts := PageParts(h.src)
	if index < 0 || index >= len(parts) {
		return d, &document.FormError{Where: "part", Why: fmt.Sprintf("%d is not in the page; load it again", index)}
	}
	var b strings.Builder
	rest := typedBraces.Replace(document.NormalLines(text))
	for k := range h.held {
		if !strings.Contains(parts[index].Text, heldMark(k)) {
			continue
		}
		if before, after, found := strings.Cut(rest, typedBraces.Replace(h.words(k))); found {
			b.WriteString(before + heldMark(k))
			rest = after
		}
	}
	b.WriteString(rest)
	out, err := SetPagePart(h.src, index, b.String())
	if err != nil {
		return d, err
	}
	return h.give(out), nil
}

// typedBraces keeps what is typed from being read as a mark.
var typedBraces = strings.NewReplacer("{{", "{ {")

// ShowLetterParts gives the page of a letter as ShowParts does, with its words.
func ShowLetterParts(d document.Document) string {
	h := holdLetter(d)
	out := ShowParts(h.src, func(path string) string { return path })
	for k := range h.held {
		n := &h.held[k]
		words := string(render.AppendPageNode(nil, n))
		if n.Type == document.GapNode {
			words = string(safehtml.AppendEscaped(nil, h.words(k)))
		}
		out = strings.Replace(out, "‹"+heldPath+strconv.Itoa(k)+"›", words, 1)
	}
	return out
}
