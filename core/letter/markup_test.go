package letter

import (
	"encoding/json"
	"errors"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/field"
)

func markup(t testing.TB, src string) Document {
	t.Helper()
	d, err := ParseMarkup(src)
	if err != nil {
		t.Fatalf("%s: %v", src, err)
	}
	return d
}

// jsonOf is a tree without its places.
func jsonOf(t testing.TB, d Document) string {
	t.Helper()
	data, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	return string(data)
}

// Each row is printed as it stands, but for the line end behind it.
func TestParseMarkup_printedAsWritten(t *testing.T) {
	for _, src := range []string{
		"<p>Dear {{person.first_name|there}},</p>",
		"<p></p>",
		`<p align="center">Mid</p>`,
		"<h1>One</h1>\n<h2>Two</h2>\n<h3 align=\"right\">Three</h3>",
		"<p>a <b>b <i>c</i></b><i> d</i> e</p>",
		"<p><u>u</u><s>s</s><mark>m</mark><mark color=\"#ffee00\">n</mark></p>",
		`<p><span color="#112233" font="Georgia" size="18">styled</span></p>`,
		`<p><a href="https://x.example/?q={{person.city}}&amp;r=1">see <b>this</b></a></p>`,
		`<p><a href="{{sender.booking_link}}">book</a></p>`,
		"<p>one<br>two</p>",
		"<ul>\n  <li>\n    <p>a</p>\n  </li>\n  <li>\n    <p>b</p>\n    <ol start=\"3\">\n      <li>\n        <p>c</p>\n      </li>\n    </ol>\n  </li>\n</ul>",
		"<blockquote>\n  <p>said</p>\n</blockquote>",
		`<img href="https://x.example/" src="https://x.example/a.png" alt="A &#34;cold&#34; room" align="center" width="300">`,
		`<button href="https://x.example/{{person.last_name}}" align="center" color="#1f4d3a">Book {{person.first_name}}</button>`,
		"<table>\n  <tr>\n    <th>\n      <p>a</p>\n    </th>\n    <td align=\"right\" colspan=\"2\" rowspan=\"3\" colwidth=\"100 0\">\n      <p>{{deal.amount}}</p>\n    </td>\n  </tr>\n</table>",
		"<columns>\n  <column width=\"40\">\n    <p>a</p>\n  </column>\n  <column>\n    <p>b</p>\n  </column>\n</columns>",
		"<hr>\n<spacer height=\"24\">\n<spacer>",
		"{{fixed}}\n<p>Ours</p>\n{{/fixed}}",
		"{{#deal.amount >= 100 EUR}}\n<p>a</p>\n{{^person.city}}\n<p>b</p>\n{{/person.city}}\n{{/deal.amount}}",
		"<p>{{#person.city}}in <b>{{person.city}}</b>{{/person.city}}, {{fixed}}ours{{/fixed}} {{?why: text}}{{! note}}{{>ps}}</p>",
		`<p>\{\{not a mark}} a &lt; b &amp; c &gt; d { e</p>`,
		"<p>{{nothing to close</p>",
		"<p>a  b</p>",
	} {
		d := markup(t, src)
		got := strings.TrimSuffix(Print(d), "\n")
		if got != src {
			t.Errorf("printed\n%s\nwritten\n%s", got, src)
		}
		back, err := ParseJSON([]byte(jsonOf(t, d)))
		if err != nil || jsonOf(t, back) != jsonOf(t, d) {
			t.Errorf("%s: as JSON %v", src, err)
		}
	}
}

