package letter

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"golang.org/x/net/html"

	"lucidletter/core/field"
)

func mergeHTML(t testing.TB, source, value string) (string, []Note) {
	t.Helper()
	cat := catalogue()
	p, notes := Compile(Template{Body: ParseHTML(source)}, cat)
	v := cat.NewValues()
	v.Kind = field.Lead
	v.Set("person.city", field.Value{Type: field.Text, Text: value})
	out, _ := p.AppendBody(nil, v, nil, field.NewReader("en"), AsHTML)
	return string(out), notes
}

// Contexts of the HTML standard, sections 13.1.2 (elements, attributes) and
// 13.1.2.3; addresses by RFC 3986.
func TestCompile_htmlPlaces(t *testing.T) {
	const x = "{{person.city}}"
	for _, row := range []struct{ in, value, want string }{
		{"<p>" + x + "</p>", "a<b>&\"'", "<p>a&lt;b&gt;&amp;&#34;&#39;</p>"},
		{`<p title="` + x + `">`, `" onclick="x`, `<p title="&#34; onclick=&#34;x">`},
		{`<p title='` + x + `'>`, `' x`, `<p title='&#39; x'>`},
		{`<title>` + x + `</title>`, `</title><script>`, `<title>&lt;/title&gt;&lt;script&gt;</title>`},
		{`<a href="` + x + `">`, "https://x.example/a b?c=d&e", `<a href="https://x.example/a%20b?c=d&amp;e">`},
		{`<a href="` + x + `">`, "x.example/a", `<a href="x.example/a">`},
		{`<a href="` + x + `">`, "mailto:ada@quill.example", `<a href="mailto:ada@quill.example">`},
		{`<a href="https://x.example/` + x + `/">`, "a/b?c#d e", `<a href="https://x.example/a/b%3Fc%23d%20e/">`},
		{`<a href="https://x.example/?q=` + x + `&r=1">`, "a&b=c/d", `<a href="https://x.example/?q=a%26b%3Dc%2Fd&r=1">`},
		{`<a href="` + x + `/` + x + `">`, "javascript:x", `<a href="#/javascript:x">`},
		{`<a href="{{person.honorific|https://y.example/é}}">`, "", `<a href="https://y.example/%C3%A9">`},
		{"<!-- a > b --><p>" + x, "<", "<!-- a > b --><p>&lt;"},
		{"<p {{#person.city}}class=\"a\"{{/person.city}}>" + x, "<", "<p class=\"a\">&lt;"},
		{"a < b and " + x, "<i>", "a < b and &lt;i&gt;"},
		{"<p>\n{{#person.city}}\n<b>" + x + "</b>\n{{/person.city}}\n</p>", "&", "<p>\n<b>&amp;</b>\n</p>"},
	} {
		got, notes := mergeHTML(t, row.in, row.value)
		if got != row.want || Stopping(notes) {
			t.Errorf("%s with %q:\n got %s\nwant %s (%v)", row.in, row.value, got, row.want, notes)
		}
	}
	// javascript: in every spelling becomes harmless at the start of an address.
	for _, value := range []string{
		"javascript:alert(1)", "JaVaScRiPt:alert(1)", " javascript:alert(1)", "java\tscript:alert(1)", "java\nscript:alert(1)", "javascript\u00a0:x", "data:text/html,x",
		"vbscript:x", "\x01javascript:x", "&#106;avascript:x", "java&#115;cript:x", "file:///etc/passwd", "https&colon;//x",
	} {
		got, _ := mergeHTML(t, `<a href="`+x+`">`, value)
		checkAddresses(t, value, got)
	}
	for _, in := range []string{
		"<script>" + x + "</script>", "<style>" + x + "</style>", "<!-- " + x + " -->", "<" + x + ">", "<p " + x + ">", "<p title=" + x + ">",
		`<p onclick="` + x + `">`, `<p style="` + x + `">`, `<iframe srcdoc="` + x + `">`, `<img srcset="` + x + `">`, "<p {{#person.city}}title=\"{{/person.city}}\">",
		"<p>{{#person.city}}<b title='{{/person.city}}",
	} {
		got, notes := mergeHTML(t, in, "VALUE")
		if !Stopping(notes) {
			t.Errorf("%s was taken: %s", in, got)
		}
		if strings.Contains(in, x) && strings.Contains(got, "VALUE") {
			t.Errorf("%s: the value was written: %s", in, got)
		}
	}
}

