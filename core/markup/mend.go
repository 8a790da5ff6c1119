package markup

import (
	"slices"
	"strings"

	"lucidletter/core/document"
)

// Mend brings a letter that came from an editor into the stored form, so that saving
// never fails for what was pasted: CheckLetterForm takes what it gives. No word is
// lost: what cannot stand where it is leaves its words there, settings out of their
// range go, and nodes of templates become the words of their text form, which keep
// the letter from going. Addresses stay as they are, also those that may not be
// followed; CheckLetter tells of them. The input is left as it is.
func Mend(d document.Document) document.Document {
	if d.Type != document.Doc || document.CheckLetterForm(d) == nil { // what is no document is refused
		return d
	}
	a := document.DocAttrs{Version: document.FormatVersion, Body: d.Attrs.Body, Lang: d.Attrs.Lang}
	if !document.LangForm.MatchString(a.Lang) {
		a.Lang = ""
	}
	blocks := document.LineBlocks
	switch a.Body {
	case document.BodyFormatted:
		blocks = document.TopBlocks
		a.Font, a.Size, a.Color, a.Background, a.Align = d.Attrs.Font, d.Attrs.Size, d.Attrs.Color, d.Attrs.Background, d.Attrs.Align
		if where, _ := document.CheckSheet(a); where != "" {
			a.Font, a.Size, a.Color, a.Background, a.Align = "", 0, "", "", ""
		}
	case document.BodyHTML:
	default:
		a.Body = document.BodyPlain
	}
	out := document.Document{Type: document.Doc, Attrs: a, Content: mendBlocks(d.Content, blocks, 1)}
	if len(out.Content) == 0 {
		out.Content = []document.Node{document.NewParagraph()}
	}
	return out
}

// mendDepth leaves room below MaxTree for what words are wrapped in.
const mendDepth = document.MaxTree - 6

// wrappers are what blocks stand in where only these may stand.
var wrappers = []document.NodeType{document.Paragraph, document.ListItem, document.TableRow, document.TableCell, document.Column}

func mendBlocks(nodes []document.Node, allowed []document.NodeType, depth int) []document.Node {
	var out, words []document.Node
	flush := func() {
		if len(words) > 0 {
			out = append(out, wrapped([]document.Node{{Type: document.Paragraph, Content: words}}, allowed, depth)...)
			words = nil
		}
	}
	for _, n := range nodes {
		if _, block := document.Rules[n.Type]; !block || slices.Contains(document.InlineTypes, n.Type) {
			words = append(words, mendWords([]document.Node{n})...)
			continue
		}
		flush()
		switch {
		case depth >= mendDepth:
			out = append(out, wrapped([]document.Node{{Type: document.Paragraph, Content: mendWords([]document.Node{n})}}, allowed, depth)...)
		case n.Type == document.OnlyWhen:
			out = append(out, mendBlocks(n.Content, allowed, depth)...)
		case !slices.Contains(allowed, n.Type):
			out = append(out, wrapped([]document.Node{n}, allowed, depth)...)
		default:
			out = append(out, mendBlock(n, allowed, depth)...)
		}
	}
	flush()
	return out
}

// wrapped puts blocks into what may stand at a place; where nothing fits, what they
// hold stands there instead.
func wrapped(nodes []document.Node, allowed []document.NodeType, depth int) []document.Node {
	if slices.Contains(allowed, document.Paragraph) {
		var out []document.Node
		for _, n := range nodes {
			switch {
			case n.Type == document.Paragraph:
				out = append(out, mendBlock(n, allowed, depth)...)
			case document.HoldsWords(n.Type):
				out = append(out, mendBlock(document.Node{Type: document.Paragraph, Content: n.Content}, allowed, depth)...)
			default:
				out = append(out, mendBlocks(n.Content, allowed, depth)...)
			}
		}
		return out
	}
	for _, t := range wrappers {
		if slices.Contains(allowed, t) {
			return mendBlock(document.Node{Type: t, Content: nodes}, allowed, depth)
		}
	}
	return nil
}

