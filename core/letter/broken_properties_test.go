package letter_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

// Whatever stands around what is left out: nothing panics, every note quotes words that stand
// there, the marks change no word of the letter, and without them nothing is noted.
func TestBroken_anyWords(t *testing.T) {
	cat := lettertest.Catalogue()
	words := []string{"in", " ", "near", ",", ".", " – ", "İstanbul", "ⱥⱥ", "שלום ", "🥶", "e\u0301", "'s", "’", "“", "”", "(", ")", "from ", " to ", "10–", "€ ", "m³", ":", "\n", " and ", "is", "{{person.city|}}", "{{company.name|}}", "{{person.first_name|you}}", "{{#person.city}} x {{person.city}}{{/person.city}}", "{{?why: text?}}", "\u00a0", "\t", strings.Repeat("long ", 300), "<", "&", "}}", "{"}
	for seed := range uint64(4000) {
		r := rand.New(rand.NewPCG(seed, 5))
		var body strings.Builder
		for range 1 + r.IntN(12) {
			body.WriteString(words[r.IntN(len(words))])
		}
		d := markup.Parse(body.String())
		if seed%3 == 0 {
			d = markup.ParseHTML("<p>" + strings.NewReplacer("<", "", "\n", "<br>").Replace(body.String()) + "</p>")
		}
		p, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat)
		if document.Stopping(notes) {
			continue
		}
		v := cat.NewValues()
		v.Kind = field.Lead
		if seed%2 == 0 {
			v.Set("person.city", field.Of("Ⱥ İ"))
		}
		l := p.Merge(v, nil, field.NewReader([]string{"en", "de", "fr", "tr"}[seed%4]))
		text := strings.Join(strings.Fields(render.RenderText(l.Body)), " ")
		for _, n := range letter.CheckLetter(l.Subject, l.Body) {
			if n.Code != "broken" {
				continue
			}
			if quoted := strings.Join(strings.Fields(strings.TrimSuffix(n.Text, "…")), " "); !strings.Contains(text, quoted) && l.Body.Attrs.Body == document.BodyPlain {
				t.Errorf("seed %d: %q is not in %q", seed, n.Text, text)
			}
			if n.Line < 1 || n.Line > len(l.Body.Content) {
				t.Errorf("seed %d: line %d of %d", seed, n.Line, len(l.Body.Content))
			}
		}
		bare := l.Body
		bare.Content = withoutPlaces(document.Clone(l.Body.Content))
		if render.RenderText(bare) != render.RenderText(l.Body) {
			t.Errorf("seed %d: the marks changed %q", seed, text)
		}
		for _, n := range letter.CheckLetter(l.Subject, bare) {
			if n.Code == "broken" {
				t.Errorf("seed %d: %q without a place", seed, n.Text)
			}
		}
	}
}

func withoutPlaces(nodes []document.Node) []document.Node {
	for i := range nodes {
		var marks []document.Mark
		for _, m := range nodes[i].Marks {
			if m.Type != document.LeftOut {
				marks = append(marks, m)
			}
		}
		nodes[i].Marks, nodes[i].Content = marks, withoutPlaces(nodes[i].Content)
	}
	return nodes
}
