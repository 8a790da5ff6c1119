package template_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

var update = flag.Bool("update", false, "write the golden files anew")

// looked is a merged letter without what every sheet has: its words as text.
func TestMerge_formatted(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en-GB")
	for _, row := range []struct{ name, in, want string }{
		{"value", "<p>Dear {{person.first_name}},</p><p>more</p>", "Dear Ada,\n\nmore"},
		{"value with marks", "<p><b>{{person.first_name}}</b> {{deal.amount}}</p>", "Ada €12,500.00"},
		{"signature over lines", "<p>{{sender.signature}}</p>", "Imre\nFernhollow"},
		{"heading", "<h1>For {{company.name}}</h1><p>x</p>", "For Quill & Daughters\n\nx"},
		{"left out across marks", "<p>Dear <b>{{person.honorific|}}</b>, hello</p>", "Dear, hello"},
		{"brackets across marks", "<p>room (<i>{{person.city|}}</i>) here</p>", "room here"},
		{"space across marks", "<p>your <b>{{person.city|}}</b> room</p>", "your room"},
		{"label with its value", "<p><b>City:</b> {{person.city|}}</p><p>x</p>", "x"},
		{"label line within a paragraph", "<p>Name: {{person.first_name}}<br>City: {{person.city|}}<br>End</p>", "Name: Ada\nEnd"},
		{"heading emptied", "<h2>{{person.city|}}</h2><p>x</p>", "x"},
		{"empty paragraphs around", "<p>a</p><p></p><p>{{person.city|}}</p><p></p><p>b</p>", "a\n\n\nb"},
		{"bullets", "<ul><li><p>a</p></li><li><p>{{person.city|}}</p></li><li><p>c</p></li></ul>", "- a\n- c"},
		{"list emptied", "<p>x</p><ul><li><p>{{person.city|}}</p></li></ul>", "x"},
		{"numbers", "<ol start=\"9\"><li><p>a</p><p>more</p></li><li><p>b</p><ul><li><p>c</p></li></ul></li></ol>", "9. a\n   more\n10. b\n    - c"},
		{"quote", "<blockquote><p>a</p><p>b</p></blockquote>", "> a\n>\n> b"},
		{"quote emptied", "<blockquote><p>{{person.city|}}</p></blockquote><p>x</p>", "x"},
		{"table", "<table><tr><th><p>What</p></th><th><p>Amount</p></th></tr><tr><td><p>Cold room</p></td><td><p>{{deal.amount}}</p></td></tr></table>", "What       Amount\nCold room  €12,500.00"},
		{"wide signs", "<table><tr><td><p>冷蔵庫</p></td><td><p>a</p></td></tr><tr><td><p>room</p></td><td><p>b</p></td></tr></table>", "冷蔵庫  a\nroom    b"},
		{"row with its only value", "<table><tr><td><p>City</p></td><td><p>{{person.city|}}</p></td></tr><tr><td><p>Sum</p></td><td><p>{{deal.amount}}</p></td></tr></table>", "Sum  €12,500.00"},
		{"cell beside others stays", "<table><tr><td><p>a</p></td><td><p>{{person.city|}}</p></td><td><p>c</p></td></tr></table>", "a    c"},
		{"columns", "<columns><column><p>a</p></column><column><p>{{person.city|}}</p></column></columns>", "a"},
		{"only when", "{{#deal.amount > 1000 EUR}}<p>big</p>{{/deal.amount}}{{^deal.amount}}<p>none</p>{{/deal.amount}}", "big"},
		{"only when in a list", "<ul><li><p>a</p></li></ul>{{#person.city}}<ul><li><p>b</p></li></ul>{{/person.city}}", "- a"},
		{"only when within", "<p>a{{#person.city}} in {{person.city}}{{/person.city}}{{^person.city}}, somewhere{{/person.city}}</p>", "a, somewhere"},
		{"fixed", "{{fixed}}<p>Ours {{person.first_name}}</p>{{/fixed}}", "Ours Ada"},
		{"link", `<p>See <a href="https://x.example/{{person.last_name}}?q={{company.name}}">the page</a> now</p>`, "See the page (https://x.example/Quill?q=Quill%20%26%20Daughters) now"},
		{"link that says itself", `<p><a href="https://x.example/">x.example</a></p>`, "x.example"},
		{"link with marks inside", `<p><a href="https://x.example/">a <b>b</b></a> c</p>`, "a b (https://x.example/) c"},
		{"link without an address", `<p>See <a href="{{person.own.x|}}{{sender.booking_link|}}">the page</a></p>`, "See the page"},
		{"button", `<button href="mailto:{{person.last_name}}@x.example">Write</button>`, "Write (Quill@x.example)"},
		{"button that leads nowhere", `<p>x</p><button href="{{sender.booking_link|}}">Book</button>`, "x"},
		{"picture", `<img src="https://x.example/a.png" alt="The {room}" href="https://x.example">`, "[The {room}] (https://x.example)"},
		{"divider and spacer", "<p>a</p><hr><spacer><p>b</p>", "a\n\n----------------------------------------\n\nb"},
		{"gap", "<p>Dear {{person.honorific}}</p>", "Dear ‹Form of address›"},
	} {
		l := lettertest.CompileMarkup(t, cat, strings.ReplaceAll(row.in, "{{person.own.x|}}", "")).Merge(values, nil, reader)
		if got := render.RenderText(l.Body); got != row.want {
			t.Errorf("%s: got\n%s\nwant\n%s", row.name, got, row.want)
		}
		if err := document.CheckLetterForm(l.Body); err != nil && row.name != "gap" {
			t.Errorf("%s: %v", row.name, err)
		}
	}
}