func TestParseMarkup_refuses(t *testing.T) {
	for _, row := range []struct{ in, want string }{
		{"words", `1:1: "words" stands outside`},
		{"<p>a</p>\nwords", `2:1: "words" stands`},
		{"<p>a", "1:1: <p> is not closed"},
		{"<p>a</b></p>", "1:5: </b> closes nothing"},
		{"</p>", "1:1: </p> closes nothing"},
		{"<p><b>a</p></b>", "1:8: </p> closes nothing"},
		{"<video></video>", "1:1: <video> is no block"},
		{"<p><script>x</script></p>", "1:4: <script> cannot stand in a line"},
		{"<p onclick=\"x\">a</p>", "1:1: <p> has no onclick"},
		{"<p><a onclick=\"x\">a</a></p>", "1:4: <a> has no onclick"},
		{"<p>a<p>b</p></p>", "1:5: <p> cannot stand in a line"},
		{"<ul><p>a</p></ul>", "1:5: <p> cannot stand here"},
		{"<ul></ul>", "is empty"},
		{"<table><tr><td><table><tr><td><p>a</p></td></tr></table></td></tr></table>", "1:16: <table> cannot stand here"},
		{"<columns><column><columns></columns></column></columns>", "<columns> cannot stand here"},
		{"<columns><column><p>1</p></column><column><p>2</p></column><column><p>3</p></column><column><p>4</p></column></columns>", "more than 3"},
		{"<!-- note -->", "1:1: <!-- note --> has no place"},
		{"<!DOCTYPE html>", "has no place"},
		{"<p/>", "<p/> is not closed in HTML"},
		{`<spacer height="tall">`, `height="tall" of <spacer> is not a whole number`},
		{`<spacer height="900">`, "height is 900 and must be from 1 to 200"},
		{`<img alt="a">`, "needs src"},
		{`<button>a</button>`, "needs href"},
		{`<p><a>x</a></p>`, "link needs href"},
		{`<p align="middle">a</p>`, `align "middle" is not left`},
		{`<p align="{{person.city}}">a</p>`, "align of <p> cannot hold marks"},
		{`<p><span color="red">a</span></p>`, `color "red" is not a colour`},
		{`<p><span size="200">a</span></p>`, `fontSize "200px" is not from`},
		{`<p><span font="Comic">a</span></p>`, `fontFamily "Comic" is not a font`},
		{"<p>{{#person.city}}a<b>{{/person.city}}b</b></p>", "1:21: <b> is not closed before"},
		{"{{#person.city}}<p>a{{/person.city}}</p>", "1:17: <p> is not closed before"},
		{strings.Repeat("<blockquote>", MaxTree+1), "nested deeper than 64"},
	} {
		_, err := ParseMarkup(row.in)
		var bad *MarkupError
		if !errors.As(err, &bad) || !strings.Contains(err.Error(), row.want) {
			t.Errorf("%.70s: %v, want %q", row.in, err, row.want)
		}
	}
}

// random trees of every node and mark, as an editor might give them.
type trees struct{ r *rand.Rand }

func (g trees) pick(list ...string) string { return list[g.r.IntN(len(list))] }

func (g trees) blocks(allowed []NodeType, depth int) []Node {
	out := make([]Node, 0, 3)
	for range 1 + g.r.IntN(3) {
		t := allowed[g.r.IntN(len(allowed))]
		if depth > 4 && slices.Contains(allowed, Paragraph) {
			t = Paragraph
		}
		out = append(out, g.block(t, allowed, depth))
	}
	return out
}

func (g trees) block(t NodeType, allowed []NodeType, depth int) Node {
	n := Node{Type: t}
	rule := nodeRules[t]
	a := &Attrs{}
	if rule.may&hasAlign != 0 {
		a.Align = g.pick("", "", "center", "left", "right")
	}
	switch t {
	case Heading:
		a.Level = 1 + g.r.IntN(3)
	case Image:
		a.Src, a.Alt = g.address(), g.pick("", "a \"b\" <c>", "x\ty")
	case Button:
		a.Href, a.Color = g.address(), g.pick("", "#102030")
	case TableCell, TableHeading:
		a.Colspan, a.Colwidth = g.r.IntN(3), [][]int{nil, {0}, {120}}[g.r.IntN(3)]
	case OrderedList:
		a.Start = g.r.IntN(4)
	case Column:
		a.Width = g.r.IntN(2) * 40
	case Spacer:
		a.Height = g.r.IntN(2) * 20
	case OnlyWhen:
		a.Path, a.Not = "person.city", g.r.IntN(2) == 0
		if g.r.IntN(2) == 0 {
			a.Op, a.Literals = "in", []string{"a b", `c "d"`, "e, f"}
		}
	}
	if a.given() != 0 {
		n.Attrs = a
	}
	switch {
	case rule.same:
		n.Content = g.blocks(allowed, depth+1)
	case holdsWords(t):
		n.Content = g.inlines(depth)
	case rule.holds != nil:
		n.Content = g.blocks(rule.holds, depth+1)
	}
	return n
}

func (g trees) address() string {
	return g.pick("https://x.example/", "https://x.example/?a={{person.city|}}&b=\"c\"", "{{sender.booking_link}}", "mailto:{{person.email}}", "https://x.example/{{#person.city}}a{{/person.city}}", "https://x.example/{{?why}}", "https://x.example/{{?page: text \"a\"}}?{{?page}}")
}

