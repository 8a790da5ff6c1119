package letter_test

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

func TestFixedWording(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en")
	for _, row := range []struct {
		name, body string
		want       string // stretches, parted by |
	}{
		{"none", "Dear {{person.first_name}}", ""},
		{"within a line", "Dear {{fixed}}{{person.first_name}} Quill{{/fixed}}, hello", "Ada Quill"},
		{"lines", "a\n{{fixed}}\nOurs for {{company.name}}\nand theirs\n{{/fixed}}\nb\n{{fixed}}\nmore\n{{/fixed}}", "Ours for Quill & Daughters\nand theirs|more"},
		{"with a gap", "{{fixed}}In {{person.city}}, {{?day: date}}.{{/fixed}}", "In \uFFFC, \uFFFC."},
		{"only when", "{{fixed}}a{{#person.city}} in {{person.city}}{{/person.city}} b{{/fixed}}", "a b"},
	} {
		p, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.Parse(row.body)}, cat)
		if document.Stopping(notes) {
			t.Fatalf("%s: %v", row.name, notes)
		}
		l := p.Merge(values, nil, reader)
		fixed := letter.FixedWording(l.Body)
		if got := strings.Join(fixed, "|"); got != row.want {
			t.Errorf("%s: %q, want %q", row.name, got, row.want)
		}
		if notes := letter.CheckFixed(fixed, l.Body); len(notes) > 0 {
			t.Errorf("%s: not found in its own letter: %v", row.name, notes)
		}
		if text, _ := p.AppendBody(nil, values, nil, reader, safehtml.AsText); !strings.Contains(row.want, letter.OpenPlace) && string(text) != render.RenderText(l.Body) {
			t.Errorf("%s: the short way gives %q", row.name, text)
		}
	}
}

func TestCheckFixed(t *testing.T) {
	cat := lettertest.Catalogue()
	p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.Parse("Dear {{person.first_name}},\n{{fixed}}\nOffer holds 30 days from {{person.city}}.\nPrices are net.\n{{/fixed}}\nand {{fixed}}no more{{/fixed}}.")}, cat)
	l := p.Merge(lettertest.Ada(t, cat), nil, field.NewReader("en"))
	fixed := letter.FixedWording(l.Body)
	for _, row := range []struct {
		name, text string
		notes      int
	}{
		{"untouched, the gap filled", "Dear Ada,\nOffer holds 30 days from Leeds.\nPrices are net.\nand no more.", 0},
		{"written around", "Hello!\n\nOffer holds 30 days from Leeds.\nPrices are net.\nPS\nand, as I said, no more. Bye", 0},
		{"a figure changed", "Offer holds 60 days from Leeds.\nPrices are net.\nand no more.", 1},
		{"a line put between", "Offer holds 30 days from Leeds.\nbut\nPrices are net!\nand no more.", 1},
		{"taken out", "Dear Ada", 2},
		{"in another order", "and no more.\nOffer holds 30 days from Leeds.\nPrices are net.", 1},
	} {
		if notes := letter.CheckFixed(fixed, document.NewPlain(row.text)); len(notes) != row.notes {
			t.Errorf("%s: %v", row.name, notes)
		}
	}
	body := lettertest.Markup(t, "{{fixed}}<h1>Ours</h1><ul><li><p>one {{person.first_name}}</p></li></ul><img src=\"https://x.example/a.png\" alt=\"a\">{{/fixed}}<p>yours {{fixed}}and ours{{/fixed}}</p>")
	p, _ = template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
	l = p.Merge(lettertest.Ada(t, cat), nil, field.NewReader("en"))
	fixed = letter.FixedWording(l.Body)
	if got := strings.Join(fixed, "|"); got != "Ours\none Ada|https://x.example/a.png|and ours" {
		t.Errorf("formatted: %q", got)
	}
	if notes := letter.CheckFixed(fixed, l.Body); len(notes) > 0 {
		t.Errorf("formatted: %v", notes)
	}
	changed := document.Document{Attrs: l.Body.Attrs, Content: document.Clone(l.Body.Content)}
	changed.Content[0].Content[2].Attrs = &document.Attrs{Src: "https://x.example/b.png", Alt: "a"}
	if notes := letter.CheckFixed(fixed, changed); len(notes) != 1 || !strings.Contains(notes[0].Message, "a.png") {
		t.Errorf("another picture: %v", notes)
	}
}

// Where fixed words lead is fixed with them.
func TestCheckFixed_addresses(t *testing.T) {
	cat := lettertest.Catalogue()
	body := lettertest.Markup(t, `<p><a href="https://x.example/ours">free</a></p>{{fixed}}<p>See <a href="https://x.example/terms">our <strong>terms</strong></a>.</p>`+
		`<p><a href="https://x.example/{{?page}}">page</a></p><button href="https://x.example/sign">Sign</button>`+
		`<img src="https://x.example/a.png" alt="a" href="https://x.example/room">{{/fixed}}`)
	p, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
	if document.Stopping(notes) {
		t.Fatal(notes)
	}
	l := p.Merge(lettertest.Ada(t, cat), nil, field.NewReader("en"))
	fixed := letter.FixedWording(l.Body)
	want := "See our terms.\npage\nSign|https://x.example/a.png|\x01https://x.example/terms|\x01https://x.example/sign|\x01https://x.example/room"
	if got := strings.Join(fixed, "|"); got != want {
		t.Fatalf("%q", got)
	}
	if notes := letter.CheckFixed(fixed, letter.Fill(l.Body, "?page", "7")); len(notes) > 0 {
		t.Errorf("not found in its own letter: %v", notes)
	}
	for from, to := range map[string]string{"example/terms": "example/other", "example/sign": "other.example/sign", "example/room": "example"} {
		text := strings.Replace(markup.Print(l.Body), from, to, -1)
		changed, err := markup.ParseMarkup(text)
		if err != nil {
			t.Fatal(err)
		}
		if notes := letter.CheckFixed(fixed, changed); len(notes) == 0 || !strings.Contains(notes[0].Message, from) {
			t.Errorf("%s led elsewhere: %v", from, notes)
		}
	}
}

// What is free between two fixed stretches parts them; a picture's gap is filled.
func TestCheckFixed_freeBetween(t *testing.T) {
	cat := lettertest.Catalogue()
	body := lettertest.Markup(t, `{{fixed}}<p>ours</p><img src="https://x.example/{{?page}}.png" alt="a">{{/fixed}}<img src="https://x.example/free.png" alt="b">{{fixed}}<p>ours too</p>{{/fixed}}`+
		`<p><a href="https://x.example/{{?page}}">one<br>two</a></p>`)
	p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
	l := p.Merge(lettertest.Ada(t, cat), nil, field.NewReader("en"))
	fixed := letter.FixedWording(l.Body)
	if got := strings.Join(fixed, "|"); got != "ours|https://x.example/\uFFFC.png|ours too" {
		t.Errorf("%q", got)
	}
	filled := letter.Fill(l.Body, "?page", "a b")
	if notes := append(letter.CheckFixed(fixed, filled), letter.CheckLetter(markup.Parse("s"), filled)...); len(notes) > 0 {
		t.Errorf("%v", notes)
	}
	// The line end within the link leads where its words lead.
	if page := render.RenderHTML(filled, "s"); strings.Count(page, `href="https://x.example/a%20b"`) != 1 {
		t.Error(page)
	}
}
