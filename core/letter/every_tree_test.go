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

// Every tree can be merged and written; the letter has a right form, holds its own
// fixed wording, and after its gaps are filled none.
func TestMerge_everyTree(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en")
	for seed := range uint64(800) {
		d := markup.Canonical(lettertest.Trees{R: rand.New(rand.NewPCG(seed, 5))}.Document())
		p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat)
		l := p.Merge(values, nil, reader)
		if err := document.CheckLetterForm(l.Body); err != nil {
			t.Fatalf("seed %d: %v in\n%s", seed, err, markup.Print(d))
		}
		fixed := letter.FixedWording(l.Body)
		for _, gap := range document.Gaps(l.Subject, l.Body) {
			l.Body = letter.Fill(l.Body, gap.Path, "a \"<b>&")
		}
		if left := document.Gaps(l.Subject, l.Body); len(left) > 0 {
			t.Fatalf("seed %d: %v left in\n%s", seed, left, markup.Print(d))
		}
		if err := document.CheckLetterForm(l.Body); err != nil {
			t.Fatalf("seed %d filled: %v in\n%s", seed, err, markup.Print(d))
		}
		if notes := letter.CheckFixed(fixed, l.Body); len(notes) > 0 {
			t.Fatalf("seed %d: %v in\n%s", seed, notes, markup.Print(d))
		}
		if page := render.RenderHTML(l.Body, "s"); strings.Contains(page, "<b>&") {
			t.Fatalf("seed %d: a value is not escaped in\n%s", seed, page)
		}
	}
}

func FuzzParseMarkup(f *testing.F) {
	for _, s := range []string{"<p>a {{person.city|}} <b>b</b></p>", "<ul><li><p>a</p></li></ul>", "{{#a}}<p>x</p>{{/a}}", "<p>&amp;lt; \\{{</p>", "<p><a href=\"{{x}}&\">y</a></p>", "<img src='a' alt=\"&quot;\">", "<p>{{</p>", "<p>\x01</p>",
		"<p>{{\\{x {{!}}{{a\nb}} {{! a\nb }}</p>\n<p title\n=x>{{person.city\n|}}</p>", "<p><a href=\"https://x.example/{{?page: choice a, b}}\">{{?page}}</a></p>", "<button href=\"https://x.example/{{?host.email}}\">a</button>",
		"{{fixed}}<p><a href=\"https://x.example/{{person.city}}\">a</a> {{?x}}</p><img src=\"https://x.example/{{?x}}\" alt=\"{{person.city}}\">{{/fixed}}"} {
		f.Add(s)
	}
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(f, cat), field.NewReader("en")
	f.Fuzz(func(t *testing.T, src string) {
		d, err := markup.ParseMarkup(src)
		if err != nil {
			return
		}
		text := markup.Print(d)
		back, err := markup.ParseMarkup(text)
		if err != nil {
			t.Fatalf("%q printed as %q: %v", src, text, err)
		}
		if a, b := lettertest.JSONOf(t, d), lettertest.JSONOf(t, back); a != b {
			t.Fatalf("%q printed as %q:\n%s\n%s", src, text, a, b)
		}
		// Whatever can be read can be checked, merged and written, and holds its own fixed wording.
		program, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat)
		l := program.Merge(values, map[string]field.Value{"x": field.Of("a\"<b>")}, reader)
		if err := l.Body.Check(); err != nil {
			t.Fatalf("%q merged: %v", src, err)
		}
		if notes := letter.CheckFixed(letter.FixedWording(l.Body), l.Body); len(notes) > 0 {
			t.Fatalf("%q: %v", src, notes)
		}
		_, _ = render.RenderHTML(l.Body, "s"), render.RenderText(l.Body)
		program.Missing(values, nil)
	})
}
