package letter

import (
	"slices"
	"strings"
)

// Mend brings a letter that came from an editor into the stored form, so that saving
// never fails for what was pasted: CheckLetterForm takes what it gives. No word is
// lost: what cannot stand where it is leaves its words there, settings out of their
// range go, and nodes of templates become the words of their text form, which keep
// the letter from going. Addresses stay as they are, also those that may not be
// followed; CheckLetter tells of them. The input is left as it is.
func Mend(d Document) Document {
	if d.Type != Doc || CheckLetterForm(d) == nil { // what is no document is refused
		return d
	}
	a := DocAttrs{Version: FormatVersion, Body: d.Attrs.Body, Lang: d.Attrs.Lang}
	if !langForm.MatchString(a.Lang) {
		a.Lang = ""
	}
	blocks := lineBlocks
	switch a.Body {
	case BodyFormatted:
		blocks = topBlocks
		a.Font, a.Size, a.Color, a.Background, a.Align = d.Attrs.Font, d.Attrs.Size, d.Attrs.Color, d.Attrs.Background, d.Attrs.Align
		if where, _ := checkSheet(a); where != "" {
			a.Font, a.Size, a.Color, a.Background, a.Align = "", 0, "", "", ""
		}
	case BodyHTML:
	default:
		a.Body = BodyPlain
	}
	out := Document{Type: Doc, Attrs: a, Content: mendBlocks(d.Content, blocks, 1)}
	if len(out.Content) == 0 {
		out.Content = []Node{paragraph()}
	}
	return out
}

// mendDepth leaves room below MaxTree for what words are wrapped in.
const mendDepth = MaxTree - 6

// wrappers are what blocks stand in where only these may stand.
var wrappers = []NodeType{Paragraph, ListItem, TableRow, TableCell, Column}

func mendBlocks(nodes []Node, allowed []NodeType, depth int) []Node {
	var out, words []Node
	flush := func() {
		if len(words) > 0 {
			out = append(out, wrapped([]Node{{Type: Paragraph, Content: words}}, allowed, depth)...)
			words = nil
		}
	}
	for _, n := range nodes {
		if _, block := nodeRules[n.Type]; !block || slices.Contains(inlines, n.Type) {
			words = append(words, mendWords([]Node{n})...)
			continue
		}
		flush()
		switch {
		case depth >= mendDepth:
			out = append(out, wrapped([]Node{{Type: Paragraph, Content: mendWords([]Node{n})}}, allowed, depth)...)
		case n.Type == OnlyWhen:
			out = append(out, mendBlocks(n.Content, allowed, depth)...)
		case !slices.Contains(allowed, n.Type):
			out = append(out, wrapped([]Node{n}, allowed, depth)...)
		default:
			out = append(out, mendBlock(n, allowed, depth)...)
		}
	}
	flush()
	return out
}

// wrapped puts blocks into what may stand at a place; where nothing fits, what they
// hold stands there instead.
func wrapped(nodes []Node, allowed []NodeType, depth int) []Node {
	if slices.Contains(allowed, Paragraph) {
		var out []Node
		for _, n := range nodes {
			switch {
			case n.Type == Paragraph:
				out = append(out, mendBlock(n, allowed, depth)...)
			case holdsWords(n.Type):
				out = append(out, mendBlock(Node{Type: Paragraph, Content: n.Content}, allowed, depth)...)
			default:
				out = append(out, mendBlocks(n.Content, allowed, depth)...)
			}
		}
		return out
	}
	for _, t := range wrappers {
		if slices.Contains(allowed, t) {
			return mendBlock(Node{Type: t, Content: nodes}, allowed, depth)
		}
	}
	return nil
}

// mendBlock mends one block that may stand where it is; more than one where it held
// too much, none where nothing is left of it.
func mendBlock(n Node, allowed []NodeType, depth int) []Node {
	rule := nodeRules[n.Type]
	holds := rule.holds
	if rule.same {
		holds = allowed
	}
	var behind []Node // words of what can hold none
	switch content := n.Content; {
	case holdsWords(n.Type):
		n.Content = mendWords(content)
	case holds == nil:
		n.Content, behind = nil, content
	default:
		n.Content = mendBlocks(content, holds, depth+1)
	}
	n.Attrs, n.Marks, n.Text, n.Prerendered = mendAttrs(n.Attrs, rule.may), nil, "", nil
	if n.Type == Heading && n.Attrs.given()&hasLevel == 0 {
		n.Attrs = &Attrs{Level: 2}
	}
	if rule.must&^n.Attrs.given() != 0 || checkNode(&n) != "" {
		// A button that leads nowhere is its words; a picture without its source is nothing.
		return append(wrapped([]Node{{Type: Paragraph, Content: n.Content}}, allowed, depth), mendBlocks(behind, allowed, depth)...)
	}
	if len(n.Content) < rule.min {
		if !slices.Contains(holds, Paragraph) {
			return nil
		}
		n.Content = []Node{paragraph()}
	}
	var out []Node
	for rule.max > 0 && len(n.Content) > rule.max {
		part := n
		part.Content, n.Content = n.Content[:rule.max], n.Content[rule.max:]
		out = append(out, part)
	}
	return append(append(out, n), mendBlocks(behind, allowed, depth)...)
}

