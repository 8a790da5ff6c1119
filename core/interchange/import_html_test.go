package interchange_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/letter"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/safehtml"
	"lucidletter/core/template"
)

// layouts are pages as designers make them, written for this test: tables, style
// sheets, rules for phones, conditional comments.
func layout(t testing.TB, name string) (document.Document, []interchange.Removed) {
	t.Helper()
	src, err := os.ReadFile(filepath.Join("testdata", "layouts", name))
	if err != nil {
		t.Fatal(err)
	}
	d, removed, err := interchange.ImportHTML(string(src))
	if err != nil {
		t.Fatal(err)
	}
	return d, removed
}

func layoutCatalogue() *field.Catalogue {
	return field.New([]field.Def{
		{Path: "deal.own.volume", Record: field.Deal, Label: "Cold-room volume", Type: field.Number},
		{Path: "team.own.next_event", Record: field.Team, Label: "Next event", Type: field.Text},
		{Path: "team.own.next_event_date", Record: field.Team, Label: "Date of the event", Type: field.Date},
		{Path: "company.own.present_cooling", Record: field.Company, Label: "Present cooling", Type: field.Text},
	})
}

func TestImportHTML_layouts(t *testing.T) {
	cat := layoutCatalogue()
	for _, row := range []struct {
		name    string
		keeps   []string // stands in the page
		loses   []string
		removed []string
		says    string // part of the text
	}{
		{"workshop.html", []string{
			`<td class="head" style="background-color:#1f4d3a;color:#ffffff;`, "@media only screen and (max-width:620px)", ".half", "display:block!important",
			"<!--[if gte mso 9]><xml><o:OfficeDocumentSettings><o:AllowPNG/>", "<v:roundrect", "<!--[if !mso]><!-->", "<!--<![endif]-->", ":hover",
			"<!DOCTYPE html PUBLIC", `{{#deal.amount}}`, `href="{{sender.booking_link}}?for={{person.email}}"`, "{{person.first_name|neighbour}}", "mso-table-lspace:0pt",
		}, []string{"http-equiv"}, nil, "Dear Ada,\n\non one of the next Fridays our doors are open.\n\nMorning\n\nHow three degrees"},
		{"offer.html", []string{
			"@media (max-width:480px)", "prefers-color-scheme:dark", `bgcolor="#f7f4ec"`, `alt="A cold room of {{deal.own.volume}} cubic metres"`, `class="photo"`,
			`href="mailto:{{sender.email}}?subject=About%20{{deal.name}}"`, "max-width:640px",
		}, []string{"<script", "<form", "<iframe", "<input", "document.write", "x.example"},
			[]string{"<form>", "<iframe>", "<input>", "<script>", "action of <form>"}, "Cold room  1,234.5 m³\nDelivery   02/03/2026\nTogether   €12,500.00"},
		{"season.html", []string{
			"display:inline-block", "@media screen and (min-width:600px)", "position:relative", "url(&#39;https://fernhollow.example/pictures/ice.jpg&#39;)", `<td width="300">`,
		}, []string{"more.css", "site.css", "own.woff2", "position:fixed", "onmouseover", "@import", "@font-face"},
			[]string{"<link>", "@font-face", "@import", "onmouseover of <p>", "the style position", "the style top"}, "Ada, is the room ready?\n\n- Door seals\n- Fan\n- The old unit\n\nWe look after"},
	} {
		d, removed := layout(t, row.name)
		page := markup.Print(d)
		for _, k := range row.keeps {
			if !strings.Contains(page, k) {
				t.Errorf("%s lost %q:\n%s", row.name, k, page)
			}
		}
		for _, l := range row.loses {
			if strings.Contains(page, l) {
				t.Errorf("%s still has %q", row.name, l)
			}
		}
		for _, what := range row.removed {
			if !slices.ContainsFunc(removed, func(r interchange.Removed) bool { return r.What == what }) {
				t.Errorf("%s: the removal of %s is not listed: %v", row.name, what, removed)
			}
		}
		p, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: d}, cat)
		if document.Stopping(notes) {
			t.Errorf("%s: %v", row.name, notes)
		}
		v := lettertest.Ada(t, cat)
		for path, s := range map[string]string{"person.full_name": "Ada Quill", "person.email": "ada@quill.example", "sender.email": "imre@fernhollow.example", "deal.name": "A room",
			"sender.booking_link": "https://fernhollow.example/book/imre", "team.postal_address": "Fernhollow\n7 Ice House Lane"} {
			ref, _ := cat.Find(path)
			v.Set(path, field.Value{Type: ref.Def.Type, Text: s})
		}
		l := p.Merge(v, nil, field.NewReader("en-GB"))
		if len(l.Gaps) > 0 {
			t.Errorf("%s: gaps %v", row.name, l.Gaps)
		}
		if text := render.RenderText(l.Body); !strings.Contains(text, row.says) {
			t.Errorf("%s says\n%s\nwithout\n%s", row.name, text, row.says)
		}
		sent := render.RenderHTML(l.Body, "")
		checkPage(t, row.name, sent)
		if again := safehtml.Sanitize(sent); again != sent {
			t.Errorf("%s: made safe twice it is another page", row.name)
		}
		short, gaps := p.AppendBody(nil, v, nil, field.NewReader("en-GB"), safehtml.AsHTML)
		if safehtml.Sanitize(string(short)) != sent || gaps != 0 {
			t.Errorf("%s: AppendBody gives another page:\n%s\n%s", row.name, short, sent)
		}
		again, removedAgain, err := interchange.ImportHTML(page)
		if err != nil || len(removedAgain) > 0 || markup.Print(again) != page && !strings.Contains(page, "<style") {
			t.Errorf("%s: imported again: %v, %v", row.name, removedAgain, err)
		}
	}
}

