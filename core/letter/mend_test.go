package letter

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

// allWords gives every word in a tree, in order.
func allWords(nodes []Node) string {
	var b strings.Builder
	for _, n := range nodes {
		b.WriteString(n.Text)
		b.WriteString(allWords(n.Content))
	}
	return strings.NewReplacer("\n", "", "\r", "", "\x00", "").Replace(b.String())
}

// randomTree makes a tree without regard to what may stand where.
func randomTree(r *rand.Rand, depth int, next *int) []Node {
	var out []Node
	for range r.IntN(4) {
		types := slices.Sorted(func(yield func(NodeType) bool) {
			for t := range nodeRules {
				if t != Field && t != Blank && t != Passage && t != Comment && t != Malformed && t != GapNode && !yield(t) {
					return
				}
			}
			yield("unheard")
		})
		n := Node{Type: types[r.IntN(len(types))]}
		if r.IntN(2) == 0 {
			n.Attrs = &Attrs{Path: []string{"", "person.city"}[r.IntN(2)], Level: r.IntN(9), Width: r.IntN(5000), Align: []string{"", "left", "up"}[r.IntN(3)], Src: []string{"", "file:///x", "https://a.example"}[r.IntN(3)], Href: []string{"", "ftp://x y"}[r.IntN(2)], Color: []string{"", "red"}[r.IntN(2)]}
			n.Marks = []Mark{{Type: []string{Bold, Link, "wild", TextStyle}[r.IntN(4)], Attrs: &MarkAttrs{FontSize: []string{"", "900px", "12px"}[r.IntN(3)], Href: []string{"", "sms:1"}[r.IntN(2)]}}}
		}
		if n.Type == Text || n.Type == "unheard" {
			*next++
			n.Text = fmt.Sprintf("w%d\r\nit’s \x00x ", *next)
		} else if depth < 90 {
			n.Content = randomTree(r, depth+1+r.IntN(20), next)
		}
		out = append(out, n)
	}
	return out
}

// Whatever an editor sends can be stored, and no word of it is lost.
func TestMend_properties(t *testing.T) {
	r := rand.New(rand.NewPCG(12, 4))
	for i := range 500 {
		next := 0
		d := Document{Type: Doc, Attrs: DocAttrs{Version: r.IntN(3), Body: []string{BodyPlain, BodyFormatted, BodyHTML, "x"}[r.IntN(4)], Lang: []string{"", "de", "??"}[r.IntN(3)], Size: r.IntN(200)}, Content: randomTree(r, 0, &next)}
		before := allWords(d.Content)
		got := Mend(d)
		if err := CheckLetterForm(got); err != nil {
			t.Fatalf("%d: %v of %+v\n%+v", i, err, d, got)
		}
		if after := allWords(got.Content); after != before {
			t.Fatalf("%d: %q became %q", i, before, after)
		}
		if again := Mend(got); allWords(again.Content) != before {
			t.Fatalf("%d: mended twice it says %q", i, allWords(again.Content))
		}
	}
}

func TestMend_keepsWordsOfTemplates(t *testing.T) {
	d := Parse("Dear {{person.first_name|there}},\n{{#deal.amount}}\nso {{?when: date}}\n{{/deal.amount}}\nit’s O'Neil’s")
	got := RenderText(Mend(d))
	for _, want := range []string{"Dear {{person.first_name|there}},", "so {{?when: date}}", "it’s O'Neil’s"} {
		if !strings.Contains(got, want) {
			t.Errorf("%q lacks %q", got, want)
		}
	}
}

// An address that may not be followed is kept and told, at its line.
func TestCheckLetter_addressOfAnotherKind(t *testing.T) {
	for _, href := range []string{"file:///C:/offer.pdf", "ftp://files.example/a", "sms:+44123", "https://a.example/my offer", "javascript:alert(1)", "C:\\offer.pdf", "data:text/html,x"} {
		link := Node{Type: Text, Text: "the offer", Marks: []Mark{{Type: Link, Attrs: &MarkAttrs{Href: href}}}}
		d := Document{Type: Doc, Attrs: DocAttrs{Version: 1, Body: BodyFormatted}, Content: []Node{paragraph(), {Type: Paragraph, Content: []Node{link}}}}
		if err := CheckLetterForm(d); err != nil {
			t.Errorf("%s: %v", href, err)
		}
		notes := slices.DeleteFunc(CheckLetter(NewPlain("Offer"), d), func(n Note) bool { return n.Code != "address" })
		if len(notes) != 1 || notes[0].Text != href || notes[0].Line != 2 || !strings.Contains(notes[0].Message, "the offer") {
			t.Errorf("%s: %+v", href, notes)
		}
		if html := RenderHTML(d, ""); strings.Contains(html, strings.SplitN(href, ":", 2)[0]+":") || !strings.Contains(html, "the offer") {
			t.Errorf("%s: %s", href, html)
		}
	}
}
