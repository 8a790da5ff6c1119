package letter

import (
	"slices"
	"strings"

	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

const signaturePath = "sender.signature"

// IsBlank tells whether a document has nothing to show.
func IsBlank(d document.Document) bool {
	return !slices.ContainsFunc(d.Content, func(n document.Node) bool { return !blankNode(&n) })
}

func blankNode(n *document.Node) bool {
	switch {
	case document.HoldsWords(n.Type):
		return document.HasNoWords(*n)
	case n.Type == document.Image || n.Type == document.Button || n.Type == document.Divider:
		return false
	}
	return !slices.ContainsFunc(n.Content, func(n document.Node) bool { return !blankNode(&n) })
}

// closings end a letter without a comma.
var closings = []string{"Mit freundlichen Grüßen", "Freundliche Grüße", "Viele Grüße", "Beste Grüße", "Herzliche Grüße", "Met vriendelijke groet", "Med vänliga hälsningar", "Med venlig hilsen", "Med vennlig hilsen", "Pozdrawiam"}

// EndsOpen tells whether a letter ends with a closing, such as "Kind regards,", behind
// which a name is expected.
func EndsOpen(d document.Document) bool {
	text := strings.TrimSpace(render.RenderText(d))
	last := text[strings.LastIndexByte(text, '\n')+1:]
	if slices.Contains(closings, last) {
		return true
	}
	return strings.HasSuffix(last, ",") && strings.Contains(text, "\n") && len(strings.Fields(last)) <= 6
}

// PlaceSignature puts the blocks of a signature where a letter has the words of the
// field sender.signature on lines of their own, and tells whether there are any;
// words within other lines stay as they are. Further places lose theirs: a letter is
// signed once.
func PlaceSignature(d, signature document.Document) (out document.Document, placed bool) {
	d.Content, placed = placeIn(document.Clone(d.Content), signature, false)
	return markup.Canonical(d), placed
}

func placeIn(nodes []document.Node, signature document.Document, placed bool) ([]document.Node, bool) {
	var out []document.Node
	within := false // the line before holds the first line of the signature
	for _, n := range nodes {
		switch {
		case within && signed(&n):
		case !document.HoldsWords(n.Type):
			within = false
			n.Content, placed = placeIn(n.Content, signature, placed)
		case signed(&n):
			if !placed {
				out = append(out, document.Clone(signature.Content)...)
			}
			placed = true
			continue
		case slices.ContainsFunc(n.Content, func(w document.Node) bool { return pathOf(&w) == signaturePath }):
			placed, within = true, true
		default:
			within = false
		}
		out = append(out, n)
	}
	return out, placed
}

// signed tells whether a line holds the words of the signature alone.
func signed(line *document.Node) bool {
	return len(line.Content) > 0 && !slices.ContainsFunc(line.Content, func(w document.Node) bool { return w.Type != document.Break && pathOf(&w) != signaturePath })
}

// pathOf is the field that words came from or that a gap waits for.
func pathOf(n *document.Node) string {
	if n.Type == document.GapNode {
		return n.Attrs.Path
	}
	if m := document.MergedMark(n); m != nil {
		return m.Path
	}
	return ""
}

// AppendSignature puts a signature at the end of a letter, before fixed wording that
// ends it; in a plain one behind an empty line.
func AppendSignature(d, signature document.Document) document.Document {
	content := document.Clone(d.Content)
	at := endOf(content)
	with := document.Clone(signature.Content)
	if d.Attrs.Body == document.BodyPlain {
		if at < 2 || !document.HasNoWords(content[at-1]) {
			with = slices.Insert(with, 0, document.NewParagraph())
		}
		if at < len(content) {
			with = append(with, document.NewParagraph())
		}
	}
	d.Content = slices.Insert(content, at, with...)
	return markup.Canonical(d)
}

// BeforeClosing puts a piece at the end of what a letter says: before its closing, such as
// "Kind regards,", its signature and fixed wording that ends it.
func BeforeClosing(d, piece document.Document) document.Document {
	content := document.Clone(d.Content)
	at := slices.IndexFunc(content, func(n document.Node) bool {
		_, signs := MergedPaths(document.Document{Content: []document.Node{n}})["sender.signature"]
		return signs
	})
	if at < 0 {
		at = endOf(content)
	}
	said := at // behind the last block with words
	for said > 0 && blankNode(&content[said-1]) {
		said--
	}
	if head := (document.Document{Attrs: d.Attrs, Content: content[:said]}); said > 1 && EndsOpen(head) {
		said--
		for said > 0 && blankNode(&content[said-1]) {
			said--
		}
	}
	with := document.Clone(piece.Content)
	if d.Attrs.Body == document.BodyPlain {
		with = slices.Insert(with, 0, document.NewParagraph())
		if said < len(content) && !document.HasNoWords(content[said]) {
			with = append(with, document.NewParagraph())
		}
	}
	d.Content = slices.Insert(content, said, with...)
	return markup.Canonical(d)
}

// endOf is where a letter ends before fixed wording, and lines across, that end it.
func endOf(content []document.Node) int {
	at := len(content)
	for i := len(content) - 1; i >= 0; i-- {
		if fixed := allFixed(&content[i]); !fixed && !blankNode(&content[i]) && content[i].Type != document.Divider {
			break
		} else if fixed {
			at = i
		}
	}
	for at > 0 && at < len(content) && content[at-1].Type == document.Divider {
		at--
	}
	return at
}

// allFixed tells whether all words of a block are fixed.
func allFixed(n *document.Node) bool {
	if n.Type == document.Fixed {
		return true
	}
	fixed, other := 0, 0
	line := []document.Node{*n}
	eachWord(line, func(w *document.Node) {
		if isFixed(w) {
			fixed++
		} else if w.Type != document.Break {
			other++
		}
	})
	return fixed > 0 && other == 0
}
