package interchange_test

import (
	"slices"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

const letterPage = `<html><body><h1>Dear {{person.first_name}},</h1><p>come on <b>{{?day}}</b> to {{company.name}} &amp; see.</p>
<p><a href="https://fernhollow.example/?to={{company.name}}">Our rooms</a> <img src="https://fernhollow.example/a.png" alt="A room"></p></body></html>`

func pageLetter(t *testing.T) document.Document {
	t.Helper()
	r := lettertest.RecordOf(t, map[string]string{"person.first_name": "Ada", "company.name": "Quill & <Co>"})
	p, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.ParseHTML(letterPage)}, field.New(nil))
	if document.Stopping(notes) {
		t.Fatal(notes)
	}
	return p.Merge(r.Values, nil, r.Reader).Body
}

func texts(parts []interchange.PagePart) []string {
	var out []string
	for _, p := range parts {
		out = append(out, p.Text)
	}
	return out
}

func TestLetterParts(t *testing.T) {
	d := pageLetter(t)
	want := []string{"Dear Ada,", "come on", "‹Day›", "to Quill & <Co> & see.", "https://fernhollow.example/?to=Quill & <Co>", "Our rooms", "A room"}
	if got := texts(interchange.LetterParts(d)); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	shown := interchange.ShowLetterParts(d)
	for _, piece := range []string{">Ada</span>", "Quill &amp; &lt;Co&gt;", "‹Day›"} {
		if !strings.Contains(shown, piece) {
			t.Errorf("%q is not in %s", piece, shown)
		}
	}
	if strings.Contains(shown, "held.n") {
		t.Errorf("left: %s", shown)
	}
}

func TestSetLetterPart(t *testing.T) {
	before := pageLetter(t)
	for _, c := range []struct {
		name string
		part int
		text string
		want string // in the HTML
		path string // still merged there
		gaps int
	}{
		{"words around a merged one", 0, "Good morning, dear Ada!", "<h1>Good morning, dear Ada!</h1>", "person.first_name", 1},
		{"the merged word itself", 0, "Hello Adda,", "<h1>Hello Adda,</h1>", "", 1},
		{"signs of HTML are words", 1, `<b>come</b> & "see" {{x}}`, `&lt;b&gt;come&lt;/b&gt; &amp; `, "company.name", 1},
		{"a gap stays", 2, "Monday, ‹Day›", "<b>Monday, ", "company.name", 1},
		{"a gap is written over", 2, "Monday", "<b>Monday</b>", "company.name", 0},
		{"a value with signs stays", 3, "to Quill & <Co>, gladly", "to Quill &amp; &lt;Co&gt;, gladly", "company.name", 1},
		{"the address of a link", 4, "https://fernhollow.example/rooms", `href="https://fernhollow.example/rooms"`, "person.first_name", 1},
		{"words in place of a picture", 6, "The large room", `alt="The large room"`, "person.first_name", 1},
	} {
		t.Run(c.name, func(t *testing.T) {
			after, err := interchange.SetLetterPart(before, c.part, c.text)
			if err != nil {
				t.Fatal(err)
			}
			if err := document.CheckLetterForm(after); err != nil {
				t.Error(err)
			}
			if html := render.RenderHTML(after, ""); !strings.Contains(html, c.want) {
				t.Errorf("%q is not in %s", c.want, html)
			}
			if _, ok := letter.MergedPaths(after)[c.path]; c.path != "" && !ok {
				t.Errorf("%s is not merged any more", c.path)
			}
			if c.path == "" && letter.MergedPaths(after)["person.first_name"] != "" {
				t.Error("it still says that the name came from the record")
			}
			if gaps := document.Gaps(document.Document{}, after); len(gaps) != c.gaps {
				t.Errorf("gaps %v", gaps)
			}
			if got := interchange.LetterParts(after)[c.part].Text; got != strings.ReplaceAll(c.text, "{{", "{ {") {
				t.Errorf("read back as %q", got)
			}
		})
	}
	if _, err := interchange.SetLetterPart(before, 99, "x"); err == nil {
		t.Error("a part that is not there was changed")
	}
	if !slices.Equal(texts(interchange.LetterParts(before)), texts(interchange.LetterParts(pageLetter(t)))) {
		t.Error("the letter that was given has changed")
	}
}
