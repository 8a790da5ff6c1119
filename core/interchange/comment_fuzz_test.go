package interchange_test

import (
	"regexp"
	"strings"
	"testing"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/interchange"
	"lucidletter/core/lettertest"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/core/template"
)

var officeComment = regexp.MustCompile(`(?s)<!--\[if mso\]>(.*?)<!\[endif\]-->`)

// The property of FuzzAppendBody_html, for what stands in a conditional comment of office
// programs: whatever a value holds, what they read keeps its elements and attributes and
// no address gets another scheme; a comment that cannot hold it is left out whole. What
// other programs read keeps its elements too.
func FuzzMerge_conditionalComment(f *testing.F) {
	for _, s := range []string{"Ada", "<script>", `"><img src=x onerror=y>`, "javascript:x", "-->", "--!>", "<!--", "<![endif]-->", "<![endif]--><p>", "--", "-", ">", "&lt;b&gt;", "\x00", "{{person.city}}", "a&b;", "]>", "<![endif]--"} {
		f.Add(s)
	}
	cat := field.New(nil)
	body, _, err := interchange.ImportHTML(`<p>x</p><!--[if mso]><table><tr><td title="{{person.last_name}}">{{person.last_name}} <a href="https://fernhollow.example/?q={{person.last_name}}">go</a></td></tr></table><![endif]--><p>y</p>`)
	if err != nil {
		f.Fatal(err)
	}
	program, notes := template.Compile(template.Template{Subject: markup.Parse("s"), Body: body}, cat)
	if document.Stopping(notes) {
		f.Fatal(notes)
	}
	page := func(value string) string {
		v := cat.NewValues()
		v.Kind = field.Contact
		v.Set("person.last_name", field.Of(value))
		return render.RenderHTML(program.Merge(v, nil, field.NewReader("en-GB")).Body, "t")
	}
	plain := page("Ada")
	inside := func(page string) (string, bool) {
		m := officeComment.FindStringSubmatch(page)
		if m == nil {
			return "", false
		}
		return m[1], true
	}
	usual, _ := inside(plain)
	bare := func(page string) string { return officeComment.ReplaceAllString(page, "") }
	f.Fuzz(func(t *testing.T, value string) {
		if strings.TrimSpace(value) == "" || !strings.ContainsFunc(value, func(r rune) bool { return r > ' ' && r < 0x7f }) {
			return // nothing is left of it
		}
		got := page(value)
		within, held := inside(got)
		if held && lettertest.Shape(t, within) != lettertest.Shape(t, usual) {
			t.Fatalf("%q changed what office programs read:\n%s", value, within)
		}
		if held {
			lettertest.CheckAddresses(t, value, within)
		}
		if lettertest.Shape(t, bare(got)) != lettertest.Shape(t, bare(plain)) {
			t.Fatalf("%q changed the page around:\n%s", value, got)
		}
	})
}
