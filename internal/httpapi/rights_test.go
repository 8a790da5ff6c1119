package httpapi

import (
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"testing"

	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// operations reads every operation from the description of the API.
func operations(t *testing.T) map[string][]string {
	t.Helper()
	raw, err := os.ReadFile("../../openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	var d struct{ Paths map[string]map[string]any }
	if err := json.Unmarshal(raw, &d); err != nil {
		t.Fatal(err)
	}
	out := map[string][]string{}
	for path, methods := range d.Paths {
		for m := range methods {
			out[path] = append(out[path], strings.ToUpper(m))
		}
	}
	return out
}

// Whoever is not signed in may nothing but sign in, on every operation.
func TestServer_everythingNeedsASession(t *testing.T) {
	_, c := start(t)
	c.http = &http.Client{} // without the cookie
	looked := 0
	for path, methods := range operations(t) {
		for _, m := range methods {
			if path == "/api/session" && m == "POST" || path == "/api/session/state" {
				continue // signing in, and the question whether one is signed in
			}
			looked++
			real := strings.NewReplacer("{id}", "1", "{version}", "1", "{sha}", strings.Repeat("0", 64), "{path}", "deal.own.x", "{key}", "welcome", "{piece}", "0", "{question}", "1", "{file}", "0", "{mailbox}", "ada@quill.example").Replace(path)
			body := ""
			if m == "POST" || m == "PUT" || m == "PATCH" {
				body = "{}"
			}
			status, text, _ := c.do(m, real, body)
			if status != 401 || strings.Contains(text, "quill") {
				t.Errorf("%s %s: %d %s", m, path, status, text)
			}
		}
	}
	if looked < 30 {
		t.Errorf("only %d operations were tried", looked)
	}
}

// A letter belongs to its writer until it went: for others it is not there.
func TestServer_lettersOfOthers(t *testing.T) {
	b, c := start(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "s", "Dear {{person.first_name}} {{person.city}}"))
	words := fmt.Sprintf(`{"personId":1,"version":%d,"subject":{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph"}]},"body":{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[{"type":"paragraph"}]}`, l.Version)
	path := fmt.Sprintf("/api/letters/%d", l.ID)
	for _, row := range []struct{ method, path, body string }{
		{"GET", path, ""},
		{"PUT", path, words + "}"},
		{"DELETE", path, ""},
		{"GET", path + "/proof", ""},
		{"GET", path + "/source", ""},
		{"POST", path + "/send", fmt.Sprintf(`{"version":%d,"to":"ada@quill.example"}`, l.Version)},
		{"POST", path + "/fill", words + `,"path":"person.city","value":"Leeds","alsoRecord":true}`},
		{"POST", path + "/correct", words + `,"path":"person.first_name","value":"Bo","alsoRecord":true}`},
		{"POST", path + "/right", words + `,"path":"person.first_name"}`},
		{"POST", path + "/take-back", ""},
		{"POST", path + "/retry", ""},
		{"POST", path + "/arrived", ""},
	} {
		if status, body, _ := c.do(row.method, row.path, row.body); status != 404 {
			t.Errorf("%s %s: %d %s", row.method, row.path, status, body)
		}
	}
	if got, err := b.Store.Letter(t.Context(), l.ID); err != nil || got.Version != l.Version || got.State != domain.Draft {
		t.Errorf("%+v, %v", got, err)
	}
	if p, err := b.Store.Person(t.Context(), l.PersonID); err != nil || p.City != "" || p.FirstName != "Ada" {
		t.Errorf("the record was changed: %+v, %v", p, err)
	}
}

// Templates of others can be used and not changed; drafts of others are not there.
func TestServer_templatesOfOthers(t *testing.T) {
	b, c := start(t)
	ready := b.Template(t, "Hers", "s", "Dear {{person.first_name}}")
	hidden, err := b.App.Library.AddTemplate(t.Context(), b.Lead, library.TemplateInput{Name: "Draft of hers", Input: library.Input{Subject: "s", Body: "b"}, State: domain.TemplateDraft})
	if err != nil {
		t.Fatal(err)
	}
	change := `{"name":"Mine now","whenToUse":"","subject":"s","body":"b","state":"ready","version":0}`
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct {
		name, method, path, body string
		status                   int
		contains                 string
	}{
		{"read", "GET", fmt.Sprintf("/api/templates/%d", ready), "", 200, `"mayEdit":false`},
		{"change", "PUT", fmt.Sprintf("/api/templates/%d", ready), change, 403, ""},
		{"reach", "GET", fmt.Sprintf("/api/templates/%d/reach", ready), "", 200, `"complete":1`},
		{"use", "POST", "/api/letters", fmt.Sprintf(`{"personId":%d,"templateId":%d}`, person, ready), 200, "Ada"},
		{"read a draft", "GET", fmt.Sprintf("/api/templates/%d", hidden.ID), "", 404, ""},
		{"change a draft", "PUT", fmt.Sprintf("/api/templates/%d", hidden.ID), change, 404, ""},
		{"reach of a draft", "GET", fmt.Sprintf("/api/templates/%d/reach", hidden.ID), "", 404, ""},
		{"use a draft", "POST", "/api/letters", fmt.Sprintf(`{"personId":%d,"templateId":%d}`, person, hidden.ID), 404, ""},
		{"a page as a template", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"<p onclick=x>Hello {{person.first_name}}</p><script>x</script>","kind":"html","state":"draft"}`, 200, `"body":"<p>Hello {{person.first_name}}</p>"`},
		{"markup that cannot be read", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"<video>","kind":"formatted","state":"draft"}`, 422, "no block"},
		{"a document with a node that is none", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"","state":"draft","doc":{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"video"}]}}`, 422, "content[0]"},
		{"a document that is plain", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"","state":"draft","doc":{"type":"doc","attrs":{"version":1,"body":"plain"},"content":[]}}`, 422, "only formatted"},
		{"a document", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"","state":"ready","doc":{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"paragraph","content":[{"type":"field","attrs":{"path":"person.first_name"}}]}]}}`, 200, `"body":"<p>{{person.first_name}}</p>\n"`},
		{"an empty document", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"","state":"ready","doc":{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"paragraph"}]}}`, 422, "is empty"},
		{"a document with an empty comment", "POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"","state":"ready","doc":{"type":"doc","attrs":{"version":1,"body":"formatted"},"content":[{"type":"paragraph","content":[{"type":"text","text":"a"},{"type":"comment"}]}]}}`, 200, `"body":"<p>a{{!}}</p>\n"`},
		{"versions", "GET", fmt.Sprintf("/api/templates/%d/versions", ready), "", 200, `"version":1`},
		{"an old version", "GET", fmt.Sprintf("/api/templates/%d/versions/1", ready), "", 200, `"mayEdit":false`},
		{"a version that is none", "GET", fmt.Sprintf("/api/templates/%d/versions/7", ready), "", 404, ""},
		{"what changed", "GET", fmt.Sprintf("/api/templates/%d/compare?from=1&to=1", ready), "", 200, `"kind":"same"`},
		{"versions of a draft", "GET", fmt.Sprintf("/api/templates/%d/versions", hidden.ID), "", 404, ""},
		{"an old version of a draft", "GET", fmt.Sprintf("/api/templates/%d/versions/1", hidden.ID), "", 404, ""},
		{"what changed in a draft", "GET", fmt.Sprintf("/api/templates/%d/compare?from=1&to=1", hidden.ID), "", 404, ""},
		{"star", "PUT", fmt.Sprintf("/api/templates/%d/star", ready), "", 204, ""},
		{"found", "GET", "/api/templates?q=dear&starred=true", "", 200, `"body":[{"text":"Dear","hit":true}`},
		{"take the star away", "DELETE", fmt.Sprintf("/api/templates/%d/star", ready), "", 204, ""},
		{"move", "PUT", fmt.Sprintf("/api/templates/%d/place", ready), `{"before":0}`, 403, ""},
		{"share", "PUT", fmt.Sprintf("/api/templates/%d/rights", ready), `{"audience":{"who":"everybody"},"editors":{"who":""}}`, 403, ""},
		{"delete", "DELETE", fmt.Sprintf("/api/templates/%d", ready), "", 403, ""},
		{"put back", "POST", fmt.Sprintf("/api/templates/%d/put-back", ready), "", 404, ""},
		{"what depends on it", "GET", fmt.Sprintf("/api/templates/%d/dependants", ready), "", 403, ""},
		{"copy", "POST", fmt.Sprintf("/api/templates/%d/copy", ready), "", 200, `"name":"Copy of Hers"`},
		{"copy a draft", "POST", fmt.Sprintf("/api/templates/%d/copy", hidden.ID), "", 404, ""},
		{"a folder", "POST", "/api/folders", `{"name":"Mine"}`, 200, `"id":1`},
		{"rename a folder", "PUT", "/api/folders/1", `{"name":"Ours","before":0}`, 204, ""},
		{"share a folder", "PUT", "/api/folders/1/rights", `{"audience":{"who":"some","roles":["lead"]},"editors":{"who":""}}`, 204, ""},
		{"folders", "GET", "/api/folders", "", 200, `"name":"Ours"`},
		{"delete a folder", "DELETE", "/api/folders/1", "", 200, `[]`},
		{"colleagues", "GET", "/api/colleagues", "", 200, `"Greta Holm"`},
		{"tags", "GET", "/api/tags", "", 200, `[]`},
		{"plain as formatted", "POST", "/api/templates/formatted", `{"body":"a\n\n{{person.city|}}"}`, 200, `"type":"field"`},
	} {
		if status, body, _ := c.do(row.method, row.path, row.body); status != row.status || !strings.Contains(body, row.contains) {
			t.Errorf("%s: %d %s, want %d with %s", row.name, status, body, row.status, row.contains)
		}
	}
	if got, err := b.Store.Template(t.Context(), ready); err != nil || got.Name != "Hers" {
		t.Errorf("%+v, %v", got, err)
	}
}

