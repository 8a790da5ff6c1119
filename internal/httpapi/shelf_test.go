package httpapi

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"mime/multipart"
	"net/http"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/internal/app/library"
)

// upload posts a form with one file.
func (c *client) upload(t *testing.T, path, name string, content []byte) (int, string) {
	t.Helper()
	var buf bytes.Buffer
	w := multipart.NewWriter(&buf)
	part, err := w.CreateFormFile("file", name)
	if err == nil {
		_, err = part.Write(content)
	}
	if err == nil {
		err = w.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
	status, text, _ := c.do("POST", path, buf.String(), "Content-Type", w.FormDataContentType())
	return status, text
}

// What leads keep for everybody is read by representatives and changed by leads alone.
func TestServer_sharedThings(t *testing.T) {
	b, c := start(t)
	d, err := b.App.Library.AddDocument(t.Context(), b.Lead, library.DocumentInput{Name: "Terms"}, "terms.pdf", []byte("%PDF-1"))
	if err != nil {
		t.Fatal(err)
	}
	secret, err := b.App.Library.AddDocument(t.Context(), b.Lead, library.DocumentInput{Name: "Margins", Rights: access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}}, "margins.pdf", []byte("%PDF-2"))
	if err != nil {
		t.Fatal(err)
	}
	hers, err := b.App.Library.AddPassage(t.Context(), b.Lead, library.PassageInput{Name: "Hers", Shortcut: "hers", Body: "b", Rights: access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}})
	if err != nil {
		t.Fatal(err)
	}
	doc := `{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"paragraph"}]}`
	stationery := `{"name":"House","header":` + doc + `,"footer":` + doc + `,"ready":true,"default":false`
	rights := `{"audience":{"who":""},"editors":{"who":""}}`
	ready := b.Template(t, "Hers", "s", "Dear {{person.first_name}}")
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct {
		name, method, path, body string
		status                   int
		contains                 string
	}{
		{"documents", "GET", "/api/documents", "", 200, `"mayEdit":false`},
		{"the file of one", "GET", fmt.Sprintf("/api/documents/%d/file", d.ID), "", 200, "%PDF-1"},
		{"change one", "PUT", fmt.Sprintf("/api/documents/%d", d.ID), `{"name":"x","purpose":"","own":` + rights + `}`, 403, ""},
		{"delete one", "DELETE", fmt.Sprintf("/api/documents/%d", d.ID), "", 403, ""},
		{"put one back", "POST", fmt.Sprintf("/api/documents/%d/put-back", d.ID), "", 403, ""},
		{"its users", "GET", fmt.Sprintf("/api/documents/%d/dependants", d.ID), "", 403, ""},
		{"a file by its key", "GET", "/api/files/" + d.SHA, "", 200, "%PDF-1"},
		{"the file of another's", "GET", fmt.Sprintf("/api/documents/%d/file", secret.ID), "", 404, ""},
		{"the same by its key", "GET", "/api/files/" + secret.SHA, "", 404, ""},
		{"a file that is none", "GET", "/api/files/" + strings.Repeat("0", 64), "", 404, ""},
		{"a key that is none", "GET", "/api/files/x", "", 422, ""},
		{"stationery", "GET", "/api/stationery", "", 200, `[]`},
		{"make a stationery", "POST", "/api/stationery", stationery + "}", 403, ""},
		{"change one", "PUT", "/api/stationery/1", stationery + `,"version":1}`, 403, ""},
		{"delete one", "DELETE", "/api/stationery/1?version=1", "", 403, ""},
		{"put one back", "POST", "/api/stationery/1/put-back?version=1", "", 403, ""},
		{"look at one", "POST", "/api/stationery/preview", stationery + "}", 200, "the letter goes here"},
		{"its users", "GET", "/api/stationery/7/dependants", "", 404, ""},
		{"a passage", "POST", "/api/passages", `{"name":"Mine","shortcut":"mine","body":"b","own":` + rights + `}`, 200, `"mine":true`},
		{"passages", "GET", "/api/passages?q=mi", "", 200, `"shortcut":"mine"`},
		{"one of another", "GET", fmt.Sprintf("/api/passages/%d", hers.ID), "", 404, ""},
		{"change it", "PUT", fmt.Sprintf("/api/passages/%d", hers.ID), `{"name":"x","shortcut":"x","body":"b","own":` + rights + `,"version":1}`, 404, ""},
		{"delete it", "DELETE", fmt.Sprintf("/api/passages/%d", hers.ID), "", 404, ""},
		{"put it back", "POST", fmt.Sprintf("/api/passages/%d/put-back", hers.ID), "", 404, ""},
		{"its users", "GET", fmt.Sprintf("/api/passages/%d/dependants", hers.ID), "", 404, ""},
		{"a page", "POST", "/api/templates/page", `{"body":"<p>Hello {{person.city}}</p><iframe></iframe>"}`, 200, `‹City›`},
		{"a part of it", "POST", "/api/templates/page-part", `{"body":"<p>Hello</p>","part":0,"text":"Good <day>"}`, 200, `Good &lt;day&gt;`},
		{"a text part", "POST", "/api/templates/text-part", `{"subject":"","body":"<p>{{person.city}}</p>","kind":"formatted"}`, 200, `"text":"{{person.city}}"`},
		{"a test", "POST", "/api/templates/test", fmt.Sprintf(`{"subject":"s","body":"b","personId":%d}`, person), 204, ""},
		{"a copy that follows", "POST", fmt.Sprintf("/api/templates/%d/copy?follow=true", ready), "", 200, `"originId":`},
		{"its original", "GET", fmt.Sprintf("/api/templates/%d/origin", ready+1), "", 200, `"moved":false`},
		{"follow it", "POST", fmt.Sprintf("/api/templates/%d/origin", ready+1), `{"now":1}`, 200, `"name":"My Hers"`},
		{"an original of none", "GET", fmt.Sprintf("/api/templates/%d/origin", ready), "", 422, "follow another one"},
		{"take over into one of another", "POST", fmt.Sprintf("/api/templates/%d/origin", ready), `{"now":1,"end":true}`, 403, ""},
	} {
		if status, body, _ := c.do(row.method, row.path, row.body); status != row.status || !strings.Contains(body, row.contains) {
			t.Errorf("%s: %d %s, want %d with %s", row.name, status, body, row.status, row.contains)
		}
	}
	if status, text := c.upload(t, "/api/documents?name=x", "x.pdf", []byte("x")); status != 403 {
		t.Errorf("a document: %d %s", status, text)
	}
	if status, text := c.upload(t, fmt.Sprintf("/api/documents/%d/file", d.ID), "x.pdf", []byte("x")); status != 403 {
		t.Errorf("another file of it: %d %s", status, text)
	}
}

