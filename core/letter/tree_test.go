package letter

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"lucidletter/core/field"
)

var update = flag.Bool("update", false, "write the golden files anew")

func compileMarkup(t testing.TB, cat *field.Catalogue, src string) *Program {
	t.Helper()
	p, notes := Compile(Template{Subject: Parse("For {{person.first_name}}"), Body: markup(t, src)}, cat)
	if Stopping(notes) {
		t.Fatalf("%s: %v", src, notes)
	}
	return p
}

// looked is a merged letter without what every sheet has: its words as text.
func TestMerge_formatted(t *testing.T) {
	cat := catalogue()
	values, reader := ada(t, cat), field.NewReader("en-GB")
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
		l := compileMarkup(t, cat, strings.ReplaceAll(row.in, "{{person.own.x|}}", "")).Merge(values, nil, reader)
		if got := RenderText(l.Body); got != row.want {
			t.Errorf("%s: got\n%s\nwant\n%s", row.name, got, row.want)
		}
		if err := CheckLetterForm(l.Body); err != nil && row.name != "gap" {
			t.Errorf("%s: %v", row.name, err)
		}
	}
}

func TestMerge_addresses(t *testing.T) {
	cat := catalogue()
	values := ada(t, cat)
	values.Set("team.website", field.Value{Type: field.URL, Text: "fernhollow.example/a b"})
	values.Set("company.website", field.Value{Type: field.URL, Text: "javascript:alert(1)"})
	values.Set("person.email", field.Value{Type: field.Email, Text: "ada@quill.example"})
	values.Set("person.phone", field.Value{Type: field.Phone, Text: "+44 1632 960000"})
	for _, row := range []struct{ in, want string }{
		{"https://x.example/", "https://x.example/"},
		{"{{team.website}}", "fernhollow.example/a%20b"},
		{"{{company.website}}", "#"},
		{"{{person.email}}", "mailto:ada@quill.example"},
		{"mailto:{{person.email}}?subject={{company.name}}", "mailto:ada@quill.example?subject=Quill%20%26%20Daughters"},
		{"{{person.phone}}", "tel:+441632960000"},
		{"https://x.example/{{company.name}}#{{person.last_name}}", "https://x.example/Quill%20%26%20Daughters#Quill"},
		{"https://x.example/{{#person.city}}city{{/person.city}}{{^person.city}}none{{/person.city}}", "https://x.example/none"},
		{"https://{{person.city|}}", ""},
		{"https://x.example/?c={{person.city|no where}}", "https://x.example/?c=no%20where"},
		{"https://x.example/?c={{person.city}}&l={{person.last_name}}", "https://x.example/?c={{person.city}}&l=Quill"},
	} {
		p := compileMarkup(t, cat, `<p><a href="`+strings.ReplaceAll(row.in, "&", "&amp;")+`">x</a></p>`)
		l := p.Merge(values, nil, field.NewReader("en-GB"))
		got := ""
		if a := linkOf(&l.Body.Content[0].Content[0]); a != nil {
			got = a.Href
		}
		if got != row.want {
			t.Errorf("%s: %q, want %q", row.in, got, row.want)
		}
	}
	// A gap in an address is filled safely for its place.
	p := compileMarkup(t, cat, `<p><a href="https://x.example/?c={{person.city}}">a <b>b</b></a></p><button href="https://x.example/{{person.city}}">c</button>`)
	l := p.Merge(values, nil, field.NewReader("en"))
	if len(l.Gaps) != 1 || l.Gaps[0].Path != "person.city" || l.Gaps[0].Count != 2 {
		t.Errorf("gaps %+v", l.Gaps)
	}
	filled := Fill(l.Body, "person.city", "a/b&c")
	if got := RenderText(filled); got != "a b (https://x.example/?c=a%2Fb%26c)\n\nc (https://x.example/a/b%26c)" || len(Gaps(Document{}, filled)) != 0 {
		t.Errorf("filled: %s", got)
	}
	if len(Gaps(Document{}, l.Body)) != 1 {
		t.Error("Fill changed its input")
	}
}