// Requests from another site are refused before anything happens (the standard
// library's http.CrossOriginProtection).
func TestServer_otherSites(t *testing.T) {
	_, c := start(t)
	for _, header := range [][2]string{{"Sec-Fetch-Site", "cross-site"}, {"Origin", "https://evil.example"}} {
		if status, _, _ := c.do("POST", "/api/templates", `{"name":"n","whenToUse":"","subject":"s","body":"b","state":"draft"}`, header[0], header[1]); status != 403 {
			t.Errorf("%s: %d", header[0], status)
		}
		if status, _, _ := c.do("GET", "/api/templates", "", header[0], header[1]); status != 200 {
			t.Errorf("reading with %s: %d", header[0], status)
		}
	}
	if body := c.must(200, "GET", "/api/templates", ""); !strings.Contains(body, `"total":0`) {
		t.Errorf("something was made: %s", body)
	}
}

// Whether somebody is signed in may be asked by anybody, and says nothing else.
func TestServer_sessionState(t *testing.T) {
	_, c := start(t)
	_, signedIn, _ := c.do("GET", "/api/session/state", "")
	c.http = &http.Client{}
	status, signedOut, _ := c.do("GET", "/api/session/state", "")
	if status != 200 || signedIn == signedOut || strings.Contains(signedOut, "quill") {
		t.Errorf("%d %q, signed in %q", status, signedOut, signedIn)
	}
}
