package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"lucidletter/core/access"
	"lucidletter/internal/app"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

type client struct {
	t    *testing.T
	url  string
	http *http.Client
}

// start serves a bed and signs a new representative in.
func start(t *testing.T) (*testbed.Bed, *client) {
	t.Helper()
	b := testbed.New(t)
	if _, err := b.App.Team.AddUser(context.Background(), domain.User{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}, "long enough for her"); err != nil {
		t.Fatal(err)
	}
	front := fstest.MapFS{"index.html": {Data: []byte("<p>the page")}, "assets/a.js": {Data: []byte("1")}}
	srv := httptest.NewServer(New(b.App, b.Store, front, slog.New(slog.DiscardHandler)))
	t.Cleanup(srv.Close)
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	c := &client{t, srv.URL, &http.Client{Jar: jar}}
	c.must(200, "POST", "/api/session", `{"email":"nora@fernhollow.example","password":"long enough for her"}`)
	return b, c
}

func (c *client) do(method, path, body string, header ...string) (int, string, http.Header) {
	c.t.Helper()
	r, err := http.NewRequest(method, c.url+path, strings.NewReader(body))
	if err != nil {
		c.t.Fatal(err)
	}
	if body != "" {
		r.Header.Set("Content-Type", "application/json")
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	answer, err := c.http.Do(r)
	if err != nil {
		c.t.Fatal(err)
	}
	defer func() { _ = answer.Body.Close() }()
	data, err := io.ReadAll(answer.Body)
	if err != nil {
		c.t.Fatal(err)
	}
	return answer.StatusCode, string(data), answer.Header
}

// must makes a request that answers with a status, and gives its body.
func (c *client) must(status int, method, path, body string, header ...string) string {
	c.t.Helper()
	got, data, _ := c.do(method, path, body, header...)
	if got != status {
		c.t.Fatalf("%s %s: %d, want %d: %s", method, path, got, status, data)
	}
	return data
}

func TestServer_problems(t *testing.T) {
	b, c := start(t)
	hers := b.Template(t, "Hers", "s", "b")
	for _, row := range []struct {
		name, method, path, body string
		status                   int
		contains                 string
	}{
		{"not JSON", "POST", "/api/templates", "{", 400, ""},
		{"unknown member", "POST", "/api/templates", `{"nme":"x"}`, 422, "nme"},
		{"field named", "POST", "/api/templates", `{"name":"","whenToUse":"","subject":"","body":"","state":"draft"}`, 422, `"location":"name"`},
		{"denied", "PUT", fmt.Sprintf("/api/templates/%d", hers), `{"name":"n","whenToUse":"","subject":"","body":"b","state":"draft","version":1}`, 403, "permission"},
		{"not there", "GET", "/api/people/999", "", 404, "doesn’t exist"},
		{"bad id", "GET", "/api/people/x", "", 422, ""},
		{"no such address", "GET", "/api/nothing", "", 404, "no such address"},
		{"wrong password", "POST", "/api/session", `{"email":"nora@fernhollow.example","password":"x"}`, 401, "password is wrong"},
	} {
		status, body, header := c.do(row.method, row.path, row.body)
		if status != row.status || !strings.Contains(body, row.contains) || !strings.HasPrefix(header.Get("Content-Type"), "application/problem+json") {
			t.Errorf("%s: %d %s %s", row.name, status, header.Get("Content-Type"), body)
		}
	}
	// An unknown error is not shown.
	if err := b.Store.Close(); err != nil {
		t.Fatal(err)
	}
	if status, body, _ := c.do("GET", "/api/people", ""); status == 200 || strings.Contains(body, "sql") {
		t.Errorf("broken store: %d %s", status, body)
	}
}

func TestServer_session(t *testing.T) {
	_, c := start(t)
	if body := c.must(200, "GET", "/api/session", ""); !strings.Contains(body, `"name":"Nora"`) || strings.Contains(body, "$2a$") {
		t.Error(body)
	}
	if status, body, _ := c.do("DELETE", "/api/session", "", "Sec-Fetch-Site", "cross-site"); status != 403 {
		t.Errorf("another site signed her out: %d %s", status, body)
	}
	c.must(204, "DELETE", "/api/session", "")
	for _, path := range []string{"/api/session", "/api/people", "/api/templates", "/api/letters?state=sent", "/api/post-office", "/api/fields"} {
		c.must(401, "GET", path, "")
	}
}

func TestServer_frontend(t *testing.T) {
	_, c := start(t)
	for path, want := range map[string]string{"/": "the page", "/people/1": "the page", "/index.html": "the page", "/assets/a.js": "1", "/assets/../../go.mod": "the page"} {
		if status, body, header := c.do("GET", path, ""); status != 200 || !strings.Contains(body, want) || header.Get("Content-Security-Policy") == "" {
			t.Errorf("%s: %d %q", path, status, body)
		}
	}
	c.must(404, "GET", "/assets/gone.js", "")
	bare := httptest.NewServer(New(app.New(app.Ports{}), nil, nil, slog.New(slog.DiscardHandler)))
	defer bare.Close()
	if body := (&client{t, bare.URL, http.DefaultClient}).must(200, "GET", "/people", ""); !strings.Contains(body, "make build") {
		t.Error(body)
	}
}

func TestServer_letterAndStaleness(t *testing.T) {
	b, c := start(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	hello := b.Template(t, "Hello", "For {{person.first_name}}", "Dear {{person.first_name}} {{person.city}}")
	var l letterOut
	read := func(body string) {
		t.Helper()
		l = letterOut{}
		if err := json.Unmarshal([]byte(body), &l); err != nil {
			t.Fatal(err)
		}
	}
	read(c.must(200, "POST", "/api/letters", fmt.Sprintf(`{"personId":%d,"templateId":%d}`, ada, hello)))
	if l.Subject != "For Ada" || len(l.Gaps) != 1 || l.Gaps[0].Path != "person.city" || l.Stops[0].Code != "gap" {
		t.Fatalf("%+v", l)
	}
	path := fmt.Sprintf("/api/letters/%d", l.ID)
	words := func(version int) string {
		data, err := json.Marshal(map[string]any{"personId": ada, "version": version, "subject": l.SubjectDoc, "body": l.Body})
		if err != nil {
			t.Fatal(err)
		}
		return string(data)
	}
	c.must(422, "POST", path+"/send", `{"version":1,"to":"ada@quill.example"}`)
	read(c.must(200, "POST", path+"/fill", strings.TrimSuffix(words(1), "}")+`,"path":"person.city","value":"Leeds","alsoRecord":false}`))
	if c.must(409, "PUT", path, words(1)); l.Version != 2 || len(l.Stops) != 0 {
		t.Fatalf("%+v", l)
	}
	read(c.must(200, "PUT", path, words(2)))
	read(c.must(200, "POST", path+"/send", `{"version":3,"to":"ada@quill.example"}`))
	if l.State != domain.Waiting {
		t.Fatal(l.State)
	}
	c.must(404, "GET", path+"/source", "")
	if err := b.Deliver(context.Background(), l.ID); err != nil {
		t.Fatal(err)
	}
	if _, body, header := c.do("GET", path+"/source", ""); header.Get("Content-Type") != "message/rfc822" || !strings.Contains(body, "Dear Ada Leeds\r\n") {
		t.Errorf("%v %s", header, body)
	}
	if body := c.must(200, "GET", "/api/letters?state=sent", ""); !strings.Contains(body, `"subject":"For Ada"`) {
		t.Error(body)
	}
	c.must(422, "POST", path+"/take-back", "")
}

func TestServer_templateNotesCountAsBrowsersDo(t *testing.T) {
	_, c := start(t)
	body := c.must(200, "POST", "/api/templates/check", `{"subject":"","body":"🌷é {{person.nam}}"}`)
	var got checked
	if err := json.Unmarshal([]byte(body), &got); err != nil {
		t.Fatal(err)
	}
	// The tulip is two UTF-16 code units, the é one.
	if len(got.Notes) != 1 || got.Notes[0].From != 4 || got.Notes[0].To != 18 || got.Notes[0].Column != 4 {
		t.Errorf("%+v", got.Notes)
	}
}

// Wording of every kind of body is checked and tried on a person.
func TestServer_kindsOfBody(t *testing.T) {
	b, c := start(t)
	id := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, row := range []struct{ path, body, contains string }{
		{"check", `{"subject":"s","body":"<p>é {{person.cty}}</p>","kind":"formatted"}`, `"where":"content[0]","column":6,"from":5,"to":19`},
		{"check", `{"subject":"s","body":"<p>a</p>\n<video>","kind":"formatted"}`, `"code":"markup"`},
		{"check", `{"subject":"s","body":"<p>a</p><script>x</script>","kind":"html"}`, `"removed":[{"what":"<script>","count":1}]`},
		{"preview", fmt.Sprintf(`{"subject":"s","body":"<p>Dear {{person.first_name}}</p>","kind":"formatted","personId":%d}`, id), `"text":"Dear Ada"`},
		{"preview", fmt.Sprintf(`{"subject":"s","body":"{{today as long}}","language":"de","personId":%d}`, id), `"text":"2. März 2026"`},
		{"reach", `{"subject":"s","body":"<h1>{{person.first_name}}</h1>","kind":"html"}`, `"complete":1`},
	} {
		if got := c.must(200, "POST", "/api/templates/"+row.path, row.body); !strings.Contains(got, row.contains) {
			t.Errorf("%s %s: %s", row.path, row.body, got)
		}
	}
	c.must(422, "POST", "/api/templates/check", `{"subject":"s","body":"b","kind":"fancy"}`)
	c.must(422, "POST", "/api/templates/check", `{"subject":"s","body":"b","language":"the reader's"}`)
}

func TestServer_import(t *testing.T) {
	_, c := start(t)
	send := func(csv, query string) (int, string) {
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		part, err := w.CreateFormFile("file", "people.csv")
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.WriteString(part, csv); err != nil {
			t.Fatal(err)
		}
		if err := w.Close(); err != nil {
			t.Fatal(err)
		}
		status, body, _ := c.do("POST", "/api/imports?"+query, form.String(), "Content-Type", w.FormDataContentType())
		return status, body
	}
	if status, body := send("Email,Shoe\na@b.example,38\n", "check=true"); status != 200 || !strings.Contains(body, `"created":1`) || !strings.Contains(body, "is not a field; map it") {
		t.Errorf("check: %d %s", status, body)
	}
	if status, body := send("Email,Shoe\na@b.example,38\n", ""); status != 422 || !strings.Contains(body, "column Shoe") {
		t.Errorf("unmapped: %d %s", status, body)
	}
	if status, body := send("Email,Shoe\na@b.example,38\n", `columns=%7B%22Shoe%22%3A%22-%22%7D`); status != 200 || !strings.Contains(body, `"done":true`) {
		t.Errorf("mapped: %d %s", status, body)
	}
	if status, body := send("\x00\x01", ""); status != 422 || !strings.Contains(body, "not a text file") {
		t.Errorf("binary: %d %s", status, body)
	}
}

// The description in the repository is the one of this program.
func TestServer_OpenAPI(t *testing.T) {
	got, err := New(app.New(app.Ports{}), nil, nil, slog.New(slog.DiscardHandler)).OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	want, err := os.ReadFile("../../openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(bytes.TrimSpace(got), bytes.TrimSpace(want)) {
		t.Error("openapi.json is not up to date: run make api")
	}
}