// mendWords gives the words of nodes as what a line of a letter is made of.
func mendWords(nodes []Node) []Node {
	var out []Node
	for _, n := range nodes {
		marks := slices.DeleteFunc(slices.Clone(n.Marks), func(m Mark) bool { return checkMark(m) != "" })
		switch n.Type {
		case Text:
			for i, line := range strings.Split(strings.ReplaceAll(strings.ReplaceAll(n.Text, "\r\n", "\n"), "\r", "\n"), "\n") {
				if i > 0 {
					out = append(out, Node{Type: Break})
				}
				if line = strings.ReplaceAll(line, "\x00", ""); line != "" {
					out = append(out, Node{Type: Text, Text: line, Marks: marks})
				}
			}
		case Break:
			out = append(append(out, Node{Type: Break, Marks: marks}), mendWords(n.Content)...)
		case GapNode:
			if a := mendAttrs(n.Attrs, nodeRules[GapNode].may); a != nil && a.Path != "" {
				out = append(out, Node{Type: GapNode, Attrs: a, Marks: marks})
			}
		case Field, Blank, Passage, Comment, Malformed:
			code := Print(Document{Type: Doc, Attrs: DocAttrs{Version: FormatVersion, Body: BodyPlain}, Content: []Node{{Type: Paragraph, Content: []Node{{Type: n.Type, Attrs: n.Attrs}}}}})
			out = append(out, mendWords([]Node{{Type: Text, Text: strings.TrimSuffix(code, "\n"), Marks: marks}})...)
		default: // something around words, or nothing that is known
			if n.Text != "" {
				out = append(out, mendWords([]Node{{Type: Text, Text: n.Text, Marks: marks}})...)
			}
			out = append(out, mendWords(n.Content)...)
		}
	}
	return out
}

// mendAttrs keeps of settings what a node may have and what is in its range.
func mendAttrs(a *Attrs, may attrSet) *Attrs {
	if a == nil || a.given()&may == 0 {
		return nil
	}
	out := *a
	drop := a.given() &^ may
	within := func(set attrSet, v, from, to int) {
		if v != 0 && (v < from || v > to) {
			drop |= set
		}
	}
	within(hasLevel, a.Level, 1, 3)
	within(hasStart, a.Start, 1, 100000)
	within(hasHeight, a.Height, 1, 200)
	within(hasWidth, a.Width, 1, 1200)
	within(hasColspan, a.Colspan, 1, 40)
	within(hasRowspan, a.Rowspan, 1, 100)
	if !slices.Contains([]string{"left", "center", "right", "justify"}, a.Align) {
		drop |= hasAlign
	}
	if badColor(a.Color) {
		drop |= hasColor
	}
	for i := range attrNames {
		if drop&(1<<i) != 0 {
			out.clear(1 << i)
		}
	}
	return &out
}

// clear takes one setting away.
func (a *Attrs) clear(set attrSet) {
	switch set {
	case hasPath:
		a.Path = ""
	case hasMissing:
		a.Missing = ""
	case hasFallback:
		a.Fallback = ""
	case hasAs:
		a.As = ""
	case hasLabel:
		a.Label = ""
	case hasNot:
		a.Not = false
	case hasOp:
		a.Op = ""
	case hasLiterals:
		a.Literals = nil
	case hasName:
		a.Name = ""
	case hasKind:
		a.Kind = ""
	case hasOptional:
		a.Optional = false
	case hasHint:
		a.Hint = ""
	case hasDefault:
		a.Default = ""
	case hasChoices:
		a.Choices = nil
	case hasCode:
		a.Code = ""
	case hasPlace:
		a.Place = ""
	case hasLevel:
		a.Level = 0
	case hasAlign:
		a.Align = ""
	case hasStart:
		a.Start = 0
	case hasHref:
		a.Href = ""
	case hasSrc:
		a.Src = ""
	case hasAlt:
		a.Alt = ""
	case hasWidth:
		a.Width = 0
	case hasHeight:
		a.Height = 0
	case hasColor:
		a.Color = ""
	case hasColspan:
		a.Colspan = 0
	case hasRowspan:
		a.Rowspan = 0
	case hasColwidth:
		a.Colwidth = nil
	case hasGaps:
		a.Gaps = nil
	}
}
