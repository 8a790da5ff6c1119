package interchange_test

import (
	"os"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/interchange"
	"lucidletter/core/markup"
	"lucidletter/core/render"
)

// What Markdown can hold comes back from it the same.
func TestMarkdown_roundTrips(t *testing.T) {
	for _, src := range []string{
		"<p>Dear {{person.first_name|there}}, <b>bold</b> and <i>slanted</i> and <s>gone</s>.</p>",
		"<p>one<br>two</p><h1>Head {{company.name}}</h1><h3>Third</h3>",
		`<p>See <a href="https://x.example/{{person.city}}?a=1&amp;b=2">this <b>page</b></a> now</p>`,
		`<ul><li><p>one</p></li><li><p>two</p><ul><li><p>inner</p></li></ul></li></ul>`,
		`<ol start="3"><li><p>three</p></li><li><p>four</p></li></ol>`,
		"<blockquote><p>said</p><p>more</p></blockquote><hr><p>end</p>",
		`<img src="https://x.example/a.png" alt="A [cold] room"><img src="https://x.example/b.png" alt="B" href="https://x.example">`,
		`<button href="{{sender.booking_link}}">Choose a time</button>`,
		"{{#deal.amount >= 10000 EUR}}<p>Your quote of {{deal.amount}}</p>{{/deal.amount}}{{fixed}}<p>Terms</p>{{/fixed}}",
		"<p>{{#person.city}}In {{person.city}}{{/person.city}} {{?why: text optional \"Why? *really*\"}}</p>",
		"<table><tr><th><p>Room</p></th><th><p>Price</p></th></tr><tr><td><p>Small</p></td><td><p>{{deal.amount}}</p></td></tr></table>",
		`<p>5 * 3 _ 2 [x] &lt;b&gt; # ~ | \{{no}} a\b &amp;amp;</p>`,
		"<p>1. no list</p><p># no heading</p><p>- no list</p><p>{{>hello}}</p>",
	} {
		d, err := markup.ParseMarkup(src)
		if err != nil {
			t.Fatalf("%s: %v", src, err)
		}
		md := interchange.Markdown(d)
		got, err := interchange.FromMarkdown(md)
		if err != nil || markup.Print(got) != markup.Print(d) {
			t.Errorf("%s\nMarkdown %q\ngot  %q\nwant %q (%v)", src, md, markup.Print(got), markup.Print(d), err)
		}
	}
}