func (g trees) inlines(depth int) []Node {
	var out []Node
	for range g.r.IntN(6) {
		n := Node{Marks: g.marks()}
		switch k := g.r.IntN(12); {
		case k < 6:
			n.Type, n.Text = Text, g.pick("words", " ", "a < b & c", "{{", "{", "\\", "\\{", "é🌷", "a\tb", "  ", "}}", "\u00a0", "<b>", "&amp;")
		case k == 6:
			n.Type = Break
		case k == 7:
			n.Type, n.Attrs = Field, &Attrs{Path: "person.first_name", Missing: Instead, Fallback: g.pick("you", "a|b", "}}", "<i>")}
		case k == 8:
			n.Type, n.Attrs = Blank, &Attrs{Name: "why", Kind: "choice", Choices: []string{"a", "b | c"}, Hint: "say \"why\"", Optional: true}
		case k == 9 && depth < 4:
			n.Type, n.Attrs, n.Content = When, &Attrs{Path: "person.city"}, g.inlines(depth+1)
		case k == 10 && depth < 4:
			n.Type, n.Content = FixedText, g.inlines(depth+1)
		default:
			n.Type = Comment
			if code := g.pick("", " note"); code != "" {
				n.Attrs = &Attrs{Code: code}
			}
		}
		out = append(out, n)
	}
	return out
}

func (g trees) marks() []Mark {
	var out []Mark
	for range g.r.IntN(3) {
		switch m := g.pick(Bold, Italic, Underline, Strike, Highlight, TextStyle, Link); m {
		case TextStyle:
			out = append(out, Mark{Type: m, Attrs: &MarkAttrs{Color: g.pick("", "#aabbcc"), FontSize: g.pick("", "18px"), FontFamily: g.pick("", "Georgia")}})
		case Link:
			out = append(out, Mark{Type: m, Attrs: &MarkAttrs{Href: g.address()}})
		default:
			out = append(out, Mark{Type: m})
		}
	}
	return out
}

func (g trees) document() Document {
	return Document{Type: Doc, Attrs: DocAttrs{Version: FormatVersion, Body: BodyFormatted, Lang: "en"}, Content: g.blocks(topBlocks, 1)}
}

// Every tree can be merged and written; the letter has a right form, holds its own
// fixed wording, and after its gaps are filled none.
func TestMerge_everyTree(t *testing.T) {
	cat := catalogue()
	values, reader := ada(t, cat), field.NewReader("en")
	for seed := range uint64(800) {
		d := Canonical(trees{rand.New(rand.NewPCG(seed, 5))}.document())
		p, _ := Compile(Template{Subject: Parse("s"), Body: d}, cat)
		l := p.Merge(values, nil, reader)
		if err := CheckLetterForm(l.Body); err != nil {
			t.Fatalf("seed %d: %v in\n%s", seed, err, Print(d))
		}
		fixed := FixedWording(l.Body)
		for _, gap := range Gaps(l.Subject, l.Body) {
			l.Body = Fill(l.Body, gap.Path, "a \"<b>&")
		}
		if left := Gaps(l.Subject, l.Body); len(left) > 0 {
			t.Fatalf("seed %d: %v left in\n%s", seed, left, Print(d))
		}
		if err := CheckLetterForm(l.Body); err != nil {
			t.Fatalf("seed %d filled: %v in\n%s", seed, err, Print(d))
		}
		if notes := CheckFixed(fixed, l.Body); len(notes) > 0 {
			t.Fatalf("seed %d: %v in\n%s", seed, notes, Print(d))
		}
		if page := RenderHTML(l.Body, "s"); strings.Contains(page, "<b>&") {
			t.Fatalf("seed %d: a value is not escaped in\n%s", seed, page)
		}
	}
}

// Every tree has a text form and comes back from it the same.
func TestPrint_everyTreeComesBack(t *testing.T) {
	cat := catalogue()
	for seed := range uint64(1500) {
		d := Canonical(trees{rand.New(rand.NewPCG(seed, 3))}.document())
		if err := d.Check(); err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		text := Print(d)
		back, err := ParseMarkup(text)
		if err != nil {
			t.Fatalf("seed %d: %v in\n%s\n%s", seed, err, text, jsonOf(t, d))
		}
		back.Attrs.Lang = "en"
		if a, b := jsonOf(t, d), jsonOf(t, back); a != b {
			t.Fatalf("seed %d:\n%s\n%s\n%s", seed, text, a, b)
		}
		if again := Print(back); again != text {
			t.Fatalf("seed %d: printed again\n%s\n%s", seed, text, again)
		}
		if _, notes := Compile(Template{Subject: Parse("s"), Body: d}, cat); len(notes) > 0 && notes[0].Code == "malformed" {
			t.Fatalf("seed %d: %v in\n%s", seed, notes, text)
		}
	}
}