func TestFill_formatted(t *testing.T) {
	cat := catalogue()
	l := compileMarkup(t, cat, `<ul><li><p>in <b>{{person.city}}</b></p></li></ul><p>{{person.city}}, {{person.first_name}}</p>`).Merge(ada(t, cat), nil, field.NewReader("en"))
	if len(l.Gaps) != 1 || l.Gaps[0].Count != 2 || l.Gaps[0].Line != 1 {
		t.Fatalf("gaps %+v", l.Gaps)
	}
	filled := Fill(l.Body, "person.city", "Leeds\nYork")
	if got := RenderText(filled); got != "- in Leeds\n  York\n\nLeeds\nYork, Ada" {
		t.Errorf("filled %q", got)
	}
	if got := string(AppendHTML(nil, filled, "")); !strings.Contains(got, "in <strong>Leeds<br>York</strong>") {
		t.Errorf("the marks were lost: %s", got)
	}
	if paths := MergedPaths(filled); paths["person.city"] != "York" || paths["person.first_name"] != "Ada" {
		t.Errorf("merged %v", paths)
	}
	corrected := Correct(filled, "person.first_name", "Adele")
	if got := RenderText(corrected); !strings.HasSuffix(got, "Adele") || strings.HasSuffix(RenderText(filled), "Adele") {
		t.Errorf("corrected %q", got)
	}
}