// A page of the address shows the lines of a long value.
func TestMerge_pageLinesAndTidying(t *testing.T) {
	cat := lettertest.Catalogue()
	v := lettertest.Ada(t, cat)
	for _, row := range []struct{ in, want string }{
		{"<p>{{sender.signature}}</p>", "<p>Imre<br>Fernhollow</p>"},
		{`<p title="{{sender.signature}}">`, `<p title="Imre Fernhollow">`},
		{"<p>Dear <b>{{person.honorific|}}</b>, hello</p>", "<p>Dear<b></b>, hello</p>"},
		{"<td>Dear {{person.honorific|}} {{person.last_name}},</td>", "<td>Dear Quill,</td>"},
		{"<td>City: {{person.city|}}</td><td>x</td>", "<td></td><td>x</td>"},
		{`<p title="{{person.city|}}" class="a">({{person.city|}}) b</p>`, `<p title="" class="a">b</p>`},
		{"<p>a</p>\n<p>{{person.city|}}</p>\n<p>b</p>", "<p>a</p>\n<p></p>\n<p>b</p>"},
		{"<!--[if mso]><td>{{person.first_name}}</td><![endif]-->{{person.first_name}}<!--[if !mso]><!--><b>{{person.first_name}}</b><!--<![endif]-->", "<!--[if mso]><td>Ada</td><![endif]-->Ada<!--[if !mso]><!--><b>Ada</b><!--<![endif]-->"},
	} {
		p, notes := template.Compile(template.Template{Body: markup.ParseHTML(row.in)}, cat)
		if document.Stopping(notes) {
			t.Errorf("%s: %v", row.in, notes)
		}
		short, _ := p.AppendBody(nil, v, nil, field.NewReader("en"), safehtml.AsHTML)
		if long := render.PageSource(p.Merge(v, nil, field.NewReader("en")).Body); long != row.want || string(short) != row.want {
			t.Errorf("%s:\n got %s\n and %s\nwant %s", row.in, long, short, row.want)
		}
	}
	// A gap is filled safely for its place.
	p, _ := template.Compile(template.Template{Body: markup.ParseHTML(`<a href="https://x.example/?c={{person.city}}" title="{{person.city}}">{{person.city}}</a>`)}, cat)
	filled := letter.Fill(p.Merge(v, nil, field.NewReader("en")).Body, "person.city", "<a>\n&")
	if got, want := render.PageSource(filled), `<a href="https://x.example/?c=%3Ca%3E%20%26" title="&lt;a&gt; &amp;">&lt;a&gt;<br>&amp;</a>`; got != want {
		t.Errorf("filled\n%s\nwant\n%s", got, want)
	}
}

