package letter

import (
	"strings"
	"testing"
)

func TestTrack(t *testing.T) {
	to := func(href string) string {
		if strings.Contains(href, "ours.example") {
			return ""
		}
		return "https://t.example/l/" + strings.TrimPrefix(href, "https://")
	}
	const picture = `<img src="https://t.example/o/x" width="1" height="1" alt="" style="border:0;width:1px;height:1px">`
	for _, row := range []struct{ name, in, want string }{
		{"a link", `<p>See <A class=b HREF="https://a.example?x=1&amp;y=2">it</A></p>`, `<p>See <a class="b" href="https://t.example/l/a.example?x=1&amp;y=2">it</A></p>` + picture},
		{"within the body", "<body><p>x</p></body></html>\n", "<body><p>x</p>" + picture + "</body></html>\n"},
		{"none to the web", `<a href="mailto:a@b.example">m</a> <a href="#x">h</a> <a name=y>n</a>`, `<a href="mailto:a@b.example">m</a> <a href="#x">h</a> <a name=y>n</a>` + picture},
		{"names that begin alike", `<abbr href="https://a.example">x</abbr></bodyguard>y</BODY >z`, `<abbr href="https://a.example">x</abbr></bodyguard>y` + picture + `</BODY >z`},
		{"one of ours", `<a href="https://ours.example/out/1">o</a>`, `<a href="https://ours.example/out/1">o</a>` + picture},
		{"a map", `<area href="https://a.example">`, `<area href="https://t.example/l/a.example">` + picture},
		{"bytes that stay", "<p  x = 'y'>&nbsp;&amp <!-- <a href=\"https://a.example\"> --></p >", "<p  x = 'y'>&nbsp;&amp <!-- <a href=\"https://a.example\"> --></p >" + picture},
	} {
		if got := Track(row.in, to, "https://t.example/o/x"); got != row.want {
			t.Errorf("%s:\n got %s\nwant %s", row.name, got, row.want)
		}
	}
	if got := Track("<p>x</p>", to, ""); got != "<p>x</p>" {
		t.Errorf("without a picture: %s", got)
	}
}

// Without links to the web and without a picture a page stays as it is, whatever it holds.
func FuzzTrack(f *testing.F) {
	f.Add("<p>a</p><a href='https://a.example'>b</a></body>")
	f.Fuzz(func(t *testing.T, page string) {
		if got := Track(page, func(string) string { return "" }, ""); got != page {
			t.Errorf("%q became %q", page, got)
		}
	})
}

// Nothing of a letter that came in is fetched by looking at it.
func TestShowIncoming(t *testing.T) {
	cleaned := CleanIncoming(`<table background="https://x.example/a.png"><tr><td background="http://x.example/b.png" style="background:url(https://x.example/c.png)">` +
		`<img src="https://x.example/d.png" srcset="https://x.example/e.png 2x"><img src="data:image/png;base64,AAAA"><a href="https://x.example/">x</a>` +
		`<style>p{background-image:url("https://x.example/f.png")}</style><video poster="https://x.example/g.png" src="https://x.example/h.mp4"></video></td></tr></table>`)
	page, left := ShowIncoming(cleaned)
	for _, name := range []string{"a.png", "b.png", "d.png"} {
		if !strings.Contains(cleaned, name) {
			t.Errorf("%s is not there to be asked for: %s", name, cleaned)
		}
	}
	for _, form := range []string{`src="http`, `srcset="`, ` background="http`, "url(", "poster="} {
		if strings.Contains(page, form) {
			t.Errorf("%s is left: %s", form, page)
		}
	}
	if left < 4 || !strings.Contains(page, "data:image/png") || !strings.Contains(page, `href="https://x.example/"`) {
		t.Errorf("%d left out: %s", left, page)
	}
}