// Files are given so that a browser does not run them.
func TestServer_files(t *testing.T) {
	_, c := start(t)
	var raw bytes.Buffer
	if err := png.Encode(&raw, image.NewGray(image.Rect(0, 0, 1300, 4))); err != nil {
		t.Fatal(err)
	}
	status, text := c.upload(t, "/api/pictures", "a.png", raw.Bytes())
	if status != 200 || !strings.HasPrefix(text, `"cid:`) {
		t.Fatalf("%d %s", status, text)
	}
	status, body, header := c.do("GET", "/api/files/"+strings.Trim(text, "\"\n")[4:], "")
	if c, err := png.DecodeConfig(strings.NewReader(body)); status != 200 || err != nil || c.Width != 1200 {
		t.Errorf("%d, %v, %v", status, c, err)
	}
	if header.Get("Content-Type") != "image/png" || header.Get("X-Content-Type-Options") != "nosniff" || !strings.Contains(header.Get("Content-Security-Policy"), "sandbox") || header.Get("Cache-Control") != "private, no-cache" {
		t.Errorf("%v", header)
	}
	for name, content := range map[string]string{"a.png": "no picture", "a.svg": `<svg xmlns="http://www.w3.org/2000/svg"><script>x</script></svg>`, "empty.gif": ""} {
		if status, text := c.upload(t, "/api/pictures", name, []byte(content)); status != 422 || !strings.Contains(text, "no picture of the kinds") {
			t.Errorf("%s: %d %s", name, status, text)
		}
	}
	if status, _ := c.upload(t, "/api/pictures", "large.png", make([]byte, 14<<20)); status != http.StatusRequestEntityTooLarge && status != 422 {
		t.Errorf("14 MiB: %d", status)
	}
}
