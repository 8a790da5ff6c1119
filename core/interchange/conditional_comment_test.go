package interchange_test

import (
	"regexp"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

// A value in a conditional comment of office programs is words there as elsewhere: the
// comment is read once more when the page is made safe, and must not resolve its signs.
func TestMerge_conditionalComment(t *testing.T) {
	cat := field.New(nil)
	body, _, err := interchange.ImportHTML(`<p>x</p><!--[if mso]><p title="{{person.last_name}}">Dear {{person.last_name}}, <a href="https://fernhollow.example/?q={{person.last_name}}">go</a></p><![endif]--><p>y</p>`)
	if err != nil {
		t.Fatal(err)
	}
	program, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
	if document.Stopping(notes) {
		t.Fatal(notes)
	}
	for _, value := range []string{`<a href="https://evil.example">Q</a>`, `O'Neil & "Sons" -->`, `--><img src=x onerror=alert(1)>`, `&lt;b&gt;`, `<![endif]--><p>`} {
		v := cat.NewValues()
		v.Kind = field.Contact
		v.Set("person.last_name", field.Of(value))
		page := render.RenderHTML(program.Merge(v, nil, field.NewReader("en-GB")).Body, "t")
		inside := regexp.MustCompile(`(?s)<!--\[if mso\]>(.*?)<!\[endif\]-->`).FindStringSubmatch(page)
		if inside == nil {
			if strings.Contains(value, "--") {
				continue // a comment that cannot hold it is left out
			}
			t.Fatalf("%s: %s", value, page)
		}
		z := html.NewTokenizer(strings.NewReader(inside[1]))
		text, tags := "", ""
		for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
			switch token := z.Token(); kind {
			case html.TextToken:
				text += token.Data
			case html.StartTagToken:
				tags += token.Data + " "
				for _, a := range token.Attr {
					if a.Key == "title" && a.Val != value {
						t.Errorf("%s: the title is %q", value, a.Val)
					}
				}
			}
		}
		if text != "Dear "+value+", go" || tags != "p a " {
			t.Errorf("%s: the comment says %q with %s", value, text, tags)
		}
	}
}