func TestCompile_formattedNotes(t *testing.T) {
	cat := lettertest.Catalogue()
	for _, row := range []struct{ in, want, contains string }{
		{"<p>a</p><p>é {{person.frist_name}}</p>", "2:6 unknown content[1]", "person.first_name"},
		{"<ul><li><p>{{person.x}}</p></li></ul>", "3:8 unknown content[0].content[0].content[0]", "There is no field"},
		{`<p><a href="https://x.example/{{person.cty}}">x</a></p>`, "1:31 unknown content[0]", "person.city"},
		{`<p><a href="https://x.example/{{person.cty}}">x <b>y</b></a></p>`, "1:31 unknown content[0]", "person.city"},
		{`<button href="{{lead.statu}}">x</button>`, "1:15 unknown content[0]", "lead.status"},
		{`<p><a href="javascript:alert(1)">x</a></p>`, "1:13 address content[0]", "begin it with https"},
		{`<p><a href="java&#115;cript:alert(1)">x</a></p>`, "1:13 address content[0]", "begin it with https"},
		{`<button href="https://x.example/a b">x</button>`, "1:15 address content[0]", "has a space"},
		{`<button href="https://">x</button>`, "1:15 address content[0]", "leads nowhere yet"},
		{`<p><a href="x.example/a">x</a></p>`, "1:13 address content[0]", "is not a whole address"},
		{`<img src="https://x.example/a.png">`, "1:1 alt content[0]", "no words in its place"},
		{`<img src="data:text/html,x" alt="a">`, "1:11 address content[0]", "not an address"},
		{"<p>[First name]</p>", "1:4 leftover content[0]", "unfilled placeholder"},
		{"<p>{{#person.city > 3}}x{{/person.city}}</p>", "1:4 condition content[0]", "neither a number"},
		{"{{#person.cty}}<p>x</p>{{/person.cty}}", "1:1 unknown content[0]", "person.city"},
		{"<p>{{person.city</p>", "1:4 malformed content[0]", "closing }}"},
	} {
		_, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: lettertest.Markup(t, row.in)}, cat)
		if len(notes) != 1 {
			t.Errorf("%s: %v", row.in, notes)
			continue
		}
		n := notes[0]
		if got := fmt.Sprintf("%d:%d %s %s", n.Line, n.Column, n.Code, n.Where); got != row.want || !strings.Contains(n.Message, row.contains) {
			t.Errorf("%s: %s (%s), want %s with %q", row.in, got, n.Message, row.want, row.contains)
		}
	}
}