func TestCompile_pageNotes(t *testing.T) {
	cat := lettertest.Catalogue()
	for _, row := range []struct{ in, want string }{
		{"<p>\n[First name]</p>", "2:1 leftover advises"},
		{`<img src="pictures/a.png">`, "1:11 relative advises"},
		{"<p>a</p>\n<p>{{person.cty}}</p>", "2:4 unknown stops"},
		{"<style>\np{color:{{person.city}}}</style>", "2:9 unsafe stops"},
		{"<p>{{person.company_name}}</p>", "1:4 unknown stops"},
	} {
		_, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.ParseHTML(row.in)}, cat)
		if len(notes) != 1 || fmt.Sprintf("%d:%d %s %s", notes[0].Line, notes[0].Column, notes[0].Code, notes[0].Severity) != row.want {
			t.Errorf("%s: %v %+v, want %s", row.in, notes, notes, row.want)
		}
	}
	for _, in := range []string{"<title>{{team.name}}</title><p>fine", `<address>x</address><link>`, `<img src="cid:a@b"><img src="{{team.website}}"><img src="https://x.example/a">`} {
		if _, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: markup.ParseHTML(in)}, cat); len(notes) > 0 {
			t.Errorf("%s: %v", in, notes)
		}
	}
}

func TestImportHTML_limits(t *testing.T) {
	if _, _, err := interchange.ImportHTML(strings.Repeat("a", document.MaxBody+1)); err == nil {
		t.Error("a page over the limit was taken")
	}
	if _, _, err := interchange.ImportHTML(strings.Repeat("a", document.MaxBody)); err != nil {
		t.Error("a page at the limit was refused:", err)
	}
	if _, _, err := interchange.ImportHTML("<style>p{color:red}</style>" + strings.Repeat("<div>", 5000)); err == nil {
		t.Error("a page nested 5,000 deep was taken")
	}
	d, removed, err := interchange.ImportHTML("<p {{#person.city}}class=\"a\"{{/person.city}}>LLMARK0LL {{person.city}}</p>")
	if err != nil || markup.Print(d) != "<p class=\"a\">0LL {{person.city}}</p>" && !strings.Contains(fmt.Sprint(removed), "the mark {{#person.city}}") {
		t.Errorf("%s %v %v", markup.Print(d), removed, err)
	}
}

// checkPage looks at a page as a browser reads it: nothing in it runs, loads
// something but pictures, or leads to another scheme.
func checkPage(t testing.TB, name, page string) {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		return // nested deeper than the parser goes
	}
	for n := range doc.Descendants() {
		if n.Type == html.ElementNode && slices.Contains(strings.Fields("script iframe object embed form input textarea select link base svg math applet frame frameset"), n.Data) {
			t.Errorf("%s: <%s> is in the page", name, n.Data)
		}
		for _, a := range n.Attr {
			value := strings.ToLower(strings.Join(strings.Fields(a.Val), ""))
			switch {
			case strings.HasPrefix(a.Key, "on"), a.Key == "srcdoc", a.Key == "formaction":
				t.Errorf("%s: %s is in the page", name, a.Key)
			case a.Key == "href" || a.Key == "src" || a.Key == "background":
				if m := lettertest.SchemeForm.FindStringSubmatch(value); m != nil && !slices.Contains([]string{"http", "https", "mailto", "tel", "cid"}, m[1]) && !strings.HasPrefix(value, "data:image/") {
					t.Errorf("%s: %s is %q", name, a.Key, a.Val)
				}
			case a.Key == "style" && safehtml.UnsafeCSS.MatchString(value):
				t.Errorf("%s: the style %q", name, a.Val)
			}
		}
		if n.Type == html.ElementNode && n.Data == "style" && n.FirstChild != nil && safehtml.UnsafeCSS.MatchString(n.FirstChild.Data) {
			t.Errorf("%s: the sheet %q", name, n.FirstChild.Data)
		}
	}
}