func TestCompile_formattedNotes(t *testing.T) {
	cat := catalogue()
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
		_, notes := Compile(Template{Subject: Parse("s"), Body: markup(t, row.in)}, cat)
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

// everything holds every block and mark once.
const everything = `<h1>A cold room for {{company.name}}</h1>
<p>Dear {{person.first_name}},</p>
<p>this is <b>bold</b>, <i>italic</i>, <u>underlined</u>, <s>struck</s>, <mark>marked</mark>, <span color="#9c3b2c" font="Georgia" size="20">large</span>,<br>and <a href="https://fernhollow.example/?for={{person.last_name}}">a <b>link</b></a>.</p>
<ul><li><p>three degrees</p></li><li><p>quiet</p><ol start="2"><li><p>very</p></li></ol></li></ul>
<blockquote><p>It holds. – {{person.first_name}}</p></blockquote>
<img src="https://fernhollow.example/room.png" alt="A room" width="300" align="center" href="https://fernhollow.example">
<button href="https://fernhollow.example/book" align="center" color="#f0d060">Book a visit</button>
<table><tr><th><p>What</p></th><th align="right"><p>Amount</p></th></tr><tr><td><p>Room</p></td><td align="right"><p>{{deal.amount}}</p></td></tr></table>
<columns><column width="60"><p>left</p></column><column><h3>right</h3></column></columns>
<hr><spacer height="24">
{{fixed}}<p align="right">Fixed words</p>{{/fixed}}
<p></p>
<p>{{sender.signature}}</p>`

func TestRenderHTML_golden(t *testing.T) {
	cat := catalogue()
	body := markup(t, everything)
	body.Attrs.Font, body.Attrs.Background = "Georgia", "#f7f4ec"
	p, notes := Compile(Template{Subject: Parse("Room & more"), Body: body}, cat)
	if len(notes) > 0 {
		t.Fatal(notes)
	}
	values, reader := ada(t, cat), field.NewReader("de-DE")
	l := p.Merge(values, nil, reader)
	page := RenderHTML(l.Body, RenderText(l.Subject))
	for name, got := range map[string]string{"testdata/everything.html": page, "testdata/everything.txt": RenderText(l.Body) + "\n"} {
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
	short, _ := p.AppendBody(nil, values, nil, reader, AsHTML)
	if string(short) != page {
		t.Error("AppendBody gives another page")
	}
	// What the page says is what the text part says, but for how it is laid out.
	words := func(s string) string {
		return strings.Join(strings.Fields(strings.NewReplacer("-", " ", ">", " ", "1.", " ", "2.", " ").Replace(s)), " ")
	}
	if a, b := words(PageText(page)), words(RenderText(l.Body)); a != b {
		t.Errorf("the page says\n%s\nthe text\n%s", a, b)
	}
}

// Values in a formatted letter are words: whatever they hold, the page keeps its
// elements and addresses.
func TestRenderHTML_hostileValues(t *testing.T) {
	cat := catalogue()
	const page = `<h1>{{person.city}}</h1><p title-less><a href="https://x.example/{{person.city}}?q={{person.city}}">{{person.city}}</a> <b>{{person.city}}</b></p>` +
		`<img src="https://x.example/{{person.city}}" alt="a"><button href="{{person.city}}">{{person.city}}</button>`
	p := compileMarkup(t, cat, strings.Replace(page, " title-less", "", 1))
	merge := func(value string) string {
		v := cat.NewValues()
		v.Kind = field.Lead
		v.Set("person.city", field.Value{Type: field.Text, Text: value})
		v.Set("person.first_name", field.Of("Ada"))
		return RenderHTML(p.Merge(v, nil, field.NewReader("en")).Body, v.Get("person.city").Text)
	}
	want := shape(t, merge("Leeds"))
	for _, value := range []string{
		"<script>alert(1)</script>", `"><img src=x onerror=y>`, "javascript:alert(1)", "JAVA\tSCRIPT:x", "data:text/html,x", "' onclick='x", "</title><b>", "{{person.first_name}}",
		"\u202egnp.exe", "a\u2066b\u2069", "a\x00b", strings.Repeat("<", 1<<20), "]]>", "<!--", "-->", "<![endif]-->",
	} {
		got := merge(value)
		if shape(t, got) != want {
			t.Errorf("%.40q changed the page", value)
		}
		checkAddresses(t, value, got)
		if strings.ContainsAny(got, "\u202a\u202e\u2066\u2069") {
			t.Errorf("%q turns the words around it", value)
		}
		if strings.Contains(got, "Ada") {
			t.Errorf("%q was merged twice", value)
		}
	}
}

// Words on a colour: WCAG 2.2, definition of "contrast ratio".
func TestWordsOn(t *testing.T) {
	for color, want := range map[string]string{"#ffffff": "#000000", "#000000": "#ffffff", "#1f4d3a": "#ffffff", "#f0d060": "#000000", "#777777": "#000000", "#757575": "#ffffff", "no": "#000000"} {
		if got := wordsOn(color); got != want {
			t.Errorf("on %s: %s, want %s", color, got, want)
		}
	}
	if l := luminance("#ffffff"); l < 0.9999 || l > 1.0001 {
		t.Errorf("white has the luminance %f", l)
	}
}

// The short ways against the long one: a letter that went through its stored form
// has nothing prerendered and is written the same.
func TestRender_sameWithoutStills(t *testing.T) {
	cat := catalogue()
	values, reader := ada(t, cat), field.NewReader("en-GB")
	bodies := []Document{markup(t, everything)}
	for seed := range uint64(1500) {
		bodies = append(bodies, Canonical(trees{rand.New(rand.NewPCG(seed, 9))}.document()))
	}
	quick := 0
	for i, body := range bodies {
		p, _ := Compile(Template{Subject: Parse("s"), Body: body}, cat)
		l := p.Merge(values, nil, reader)
		back, err := ParseJSON([]byte(jsonOf(t, l.Body)))
		if err != nil {
			t.Fatalf("%d: %v", i, err)
		}
		if a, b := RenderHTML(l.Body, "t"), RenderHTML(back, "t"); a != b {
			t.Fatalf("%d: HTML\n%s\n%s\n%s", i, a, b, jsonOf(t, l.Body))
		}
		if a, b := RenderText(l.Body), RenderText(back); a != b {
			t.Fatalf("%d: text\n%q\n%q\n%s", i, a, b, jsonOf(t, l.Body))
		}
		if a, b := fmt.Sprint(Gaps(l.Subject, l.Body)), fmt.Sprint(Gaps(l.Subject, back)); a != b {
			t.Fatalf("%d: gaps\n%s\n%s", i, a, b)
		}
		quick += p.segmented
	}
	if quick < 100 {
		t.Errorf("only %d blocks went the short way", quick)
	}
}

func TestCheckLetter_addresses(t *testing.T) {
	for src, want := range map[string]string{
		`<p><a href="https://x.example">a</a> <a href="mailto:a@x.example">b</a> <a href="tel:+31201234567">c</a></p>`: "",
		`<p><a href="https://">a</a></p>`:                       "leads nowhere yet",
		`<p><a href="mailto:">a</a></p>`:                        "behind mailto:",
		`<p><a href="x.example/a">a</a></p>`:                    "is not a whole address",
		`<p>a</p><button href="https://">a</button>`:            "leads nowhere yet",
		`<p>a</p><img src="https://" alt="a">`:                  "leads nowhere yet",
		`<p>a</p><img src="https://x.example/a.png" href="/a">`: "is not a whole address",
	} {
		notes := CheckLetter(Parse("s"), markup(t, src))
		if want == "" && len(notes) > 0 || want != "" && (len(notes) != 1 || notes[0].Code != "address" || !strings.Contains(notes[0].Message, want)) {
			t.Errorf("%s: %v", src, notes)
		}
	}
}
