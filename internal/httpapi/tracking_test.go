package httpapi

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/httpapi/pages"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
)

// What the letters of recipients fetch: the same picture for every token, redirects to
// what stood in the letter alone, the page of a document.
func TestTracking(t *testing.T) {
	ctx := context.Background()
	b, c := start(t)
	d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Prices <all>"}, "prices.html", []byte("<script>alert(1)</script>"))
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Formatted(t, "T", `<p>See <a href="https://x.example/a?b=1&amp;c=2">this</a></p>`))
	if _, err := b.App.Desk.LinkDocument(ctx, b.Rep, l.ID, d.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	links, err := b.Store.LinksOf(ctx, l.ID)
	if err != nil || len(links) != 2 {
		t.Fatalf("%+v %v", links, err)
	}
	document, web := links[0].Token, links[1].Token
	sent, _ := b.Store.Letter(ctx, l.ID)
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	ask := func(method, path string) (*http.Response, string) {
		t.Helper()
		r, err := http.NewRequest(method, c.url+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		r.Header.Set("User-Agent", "Mozilla/5.0 (X11; Linux x86_64)")
		answer, err := client.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = answer.Body.Close() }()
		var body bytes.Buffer
		if _, err := body.ReadFrom(answer.Body); err != nil {
			t.Fatal(err)
		}
		return answer, body.String()
	}
	for _, token := range []string{sent.Token, "nobody", web} {
		answer, body := ask("GET", "/o/"+token)
		if answer.StatusCode != 200 || answer.Header.Get("Content-Type") != "image/gif" || body != string(pages.Pixel) || !strings.Contains(answer.Header.Get("Cache-Control"), "no-store") {
			t.Errorf("picture %s: %d %v", token, answer.StatusCode, answer.Header)
		}
	}
	for _, row := range []struct {
		method, path string
		status       int
		location     string
	}{
		{"HEAD", "/l/" + web, 302, "https://x.example/a?b=1&c=2"},
		{"GET", "/l/" + web, 302, "https://x.example/a?b=1&c=2"},
		{"GET", "/l/" + document, 404, ""},
		{"GET", "/l/evil.example", 404, ""},
		{"GET", "/l/" + web + "?to=https://evil.example", 302, "https://x.example/a?b=1&c=2"},
		{"GET", "/d/" + web, 404, ""},
		{"GET", "/d/nobody/file", 404, ""},
		{"GET", "/d/" + document, 200, ""},
	} {
		answer, body := ask(row.method, row.path)
		if answer.StatusCode != row.status || answer.Header.Get("Location") != row.location {
			t.Errorf("%s %s: %d to %q", row.method, row.path, answer.StatusCode, answer.Header.Get("Location"))
		}
		if row.status == 200 && (!strings.Contains(body, "Prices &lt;all&gt;") || !strings.Contains(answer.Header.Get("Content-Security-Policy"), "default-src 'none'")) {
			t.Errorf("%s: %s", row.path, body)
		}
	}
	// A page of a document is given to be saved, and does not run here.
	if answer, body := ask("GET", "/d/"+document+"/file"); answer.StatusCode != 200 || answer.Header.Get("Content-Type") != "application/octet-stream" || !strings.HasPrefix(answer.Header.Get("Content-Disposition"), "attachment") || !strings.Contains(body, "alert") {
		t.Errorf("%d %v", answer.StatusCode, answer.Header)
	}
	back, err := b.App.Desk.BackOf(ctx, b.Rep, l.ID)
	if err != nil || back.Opens != 1 || back.Clicks != 1 || back.Documents != 1 {
		t.Errorf("%+v %v", back, err)
	}
}

// The page of a document shows what a browser can show, and allows nothing more than that.
func TestDocumentPage_shows(t *testing.T) {
	ctx := context.Background()
	b, c := start(t)
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct{ file, bytes, shows, page, own string }{
		{"sizes.pdf", "%PDF-1.4\n%%EOF\n", "<object", "object-src 'self'", "frame-ancestors 'self'"},
		{"room.gif", string(pages.Pixel), "<img", "img-src 'self'", "frame-ancestors 'none'"},
		{"notes.txt", "words", "<a href", "default-src 'none'; style-src", "frame-ancestors 'none'"},
	} {
		d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: row.file}, row.file, []byte(row.bytes))
		if err != nil {
			t.Fatal(err)
		}
		l := b.Letter(t, person, b.Template(t, row.file, "For you", "Dear {{person.first_name}}"))
		if _, err := b.App.Desk.LinkDocument(ctx, b.Rep, l.ID, d.ID); err != nil {
			t.Fatal(err)
		}
		links, err := b.Store.LinksOf(ctx, l.ID)
		if err != nil || len(links) != 1 {
			t.Fatalf("%+v %v", links, err)
		}
		get := func(path string) (policy, body string) {
			answer, err := http.Get(c.url + "/d/" + links[0].Token + path)
			if err != nil {
				t.Fatal(err)
			}
			defer func() { _ = answer.Body.Close() }()
			text, err := io.ReadAll(answer.Body)
			if err != nil || answer.StatusCode != 200 {
				t.Fatalf("%s: %d %v", row.file, answer.StatusCode, err)
			}
			return answer.Header.Get("Content-Security-Policy"), string(text)
		}
		policy, page := get("")
		if !strings.Contains(page, row.shows) || !strings.Contains(policy, row.page) || !strings.Contains(policy, "frame-ancestors 'none'") {
			t.Errorf("%s: %s\n%s", row.file, policy, page)
		}
		if strings.Contains(page, "<object") != (row.shows == "<object") || strings.Contains(page, "<img") != (row.shows == "<img") {
			t.Errorf("%s is shown another way:\n%s", row.file, page)
		}
		if policy, bytes := get("/file"); bytes != row.bytes || !strings.Contains(policy, row.own) {
			t.Errorf("%s: %s", row.file, policy)
		}
	}
}