func TestRenderHTML_golden(t *testing.T) {
	cat := lettertest.Catalogue()
	body := lettertest.Markup(t, lettertest.Everything)
	body.Attrs.Font, body.Attrs.Background = "Georgia", "#f7f4ec"
	p, notes := template.Compile(template.Template{Subject: markup.Parse("Room & more"), Body: body}, cat)
	if len(notes) > 0 {
		t.Fatal(notes)
	}
	values, reader := lettertest.Ada(t, cat), field.NewReader("de-DE")
	l := p.Merge(values, nil, reader)
	page := render.RenderHTML(l.Body, render.RenderText(l.Subject))
	for name, got := range map[string]string{"testdata/everything.html": page, "testdata/everything.txt": render.RenderText(l.Body) + "\n"} {
		if *update {
			if err := os.WriteFile(name, []byte(got), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		want, err := os.ReadFile(name)
		if err != nil || string(want) != got {
			t.Errorf("%s differs (%v); look at it and run with -update:\n%s", name, err, got)
		}
	}
	short, _ := p.AppendBody(nil, values, nil, reader, safehtml.AsHTML)
	if string(short) != page {
		t.Error("AppendBody gives another page")
	}
	// What the page says is what the text part says, but for how it is laid out.
	words := func(s string) string {
		return strings.Join(strings.Fields(strings.NewReplacer("-", " ", ">", " ", "1.", " ", "2.", " ").Replace(s)), " ")
	}
	if a, b := words(render.PageText(page)), words(render.RenderText(l.Body)); a != b {
		t.Errorf("the page says\n%s\nthe text\n%s", a, b)
	}
}

// Values in a formatted letter are words: whatever they hold, the page keeps its
// elements and addresses.
func TestRenderHTML_hostileValues(t *testing.T) {
	cat := lettertest.Catalogue()
	const page = `<h1>{{person.city}}</h1><p title-less><a href="https://x.example/{{person.city}}?q={{person.city}}">{{person.city}}</a> <b>{{person.city}}</b></p>` +
		`<img src="https://x.example/{{person.city}}" alt="a"><button href="{{person.city}}">{{person.city}}</button>`
	p := lettertest.CompileMarkup(t, cat, strings.Replace(page, " title-less", "", 1))
	merge := func(value string) string {
		v := cat.NewValues()
		v.Kind = field.Lead
		v.Set("person.city", field.Value{Type: field.Text, Text: value})
		v.Set("person.first_name", field.Of("Ada"))
		return render.RenderHTML(p.Merge(v, nil, field.NewReader("en")).Body, v.Get("person.city").Text)
	}
	want := lettertest.Shape(t, merge("Leeds"))
	for _, value := range []string{
		"<script>alert(1)</script>", `"><img src=x onerror=y>`, "javascript:alert(1)", "JAVA\tSCRIPT:x", "data:text/html,x", "' onclick='x", "</title><b>", "{{person.first_name}}",
		"\u202egnp.exe", "a\u2066b\u2069", "a\x00b", strings.Repeat("<", 1<<20), "]]>", "<!--", "-->", "<![endif]-->",
	} {
		got := merge(value)
		if lettertest.Shape(t, got) != want {
			t.Errorf("%.40q changed the page", value)
		}
		lettertest.CheckAddresses(t, value, got)
		if strings.ContainsAny(got, "\u202a\u202e\u2066\u2069") {
			t.Errorf("%q turns the words around it", value)
		}
		if strings.Contains(got, "Ada") {
			t.Errorf("%q was merged twice", value)
		}
	}
}

// The short ways against the long one: a letter that went through its stored form
// has nothing prerendered and is written the same.
func TestRender_sameWithoutStills(t *testing.T) {
	cat := lettertest.Catalogue()
	values, reader := lettertest.Ada(t, cat), field.NewReader("en-GB")
	bodies := []document.Document{lettertest.Markup(t, lettertest.Everything)}
	for seed := range uint64(1500) {
		bodies = append(bodies, markup.Canonical(lettertest.Trees{R: rand.New(rand.NewPCG(seed, 9))}.Document()))
	}
	quick := 0
	for i, body := range bodies {
		p, _ := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
		l := p.Merge(values, nil, reader)
		back, err := document.ParseJSON([]byte(lettertest.JSONOf(t, l.Body)))
		if err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if a, b := render.RenderHTML(l.Body, "t"), render.RenderHTML(back, "t"); a != b {
			t.Fatalf("%d: HTML\n%s\n%s\n%s", i, a, b, lettertest.JSONOf(t, l.Body))
		}
		if a, b := render.RenderText(l.Body), render.RenderText(back); a != b {
			t.Fatalf("%d: text\n%q\n%q\n%s", i, a, b, lettertest.JSONOf(t, l.Body))
		}
		if a, b := fmt.Sprint(document.Gaps(l.Subject, l.Body)), fmt.Sprint(document.Gaps(l.Subject, back)); a != b {
			t.Fatalf("%d: gaps\n%s\n%s", i, a, b)
		}
		quick += p.Segmented
	}
	if quick < 100 {
		t.Errorf("only %d blocks went the short way", quick)
	}
}