// Examples of the CommonMark specification 0.31.2 by their numbers there, and of the GFM specification 0.29 (its
// numbers from memory).
func TestFromMarkdown_specification(t *testing.T) {
	for example, row := range map[string][2]string{
		"CommonMark 62, ATX headings":          {"# foo\n## foo", "<h1>foo</h1>\n<h2>foo</h2>\n"},
		"CommonMark 219, paragraphs":           {"aaa\n\nbbb", "<p>aaa</p>\n<p>bbb</p>\n"},
		"CommonMark 228, block quotes":         {"> # Foo\n> bar\n> baz", "<blockquote>\n  <h1>Foo</h1>\n  <p>bar baz</p>\n</blockquote>\n"},
		"CommonMark 302, lists":                {"1. foo\n2. bar\n3) baz", "<ol>\n  <li>\n    <p>foo</p>\n  </li>\n  <li>\n    <p>bar</p>\n  </li>\n</ol>\n<ol start=\"3\">\n  <li>\n    <p>baz</p>\n  </li>\n</ol>\n"},
		"CommonMark 350, emphasis":             {"*foo bar*", "<p><i>foo bar</i></p>\n"},
		"CommonMark 378, strong emphasis":      {"**foo bar**", "<p><b>foo bar</b></p>\n"},
		"CommonMark 482, links":                {`[link](/uri "title")`, "<p><a href=\"/uri\">link</a></p>\n"},
		"CommonMark 594, autolinks":            {"<http://foo.bar.baz>", "<p><a href=\"http://foo.bar.baz\">http://foo.bar.baz</a></p>\n"},
		"CommonMark 633, hard line breaks":     {"foo  \nbaz", "<p>foo<br>baz</p>\n"},
		"CommonMark 43, thematic breaks":       {"***", "<hr>\n"},
		"GFM 198, tables":                      {"| foo | bar |\n| --- | --- |\n| baz | bim |", "<table>\n  <tr>\n    <th>\n      <p>foo</p>\n    </th>\n    <th>\n      <p>bar</p>\n    </th>\n  </tr>\n  <tr>\n    <td>\n      <p>baz</p>\n    </td>\n    <td>\n      <p>bim</p>\n    </td>\n  </tr>\n</table>\n"},
		"GFM 491, strikethrough":               {"~~Hi~~ Hello, ~there~ world!", "<p><s>Hi</s> Hello, <s>there</s> world!</p>\n"},
		"CommonMark 613, raw HTML, as words":   {"<a><bab><c2c>", "<p>&lt;a&gt;&lt;bab&gt;&lt;c2c&gt;</p>\n"},
		"CommonMark 119, code, as words":       {"```\n<\n >\n```", "<p>&lt;<br> &gt;</p>\n"},
		"CommonMark 12, backslashes":           {"\\!\\\"\\#\\$", "<p>!&#34;#$</p>\n"},
		"nothing at all (not of the examples)": {"", "<p></p>\n"},
	} {
		d, err := interchange.FromMarkdown(row[0])
		if got := markup.Print(d); err != nil || got != row[1] {
			t.Errorf("%s: %q, want %q (%v)", example, got, row[1], err)
		}
	}
	if _, err := interchange.FromMarkdown(strings.Repeat("x", document.MaxBody+1)); err == nil {
		t.Error("a file that is too large was read")
	}
	if _, err := interchange.FromMarkdown(strings.Repeat("> ", 4000) + "x"); err == nil || !strings.Contains(err.Error(), "deep") {
		t.Errorf("quotes in quotes: %v", err)
	}
}

func TestExportHTML(t *testing.T) {
	d, err := markup.ParseMarkup(`<p>Dear {{person.first_name|"you" & me}}, \{{no}}, <a href="https://x.example/{{person.city}}">go</a></p>{{#deal.amount}}<p>x</p>{{/deal.amount}}`)
	if err != nil {
		t.Fatal(err)
	}
	page := interchange.ExportHTML(d, "Title")
	for _, want := range []string{`Dear {{person.first_name|\"you\" & me}}, \{{no}}, <a`, `href="https://x.example/{{person.city}}"`, `{{#deal.amount}}`, `<title>Title</title>`} {
		if !strings.Contains(page, want) {
			t.Errorf("no %s in %s", want, page)
		}
	}
	back, removed, err := interchange.ImportHTML(page)
	if err != nil || len(removed) != 0 || render.Words(back) != "Dear …, {{no}}, go (https://x.example/…)\n\nx" {
		t.Errorf("%q, %v, %v", render.Words(back), removed, err)
	}
	if got := interchange.ExportHTML(markup.ParseHTML("<p>{{person.city}}"), ""); got != "<p>{{person.city}}" {
		t.Error(got)
	}
}

func FuzzFromMarkdown(f *testing.F) {
	if src, err := os.ReadFile("testdata/everything.html"); err == nil {
		f.Add(string(src))
	}
	f.Add("# {{person.city}}\n\n{{#deal.amount}}\n\n- a\n  - b\n\n{{/deal.amount}}\n\n[x](<y> \"button\")")
	f.Fuzz(func(t *testing.T, src string) {
		d, err := interchange.FromMarkdown(src)
		if err != nil {
			return
		}
		if err := d.Check(); err != nil {
			t.Fatalf("%q: %v", src, err)
		}
		if again, err := markup.ParseMarkup(markup.Print(d)); err != nil || markup.Print(again) != markup.Print(d) {
			t.Fatalf("%q: %q does not come back: %v", src, markup.Print(d), err)
		}
	})
}