// Ways in which pages were made to run something, as they are widely written
// about (common practice, no source for the list).
var hostilePages = []string{
	"<script>alert(1)</script>", "<SCRIPT SRC=//x.example></SCRIPT>", "<img src=x onerror=alert(1)>", "<svg onload=alert(1)>", "<a href=javascript:alert(1)>x</a>",
	"<a href=\"jav&#x09;ascript:alert(1)\">x</a>", "<a href=\" javascript:x\">x</a>", "<img src=\"data:text/html,<script>\">", "<body onload=alert(1)>", "<iframe srcdoc='<script>x</script>'>",
	"<p style=\"background:url(javascript:x)\">", "<p style=\"width:expression(alert(1))\">", "<p style=\"-moz-binding:url(x)\">", "<p style=\"position:fixed;top:0\">", "<p style=\"color:red;}</style><script>\">",
	"<style>@import 'x';p{background:url(\"javascript:x\")}</style>", "<style></style><script>x</script></style>", "<style><!--</style><script>x</script>--></style>", "<style>p{content:\"</style><script>x</script>\"}</style>",
	"<style>@media x{@import url(y);p{color:red", "<style>p{color:red}}}}a{b:c", "<!--[if mso]><script>x</script><![endif]-->", "<!--[if mso]><img src=x onerror=y><![endif]-->", "<!--[if mso]>--><script>x</script><![endif]-->",
	"<!--[if mso]><style>@import 'x'</style><v:rect href=\"javascript:x\"/><![endif]-->", "<!-- --!><script>x</script> -->", "<!--><script>x</script>-->", "<![if mso]><script>x</script><![endif]>", "<!DOCTYPE html [<!ENTITY x 'y'>]>",
	"<meta http-equiv=refresh content=\"0;url=javascript:x\">", "<base href=\"javascript:x//\">", "<link rel=stylesheet href=x>", "<object data=x></object>", "<embed src=x>", "<form action=x><input></form>", "<math><mi xlink:href=\"javascript:x\">",
	"<table background=\"javascript:x\">", "<td background='//x'>", "<noscript><p title=\"</noscript><img src=x onerror=y>\">", "<textarea></textarea><script>x</script>", "<title></title><script>x</script></title>", "<xmp><script>x</script></xmp>",
	"<p title='LLKEPT0' class=\"<!--LLKEPT0-->\">", "<!--LLKEPT0--><!--LLMARK7-->", "{{person.city}}<p title=\"{{person.city}}\">", "<a href=\"{{team.website}}\">", "<p <script>x</script>>", "<<script>x</script>", "<scr<script>ipt>x</scr</script>ipt>", "\x00<scr\x00ipt>",
	"<img src=\"cid:a\"><img src=\"data:image/png;base64,AAAA\"><img src=\"data:image/svg+xml;base64,AAAA\">", "<p id=\"x\" style='color:\\65xpression(x)'>", "<p style=\"color:red;/*\">*/ x", "&lt;script&gt;", "<a href=\"&#1;javascript:x\">",
}

func TestImportHTML_hostile(t *testing.T) {
	for _, page := range hostilePages {
		d, _, err := interchange.ImportHTML(page)
		if err != nil {
			continue
		}
		checkPage(t, page, markup.Print(d))
		checkPage(t, page, safehtml.Sanitize(page))
	}
}

// The properties: nothing in an imported page runs, and making it safe once more
// changes nothing.
func FuzzImportHTML(f *testing.F) {
	for _, page := range hostilePages {
		f.Add(page)
	}
	f.Fuzz(func(t *testing.T, page string) {
		safe := safehtml.Sanitize(page)
		checkPage(t, page, safe)
		if again := safehtml.Sanitize(safe); again != safe {
			t.Fatalf("%q became %q, then %q", page, safe, again)
		}
		if d, _, err := interchange.ImportHTML(page); err == nil {
			checkPage(t, page, markup.Print(d))
		}
	})
}
