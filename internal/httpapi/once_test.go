package httpapi

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"sync"
	"testing"

	"lucidletter/internal/app/library"
	"lucidletter/internal/httpapi/guard"
)

// What one press makes is made once, however often the request comes: six at once, and later.
func TestServer_once(t *testing.T) {
	b, c := start(t)
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for i, row := range []struct{ path, body, list string }{
		{"/api/records/person", `{"kind":"lead","values":{"person.last_name":"Hale","person.email":"hale@hale.example"}}`, "/api/people?q=hale"},
		{"/api/records/company", `{"values":{"company.name":"Hale Dairy"}}`, "/api/companies?q=hale"},
		{"/api/folders", `{"name":"Hale"}`, ""},
		{"/api/lists", `{"name":"Hale","filter":"kind is \"lead\"","shared":false,"sort":"","down":false}`, ""},
		{"/api/letters", fmt.Sprintf(`{"personId":%d}`, person), ""},
		{fmt.Sprintf("/api/records/person/%d/notes", person), `{"what":"note","text":"Hale"}`, ""},
		{"/api/rounds", fmt.Sprintf(`{"name":"Hale","people":[%d]}`, person), ""},
	} {
		key := fmt.Sprint("key-of-act-", i)
		answers := make([]string, 6)
		var all sync.WaitGroup
		for n := range answers {
			all.Go(func() {
				status, text, _ := c.do("POST", row.path, row.body, guard.KeyHeader, key)
				answers[n] = fmt.Sprint(status, " ", text)
			})
		}
		all.Wait()
		if !strings.HasPrefix(answers[0], "20") {
			t.Errorf("%s: %s", row.path, answers[0])
			continue
		}
		status, text, _ := c.do("POST", row.path, row.body, guard.KeyHeader, key)
		for _, a := range append(answers, fmt.Sprint(status, " ", text)) {
			if a != answers[0] {
				t.Errorf("%s: %s, and %s", row.path, answers[0], a)
			}
		}
		if row.list != "" {
			var out struct{ Total int }
			if err := json.Unmarshal([]byte(c.must(200, "GET", row.list, "")), &out); err != nil || out.Total != 1 {
				t.Errorf("%s: %d are there, %v", row.path, out.Total, err)
			}
		}
	}
	// The key of one act is none of another; what was refused can be tried again; what is no key is said.
	c.must(422, "POST", "/api/records/person", `{"kind":"lead","values":{"person.last_name":"Other"}}`, guard.KeyHeader, "key-of-act-0")
	c.must(422, "POST", "/api/records/person", `{"kind":"lead","values":{"person.email":"no address"}}`, guard.KeyHeader, "key-of-act-x")
	c.must(422, "POST", "/api/records/person", `{"kind":"lead","values":{"person.email":"no address"}}`, guard.KeyHeader, "key-of-act-x")
	c.must(422, "POST", "/api/records/person", `{"kind":"lead","values":{"person.last_name":"Hale"}}`, guard.KeyHeader, "short")
	// The program ended in the middle: nobody knows, so nothing is done twice.
	if _, err := b.Store.DB().Exec(`UPDATE acts SET status = 0 WHERE key = 'key-of-act-0'`); err != nil {
		t.Fatal(err)
	}
	c.must(409, "POST", "/api/records/person", `{"kind":"lead","values":{"person.last_name":"Hale","person.email":"hale@hale.example"}}`, guard.KeyHeader, "key-of-act-0")
}

// A form's files do not stay in the folder for temporary ones, and a file that is there already is
// not sent again.
func TestServer_filesGo(t *testing.T) {
	folder := t.TempDir()
	t.Setenv("TMPDIR", folder)
	b, c := start(t)
	if status, text := c.upload(t, "/api/imports", "people.csv", []byte("Last name,Email\n"+strings.Repeat("Hale,hale@hale.example\n", 20_000))); status != 200 {
		t.Fatal(status, text)
	}
	d, err := b.App.Library.AddDocument(t.Context(), b.Lead, library.DocumentInput{Name: "Terms"}, "terms.pdf", []byte("%PDF-1"))
	if err != nil {
		t.Fatal(err)
	}
	path := "/api/files/" + d.SHA
	status, text, header := c.do("GET", path, "")
	if status != 200 || text != "%PDF-1" || header.Get("ETag") == "" {
		t.Fatal(status, text, header)
	}
	if status, text, _ := c.do("GET", path, "", "If-None-Match", header.Get("ETag")); status != http.StatusNotModified || text != "" {
		t.Errorf("asked again: %d %q", status, text)
	}
	if status, text, _ := c.do("GET", path, "", "Range", "bytes=1-3"); status != http.StatusPartialContent || text != "PDF" {
		t.Errorf("a part of it: %d %q", status, text)
	}
	if status, text, _ := c.do("POST", "/api/people/export", `{"as":"csv"}`); status != 200 || !strings.Contains(text, "Last name") {
		t.Errorf("export: %d %q", status, text)
	}
	left, err := os.ReadDir(folder)
	if err != nil || len(left) > 0 {
		t.Errorf("%d files are left: %v, %v", len(left), left, err)
	}
}
