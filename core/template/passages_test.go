package template

import (
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

func passagesOf(t testing.TB, text map[string]string) Passages {
	t.Helper()
	docs := map[string]document.Document{}
	for name, src := range text {
		kind := document.BodyPlain
		if strings.HasPrefix(src, "<") {
			kind = document.BodyFormatted
		}
		d, err := markup.ParseBody(src, kind)
		if err != nil {
			t.Fatal(err)
		}
		docs[name] = d
	}
	return func(s string) (document.Document, bool) { d, ok := docs[s]; return d, ok }
}

func TestExpand(t *testing.T) {
	find := passagesOf(t, map[string]string{
		"hi": "Dear {{person.first_name|you}},", "bye": "Kind regards,\n{{sender.first_name}}", "rich": "<p>One <b>two</b></p><ul><li><p>three</p></li></ul>",
		"all": "{{>hi}}\n\n{{>bye}}", "loop": "a {{>loop}} b", "sharp": `a < b & "c"`, "nested": "x {{#person.city}}<{{person.city}}>{{/person.city}}", "when": "{{#deal.amount}}\nYour quote\n{{/deal.amount}}\nand more",
	})
	for _, row := range []struct{ kind, src, want string }{
		{document.BodyPlain, "{{>hi}}\n\nwords", "Dear {{person.first_name|you}},\n\nwords"},
		{document.BodyPlain, "So: {{>bye}} and so on", "So: Kind regards,\n{{sender.first_name}} and so on"},
		{document.BodyPlain, "{{>all}}", "Dear {{person.first_name|you}},\n\nKind regards,\n{{sender.first_name}}"},
		{document.BodyPlain, "{{>rich}}", "One two\n\n- three"},
		{document.BodyPlain, "{{>loop}}", "a {{>loop}} b"},
		{document.BodyPlain, "{{>none}} {{>hi}}", "{{>none}} Dear {{person.first_name|you}},"},
		{document.BodyPlain, "a {{>when}} b", "a \n{{#deal.amount}}\nYour quote\n{{/deal.amount}}\nand more b"},
		{document.BodyPlain, "{{#person.city}}\n{{>hi}}\n{{/person.city}}", "{{#person.city}}\nDear {{person.first_name|you}},\n{{/person.city}}\n"},
		{document.BodyPlain, "x {{fixed}}{{>hi}}{{/fixed}}", "x {{fixed}}Dear {{person.first_name|you}},{{/fixed}}"},
		{document.BodyFormatted, "<p>{{>rich}}</p><p>end</p>", "<p>One <b>two</b></p>\n<ul>\n  <li>\n    <p>three</p>\n  </li>\n</ul>\n<p>end</p>\n"},
		{document.BodyFormatted, "<p><i>See {{>rich}}.</i></p>", "<p><i>See One </i><b><i>two</i></b><br><i>three.</i></p>\n"},
		{document.BodyFormatted, "<h1>{{>hi}}</h1>", "<h1>Dear {{person.first_name|you}},</h1>\n"},
		{document.BodyFormatted, "<p>{{>bye}}</p>", "<p>Kind regards,<br>{{sender.first_name}}</p>\n"},
		{document.BodyHTML, "<td>{{>sharp}}</td>", "<td>a &lt; b &amp; &#34;c&#34;</td>"},
		{document.BodyHTML, "<td>{{>nested}}</td>", "<td>x {{#person.city}}&lt;{{person.city}}&gt;{{/person.city}}</td>"},
		{document.BodyHTML, "<td>{{>bye}}</td>", "<td>Kind regards,\n<br>{{sender.first_name}}</td>"},
	} {
		d, err := markup.ParseBody(row.src, row.kind)
		if row.kind == document.BodyHTML {
			d, err = markup.ParseHTML(row.src), nil
		}
		if err != nil {
			t.Fatal(err)
		}
		before := markup.Print(d)
		got := Expand(d, find)
		if markup.Print(got) != row.want {
			t.Errorf("%s: %q, want %q", row.src, markup.Print(got), row.want)
		}
		if err := got.Check(); err != nil {
			t.Errorf("%s: %v", row.src, err)
		}
		if markup.Print(d) != before {
			t.Errorf("%s: the template was changed", row.src)
		}
	}
}

func TestCompile_passages(t *testing.T) {
	find := passagesOf(t, map[string]string{"hi": "Dear {{person.first_name}}, {{?why}}", "bad": "Dear {{person.nickname}}", "deal": "{{deal.name}}"})
	cat := field.New(nil)
	tpl := Template{Subject: markup.Parse("s"), Body: markup.Parse("{{>hi}}\nx {{person.city}}"), Passages: find}
	p, notes := Compile(tpl, cat)
	if len(notes) != 0 || len(p.Blanks()) != 1 {
		t.Fatalf("%v %v", notes, p.Blanks())
	}
	v := cat.NewValues()
	v.Kind = field.Lead
	v.Set("person.first_name", field.Of("Ada"))
	l := p.Merge(v, nil, field.NewReader("en-GB"))
	if got := render.RenderText(l.Body); got != "Dear Ada, ‹Why›\nx ‹City›" || len(l.Gaps) != 2 {
		t.Errorf("%q %v", got, l.Gaps)
	}
	tpl.Body = markup.Parse("line one\n{{>bad}}")
	if _, notes := Compile(tpl, cat); len(notes) != 1 || notes[0].Line != 2 || notes[0].Text != "{{>bad}}" || !strings.Contains(notes[0].Message, "In the passage {{>bad}}: There is no field person.nickname") {
		t.Errorf("%+v", notes)
	}
	tpl.Body = markup.Parse("{{>deal}} {{lead.status}}")
	if p, notes := Compile(tpl, cat); !document.Stopping(notes) || len(p.Fits()) != 0 {
		t.Errorf("%+v %v", notes, p.Fits())
	}
	tpl.Body = markup.Parse("{{>none}}")
	if _, notes := Compile(tpl, cat); len(notes) != 1 || !strings.Contains(notes[0].Message, "no passage with the shortcut none") {
		t.Errorf("%+v", notes)
	}
	if got := PassagesIn(markup.Parse("{{>a}}"), markup.Parse("{{#person.city}}{{>b}}{{/person.city}} {{>a}}")); strings.Join(got, " ") != "a b" {
		t.Error(got)
	}
}

func TestCompile_textPart(t *testing.T) {
	body, err := markup.ParseMarkup("<p>Dear {{person.first_name}}</p>")
	if err != nil {
		t.Fatal(err)
	}
	text := markup.Parse("Hello {{person.first_name}} of {{company.name}} {{person.nickname}}")
	cat := field.New(nil)
	p, notes := Compile(Template{Subject: markup.Parse("s"), Body: body, Text: &text}, cat)
	if len(notes) != 1 || notes[0].Part != document.TextPart || notes[0].Code != "unknown" {
		t.Fatalf("%+v", notes)
	}
	v := cat.NewValues()
	v.Kind = field.Lead
	v.Set("person.first_name", field.Of("Ada"))
	if got := p.Missing(v, nil); strings.Join(got, " ") != "company.name person.nickname" {
		t.Errorf("%v", got)
	}
	l := p.Merge(v, nil, field.NewReader("en-GB"))
	if got := render.RenderText(*l.Text); got != "Hello Ada of ‹Company› ‹person.nickname›" || len(l.Gaps) != 2 || l.Gaps[0].Part != document.TextPart {
		t.Errorf("%q %+v", got, l.Gaps)
	}
}

func TestPlainPart(t *testing.T) {
	for _, row := range []struct{ kind, src, want string }{
		{document.BodyFormatted, `<h1>Hi {{person.first_name|you}}</h1>{{#deal.amount}}<p>Your \{{quote}} {{?why: text "Why"}}</p>{{/deal.amount}}<p><a href="https://x.example/{{person.city}}">go</a>{{! no }}{{#person.city}} there{{/person.city}}</p>`,
			"Hi {{person.first_name|you}}\n\n{{#deal.amount}}\n\nYour \\{\\{quote}} {{?why: text \"Why\"}}\n\n{{/deal.amount}}\n\ngo (https://x.example/{{person.city}}){{#person.city}} there{{/person.city}}"},
		{document.BodyPlain, "Dear {{person.city}}", "Dear {{person.city}}"},
		{document.BodyHTML, "<table><tr><td>Dear {{person.city|}}</td></tr></table>", "Dear {{person.city|}}"},
	} {
		d, err := markup.ParseBody(row.src, row.kind)
		if row.kind == document.BodyHTML {
			d, err = markup.ParseHTML(row.src), nil
		}
		if err != nil {
			t.Fatal(err)
		}
		got := render.PlainPart(d)
		if got != row.want {
			t.Errorf("%q, want %q", got, row.want)
		}
		if _, notes := Compile(Template{Subject: markup.Parse("s"), Body: markup.Parse(got)}, field.New(nil)); document.Stopping(notes) {
			t.Errorf("%q: %v", got, notes)
		}
	}
}
