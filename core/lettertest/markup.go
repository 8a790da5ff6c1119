package lettertest

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/markup"
)

// Markup reads markup and fails when it cannot be read.
func Markup(t testing.TB, src string) document.Document {
	t.Helper()
	d, err := markup.ParseMarkup(src)
	if err != nil {
		t.Fatalf("%s: %v", src, err)
	}
	return d
}

// JSONOf is a tree without its places.
func JSONOf(t testing.TB, d document.Document) string {
	t.Helper()
	data, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return string(data)
}

// Trees makes random trees of every node and mark, as an editor might give them.
type Trees struct{ R *rand.Rand }

func (g Trees) pick(list ...string) string { return list[g.R.IntN(len(list))] }

func (g Trees) blocks(allowed []document.NodeType, depth int) []document.Node {
	out := make([]document.Node, 0, 3)
	for range 1 + g.R.IntN(3) {
		t := allowed[g.R.IntN(len(allowed))]
		if depth > 4 && slices.Contains(allowed, document.Paragraph) {
			t = document.Paragraph
		}
		out = append(out, g.block(t, allowed, depth))
	}
	return out
}

func (g Trees) block(t document.NodeType, allowed []document.NodeType, depth int) document.Node {
	n := document.Node{Type: t}
	rule := document.Rules[t]
	a := &document.Attrs{}
	if rule.May&document.HasAlign != 0 {
		a.Align = g.pick("", "", "center", "left", "right")
	}
	switch t {
	case document.Heading:
		a.Level = 1 + g.R.IntN(3)
	case document.Image:
		a.Src, a.Alt = g.address(), g.pick("", "a \"b\" <c>", "x\ty")
	case document.Button:
		a.Href, a.Color = g.address(), g.pick("", "#102030")
	case document.TableCell, document.TableHeading:
		a.Colspan, a.Colwidth = g.R.IntN(3), [][]int{nil, {0}, {120}}[g.R.IntN(3)]
	case document.OrderedList:
		a.Start = g.R.IntN(4)
	case document.Column:
		a.Width = g.R.IntN(2) * 40
	case document.Spacer:
		a.Height = g.R.IntN(2) * 20
	case document.OnlyWhen:
		a.Path, a.Not = "person.city", g.R.IntN(2) == 0
		if g.R.IntN(2) == 0 {
			a.Op, a.Literals = "in", []string{"a b", `c "d"`, "e, f"}
		}
	}
	if a.Given() != 0 {
		n.Attrs = a
	}
	switch {
	case rule.Same:
		n.Content = g.blocks(allowed, depth+1)
	case document.HoldsWords(t):
		n.Content = g.inlines(depth)
	case rule.Holds != nil:
		n.Content = g.blocks(rule.Holds, depth+1)
	}
	return n
}

func (g Trees) address() string {
	return g.pick("https://x.example/", "https://x.example/?a={{person.city|}}&b=\"c\"", "{{sender.booking_link}}", "mailto:{{person.email}}", "https://x.example/{{#person.city}}a{{/person.city}}", "https://x.example/{{?why}}", "https://x.example/{{?page: text \"a\"}}?{{?page}}")
}

func (g Trees) inlines(depth int) []document.Node {
	var out []document.Node
	for range g.R.IntN(6) {
		n := document.Node{Marks: g.marks()}
		switch k := g.R.IntN(12); {
		case k < 6:
			n.Type, n.Text = document.Text, g.pick("words", " ", "a < b & c", "{{", "{", "\\", "\\{", "é🌷", "a\tb", "  ", "}}", "\u00a0", "<b>", "&amp;")
		case k == 6:
			n.Type = document.Break
		case k == 7:
			n.Type, n.Attrs = document.Field, &document.Attrs{Path: "person.first_name", Missing: document.Instead, Fallback: g.pick("you", "a|b", "}}", "<i>")}
		case k == 8:
			n.Type, n.Attrs = document.Blank, &document.Attrs{Name: "why", Kind: "choice", Choices: []string{"a", "b | c"}, Hint: "say \"why\"", Optional: true}
		case k == 9 && depth < 4:
			n.Type, n.Attrs, n.Content = document.When, &document.Attrs{Path: "person.city"}, g.inlines(depth+1)
		case k == 10 && depth < 4:
			n.Type, n.Content = document.FixedText, g.inlines(depth+1)
		default:
			n.Type = document.Comment
			if code := g.pick("", " note"); code != "" {
				n.Attrs = &document.Attrs{Code: code}
			}
		}
		out = append(out, n)
	}
	return out
}

func (g Trees) marks() []document.Mark {
	var out []document.Mark
	for range g.R.IntN(3) {
		switch m := g.pick(document.Bold, document.Italic, document.Underline, document.Strike, document.Highlight, document.TextStyle, document.Link); m {
		case document.TextStyle:
			out = append(out, document.Mark{Type: m, Attrs: &document.MarkAttrs{Color: g.pick("", "#aabbcc"), FontSize: g.pick("", "18px"), FontFamily: g.pick("", "Georgia")}})
		case document.Link:
			out = append(out, document.Mark{Type: m, Attrs: &document.MarkAttrs{Href: g.address()}})
		default:
			out = append(out, document.Mark{Type: m})
		}
	}
	return out
}

// Document makes a formatted body.
func (g Trees) Document() document.Document {
	return document.Document{Type: document.Doc, Attrs: document.DocAttrs{Version: document.FormatVersion, Body: document.BodyFormatted, Lang: "en"}, Content: g.blocks(document.TopBlocks, 1)}
}