var schemeForm = regexp.MustCompile(`^([A-Za-z][A-Za-z0-9+.-]*):`)

func checkAddresses(t testing.TB, value, page string) {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		t.Fatal(err)
	}
	for n := range doc.Descendants() {
		for _, a := range n.Attr {
			if a.Key != "href" {
				continue
			}
			// The scheme as browsers read it: URL Standard, section 4.4 "URL
			// parsing": leading controls and spaces, and all tabs and line
			// breaks, do not count.
			seen := strings.NewReplacer("\t", "", "\n", "", "\r", "").Replace(a.Val)
			m := schemeForm.FindStringSubmatch(strings.TrimLeftFunc(seen, func(r rune) bool { return r <= ' ' }))
			if m != nil && !slices.Contains([]string{"http", "https", "mailto", "tel"}, strings.ToLower(m[1])) {
				t.Errorf("%q became the address %q", value, a.Val)
			}
		}
	}
}

// shape is a page's elements and names of attributes, without their texts.
func shape(t testing.TB, page string) string {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(page))
	if err != nil {
		t.Fatal(err)
	}
	var b strings.Builder
	for n := range doc.Descendants() {
		if n.Type != html.TextNode {
			fmt.Fprintf(&b, "%d %s", n.Type, n.Data)
			for _, a := range n.Attr {
				b.WriteString(" " + a.Key)
			}
			b.WriteString("\n")
		}
	}
	return b.String()
}

// The property: whatever a value holds, the page keeps its elements and
// attributes, and no address gets another scheme.
func FuzzAppendBody_html(f *testing.F) {
	for _, s := range []string{"Ada", "<script>", `"><img src=x onerror=y>`, "javascript:x", "' x='", "</title>", "-->", "\x00", "{{person.city}}", "\u202e", "a&b;"} {
		f.Add(s)
	}
	const page = `<title>{{person.city}}</title><p title="{{person.city}}" lang='{{person.city|x}}'>{{person.city}}</p>` +
		`<a href="{{person.city}}">a</a><a href="https://x.example/{{person.city}}?q={{person.city}}#{{person.city}}">b</a>` +
		"\n{{#person.city}}\n<b>{{person.city|}} ({{person.city|}})</b>\n{{/person.city}}\n"
	f.Fuzz(func(t *testing.T, value string) {
		if strings.Trim(value, " \t\r\n\f\v\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u0085\u00a0") == "" {
			return // nothing is left of it
		}
		got, _ := mergeHTML(t, page, value)
		plain, _ := mergeHTML(t, page, "Ada")
		if shape(t, got) != shape(t, plain) {
			t.Fatalf("%q changed the page:\n%s", value, got)
		}
		checkAddresses(t, value, got)
	})
}

// A value in a conditional comment of office programs is words there as elsewhere: the
// comment is read once more when the page is made safe, and must not resolve its signs.
func TestMerge_conditionalComment(t *testing.T) {
	cat := field.New(nil)
	body, _, err := ImportHTML(`<p>x</p><!--[if mso]><p title="{{person.last_name}}">Dear {{person.last_name}}, <a href="https://fernhollow.example/?q={{person.last_name}}">go</a></p><![endif]--><p>y</p>`)
	if err != nil {
		t.Fatal(err)
	}
	program, notes := Compile(Template{Subject: Parse("s"), Body: body}, cat)
	if Stopping(notes) {
		t.Fatal(notes)
	}
	for _, value := range []string{`<a href="https://evil.example">Q</a>`, `O'Neil & "Sons" -->`, `--><img src=x onerror=alert(1)>`, `&lt;b&gt;`, `<![endif]--><p>`} {
		v := cat.NewValues()
		v.Kind = field.Contact
		v.Set("person.last_name", field.Of(value))
		page := RenderHTML(program.Merge(v, nil, field.NewReader("en-GB")).Body, "t")
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