// mendBlock mends one block that may stand where it is; more than one where it held
// too much, none where nothing is left of it.
func mendBlock(n document.Node, allowed []document.NodeType, depth int) []document.Node {
	rule := document.Rules[n.Type]
	holds := rule.Holds
	if rule.Same {
		holds = allowed
	}
	var behind []document.Node // words of what can hold none
	switch content := n.Content; {
	case document.HoldsWords(n.Type):
		n.Content = mendWords(content)
	case holds == nil:
		n.Content, behind = nil, content
	default:
		n.Content = mendBlocks(content, holds, depth+1)
	}
	n.Attrs, n.Marks, n.Text, n.Prerendered = mendAttrs(n.Attrs, rule.May), nil, "", nil
	if n.Type == document.Heading && n.Attrs.Given()&document.HasLevel == 0 {
		n.Attrs = &document.Attrs{Level: 2}
	}
	if rule.Must&^n.Attrs.Given() != 0 || document.CheckNode(&n) != "" {
		// A button that leads nowhere is its words; a picture without its source is nothing.
		return append(wrapped([]document.Node{{Type: document.Paragraph, Content: n.Content}}, allowed, depth), mendBlocks(behind, allowed, depth)...)
	}
	if len(n.Content) < rule.Min {
		if !slices.Contains(holds, document.Paragraph) {
			return nil
		}
		n.Content = []document.Node{document.NewParagraph()}
	}
	var out []document.Node
	for rule.Max > 0 && len(n.Content) > rule.Max {
		part := n
		part.Content, n.Content = n.Content[:rule.Max], n.Content[rule.Max:]
		out = append(out, part)
	}
	return append(append(out, n), mendBlocks(behind, allowed, depth)...)
}

// mendWords gives the words of nodes as what a line of a letter is made of.
func mendWords(nodes []document.Node) []document.Node {
	var out []document.Node
	for _, n := range nodes {
		marks := slices.DeleteFunc(slices.Clone(n.Marks), func(m document.Mark) bool { return document.CheckMark(m) != "" })
		switch n.Type {
		case document.Text:
			for i, line := range strings.Split(strings.ReplaceAll(strings.ReplaceAll(n.Text, "\r\n", "\n"), "\r", "\n"), "\n") {
				if i > 0 {
					out = append(out, document.Node{Type: document.Break})
				}
				if line = strings.ReplaceAll(line, "\x00", ""); line != "" {
					out = append(out, document.Node{Type: document.Text, Text: line, Marks: marks})
				}
			}
		case document.Break:
			out = append(append(out, document.Node{Type: document.Break, Marks: marks}), mendWords(n.Content)...)
		case document.GapNode:
			if a := mendAttrs(n.Attrs, document.Rules[document.GapNode].May); a != nil && a.Path != "" {
				out = append(out, document.Node{Type: document.GapNode, Attrs: a, Marks: marks})
			}
		case document.Field, document.Blank, document.Passage, document.Comment, document.Malformed:
			code := Print(document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: document.FormatVersion, Body: document.BodyPlain}, Content: []document.Node{{Type: document.Paragraph, Content: []document.Node{{Type: n.Type, Attrs: n.Attrs}}}}})
			out = append(out, mendWords([]document.Node{{Type: document.Text, Text: strings.TrimSuffix(code, "\n"), Marks: marks}})...)
		default: // something around words, or nothing that is known
			if n.Text != "" {
				out = append(out, mendWords([]document.Node{{Type: document.Text, Text: n.Text, Marks: marks}})...)
			}
			out = append(out, mendWords(n.Content)...)
		}
	}
	return out
}

// mendAttrs keeps of settings what a node may have and what is in its range.
func mendAttrs(a *document.Attrs, may document.AttrSet) *document.Attrs {
	if a == nil || a.Given()&may == 0 {
		return nil
	}
	out := *a
	drop := a.Given() &^ may
	within := func(set document.AttrSet, v, from, to int) {
		if v != 0 && (v < from || v > to) {
			drop |= set
		}
	}
	within(document.HasLevel, a.Level, 1, 3)
	within(document.HasStart, a.Start, 1, 100000)
	within(document.HasHeight, a.Height, 1, 200)
	within(document.HasWidth, a.Width, 1, 1200)
	within(document.HasColspan, a.Colspan, 1, 40)
	within(document.HasRowspan, a.Rowspan, 1, 100)
	if !slices.Contains([]string{"left", "center", "right", "justify"}, a.Align) {
		drop |= document.HasAlign
	}
	if document.BadColor(a.Color) {
		drop |= document.HasColor
	}
	for i := range document.AttrNames {
		if drop&(1<<i) != 0 {
			out.Clear(1 << i)
		}
	}
	return &out
}