func FuzzParseMarkup(f *testing.F) {
	for _, s := range []string{"<p>a {{person.city|}} <b>b</b></p>", "<ul><li><p>a</p></li></ul>", "{{#a}}<p>x</p>{{/a}}", "<p>&amp;lt; \\{{</p>", "<p><a href=\"{{x}}&\">y</a></p>", "<img src='a' alt=\"&quot;\">", "<p>{{</p>", "<p>\x01</p>",
		"<p>{{\\{x {{!}}{{a\nb}} {{! a\nb }}</p>\n<p title\n=x>{{person.city\n|}}</p>", "<p><a href=\"https://x.example/{{?page: choice a, b}}\">{{?page}}</a></p>", "<button href=\"https://x.example/{{?host.email}}\">a</button>",
		"{{fixed}}<p><a href=\"https://x.example/{{person.city}}\">a</a> {{?x}}</p><img src=\"https://x.example/{{?x}}\" alt=\"{{person.city}}\">{{/fixed}}"} {
		f.Add(s)
	}
	cat := catalogue()
	values, reader := ada(f, cat), field.NewReader("en")
	f.Fuzz(func(t *testing.T, src string) {
		d, err := ParseMarkup(src)
		if err != nil {
			return
		}
		text := Print(d)
		back, err := ParseMarkup(text)
		if err != nil {
			t.Fatalf("%q printed as %q: %v", src, text, err)
		}
		if a, b := jsonOf(t, d), jsonOf(t, back); a != b {
			t.Fatalf("%q printed as %q:\n%s\n%s", src, text, a, b)
		}
		// Whatever can be read can be checked, merged and written, and holds its own fixed wording.
		program, _ := Compile(Template{Subject: Parse("s"), Body: d}, cat)
		l := program.Merge(values, map[string]field.Value{"x": field.Of("a\"<b>")}, reader)
		if err := l.Body.Check(); err != nil {
			t.Fatalf("%q merged: %v", src, err)
		}
		if notes := CheckFixed(FixedWording(l.Body), l.Body); len(notes) > 0 {
			t.Fatalf("%q: %v", src, notes)
		}
		_, _ = RenderHTML(l.Body, "s"), RenderText(l.Body)
		program.Missing(values, nil)
	})
}

func TestFormatted(t *testing.T) {
	for _, row := range []struct{ plain, want string }{
		{"", "<p></p>"},
		{"Dear {{person.first_name}},\n\na\nb\n\n\nc", "<p>Dear {{person.first_name}},</p>\n<p>a<br>b</p>\n<p>c</p>"},
		{"a\n{{#person.city}}\nb\n\nc\n{{/person.city}}\nd", "<p>a</p>\n{{#person.city}}\n<p>b</p>\n<p>c</p>\n{{/person.city}}\n<p>d</p>"},
		{"{{fixed}}\n\n{{/fixed}}\na < b", "<p>a &lt; b</p>"},
		{"{{person.city|}}", "<p>{{person.city|}}</p>"},
	} {
		d := Formatted(Parse(row.plain))
		if got := strings.TrimSuffix(Print(d), "\n"); got != row.want || d.Check() != nil {
			t.Errorf("%q: %s, want %s (%v)", row.plain, got, row.want, d.Check())
		}
	}
}

func TestDocument_Blank(t *testing.T) {
	for src, want := range map[string]bool{
		"": true, "<p></p>": true, "<p> <br></p><spacer>": true, "<p>{{! note}}</p>": true, "<ul><li><p></p></li></ul>": true,
		"<p>a</p>": false, "<p>{{person.city|}}</p>": false, "<p>{{?x: text}}</p>": false, "<hr>": false, "<img src=\"https://x.example/a.png\">": false,
		"{{#person.city}}<p></p>{{/person.city}}": true, "<table><tr><td><p>a</p></td></tr></table>": false,
	} {
		d := markup(t, src)
		if got := d.Blank(); got != want {
			t.Errorf("%s: %v", src, got)
		}
	}
}
