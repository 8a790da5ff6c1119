package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/app"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/app/tasks"
	"lucidletter/internal/domain"
	"lucidletter/internal/store"
	"lucidletter/internal/testbed"
)

// tableFile holds what every operation of the API answers to everybody. After a change
// that is meant, it is written anew by LUCID_WRITE_RIGHTS=1 go test -run rightsTable, and
// read line by line before it is kept.
const tableFile = "testdata/rights.txt"

// who asks: nobody, the representative to whom what has a number belongs, another one, a
// team lead and an administrator.
var who = []string{"nobody", "owner", "other", "lead", "admin"}

const password = "long enough for them"

// described is the description of the API, as far as requests are made from it.
type described struct {
	Paths map[string]map[string]struct {
		ID         string `json:"operationId"`
		Parameters []struct {
			Name, In string
			Required bool
			Schema   schema
		}
		RequestBody struct {
			Content map[string]struct{ Schema schema }
		} `json:"requestBody"`
	}
	Components struct{ Schemas map[string]schema }
}

type schema struct {
	Ref        string `json:"$ref"`
	Type       any    `json:"type"`
	Format     string
	Enum       []any
	Minimum    float64
	Required   []string
	Properties map[string]schema
	MinLength  int `json:"minLength"`
	Items      *schema
}

// sample makes a value that a schema takes: the least that is asked for.
func (d *described) sample(s schema, name string) any {
	of := name
	if name := strings.TrimPrefix(s.Ref, "#/components/schemas/"); s.Ref != "" {
		if name == "Document" {
			form := "plain"
			if slices.Contains([]string{"header", "footer", "doc"}, of) {
				form = "formatted"
			}
			return map[string]any{"type": "doc", "attrs": map[string]any{"version": 1, "body": form}, "content": []any{map[string]any{"type": "paragraph"}}}
		}
		return d.sample(d.Components.Schemas[name], of)
	}
	if len(s.Enum) > 0 {
		return s.Enum[0]
	}
	switch s.Type {
	case "string":
		switch {
		case s.Format == "date-time":
			return "2026-03-03T09:00:00Z"
		case name == "email" || name == "to" || name == "text" || name == "address":
			return "ada@quill.example"
		case name == "path":
			return "person.city"
		case name == "from":
			return "nora@fernhollow.example"
		case name == "value":
			return "Leeds"
		case name == "keys":
			return "welcome"
		case name == "shortcut":
			return "word"
		case name == "language":
			return "de"
		case name == "name" || name == "label" || name == "reason" || s.MinLength > 0:
			return "word"
		}
		return ""
	case "integer", "number":
		return max(1, s.Minimum)
	case "boolean":
		return false
	case "object":
		if name == "values" { // of a person who is written down
			return map[string]any{"person.last_name": "Quill"}
		}
		out := map[string]any{}
		for _, key := range s.Required {
			out[key] = d.sample(s.Properties[key], key)
		}
		return out
	}
	if slices.Contains([]string{"keys", "colleagues", "state"}, name) && s.Items != nil {
		return []any{d.sample(*s.Items, name)}
	}
	return []any{}
}

// request gives the way and the body of a sample request.
func (d *described) request(t *testing.T, path, method string) (where, kind string, body []byte) {
	t.Helper()
	op := d.Paths[path][method]
	where = strings.NewReplacer("{id}", "1", "{version}", "1", "{sha}", strings.Repeat("0", 64), "{path}", "deal.own.x", "{key}", "welcome", "{piece}", "0",
		"{question}", "1", "{file}", "0", "{mailbox}", "ada@quill.example", "{kind}", "company", "{person}", "1", "{step}", "1").Replace(path)
	query := "?"
	for _, p := range op.Parameters {
		if p.In == "query" && p.Required {
			query += p.Name + "=" + url.QueryEscape(strings.Trim(fmt.Sprint(d.sample(p.Schema, p.Name)), "[]")) + "&"
		}
	}
	where += strings.TrimRight(query, "?&")
	for kind, c := range op.RequestBody.Content {
		if strings.HasPrefix(kind, "multipart/") {
			return where, "multipart/form-data; boundary=b", []byte("--b\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a.csv\"\r\nContent-Type: text/plain\r\n\r\nEmail\r\nnew@quill.example\r\n--b--\r\n")
		}
		raw, err := json.Marshal(d.sample(c.Schema, ""))
		if err != nil {
			t.Fatal(err)
		}
		return where, kind, raw
	}
	return where, "", nil
}

// world makes a workspace in which everything has the number 1 and belongs to a
// representative, or to a lead where only leads have it, and signs everybody in.
func world(t *testing.T) (b *testbed.Bed, cookies []string) {
	t.Helper()
	b = testbed.New(t)
	ctx := t.Context()
	var users []domain.User
	for _, u := range []domain.User{
		{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}, {Email: "bea@fernhollow.example", FirstName: "Bea", Role: access.Representative},
		{Email: "lea@fernhollow.example", FirstName: "Lea", Role: access.TeamLead}, {Email: "otto@fernhollow.example", FirstName: "Otto", Role: access.Administrator},
	} {
		id, err := b.App.Team.AddUser(ctx, u, password)
		if err == nil {
			u, err = b.Store.User(ctx, id)
		}
		if err != nil {
			t.Fatal(err)
		}
		users = append(users, u)
	}
	nora, lea := users[0], users[2]
	own := access.Rights{Audience: access.Audience{Who: access.OnlyOwner}}
	person := b.Person(t, "Ada", "Quill", "ada@quill.example")
	company, err := b.Store.AddCompany(ctx, domain.Company{Name: "Quill", OwnerID: &nora.ID, CreatedAt: b.Now()})
	if err != nil {
		t.Fatal(err)
	}
	_, err = b.Store.AddDeal(ctx, domain.Deal{Name: "Room", CompanyID: &company, MainContactID: &person, Stage: "quoted", OwnerID: &nora.ID, CreatedAt: b.Now()}, nil)
	made := []error{err}
	note := func(_ any, err error) { made = append(made, err) }
	template, err := b.App.Library.AddTemplate(ctx, nora, library.TemplateInput{Name: "Hers", Input: library.Input{Subject: "s", Body: "Dear {{person.first_name}}"}, State: domain.TemplateReady})
	made = append(made, err, b.App.Library.SetTemplateRights(ctx, nora, template.ID, own))
	note(b.App.Desk.StartLetter(ctx, nora, person, &template.ID, nil))
	note(b.App.Library.AddPassage(ctx, nora, library.PassageInput{Name: "Hers", Shortcut: "hers", Body: "b", Rights: own}))
	note(b.App.Library.AddDocument(ctx, lea, library.DocumentInput{Name: "Margins", Rights: own}, "margins.pdf", []byte("%PDF-1")))
	note(b.App.Library.AddFolder(ctx, nora, library.HoldsTemplates, library.FolderInput{Name: "Hers"}))
	note(b.App.Tasks.AddTask(ctx, nora, tasks.TaskInput{Text: "Call", DueAt: b.Now().Add(time.Hour), PersonID: &person}))
	note(b.App.Rounds.StartRound(ctx, nora, rounds.Start{People: []int64{person}, TemplateID: &template.ID}))
	made = append(made, b.App.Inbox.TakeIn(ctx, "", []string{nora.Email}, []byte("From: stranger@other.example\r\nSubject: For Nora\r\n\r\nhello\r\n")))
	series, err := b.App.Plans.AddPlan(ctx, nora, plans.Input{Name: "Hers", Steps: []domain.PlanStep{{Kind: "letter", When: plan.Timing{Days: 2}, TemplateID: &template.ID}}})
	made = append(made, err)
	series, err = b.App.Plans.SetPlanState(ctx, nora, series.ID, series.Version, domain.TemplateReady)
	made = append(made, err)
	note(b.App.Plans.Start(ctx, nora, series.ID, []int64{person}, plans.With{}))
	made = append(made, b.App.Plans.SetPlanRights(ctx, nora, series.ID, own))
	note(b.App.Orders.Add(ctx, nora, orders.Input{Name: "Hers", Said: domain.OrderSaid{When: plan.Trigger{On: plan.OnReply}, Do: []domain.OrderAct{{Do: plan.StopPlan}}}}))
	for _, err := range made {
		if err != nil {
			t.Fatal(err)
		}
	}
	h := New(b.App, b.Store, nil, slog.New(slog.DiscardHandler))
	cookies = []string{""}
	for _, u := range users {
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"`+u.Email+`","password":"`+password+`"}`))
		r.Header.Set("Content-Type", "application/json")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		if w.Code != 200 {
			t.Fatal(w.Body)
		}
		for _, c := range w.Result().Cookies() {
			if c.Name == "lucidletter" {
				cookies = append(cookies, c.Name+"="+c.Value)
			}
		}
	}
	return b, cookies
}

// copyOf opens the program on a copy of a workspace.
func copyOf(t *testing.T, b *testbed.Bed, base string) (h http.Handler, done func()) {
	t.Helper()
	folder := t.TempDir()
	raw, err := os.ReadFile(base)
	if err == nil {
		err = os.WriteFile(filepath.Join(folder, store.FileName), raw, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(context.Background(), folder)
	if err != nil {
		t.Fatal(err)
	}
	return New(b.App.With(func(p *app.Ports) { p.Store = s }), s, nil, slog.New(slog.DiscardHandler)), func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	}
}

// Every operation of the API answers everybody as the table says. The operations and
// their requests come from the description of the API; one that is new is missing in the
// table until somebody says who may what.
func TestServer_rightsTable(t *testing.T) {
	b, cookies := world(t)
	base := filepath.Join(t.TempDir(), "base.db")
	if _, err := b.Store.DB().Exec(`VACUUM INTO ?`, base); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile("../../openapi.json")
	var d described
	if err == nil {
		err = json.Unmarshal(raw, &d)
	}
	if err != nil {
		t.Fatal(err)
	}
	h, done := copyOf(t, b, base)
	var lines []string
	for path, ops := range d.Paths {
		for method, op := range ops {
			where, kind, body := d.request(t, path, method)
			line := fmt.Sprintf("%-19s", op.ID)
			for _, cookie := range cookies {
				r := httptest.NewRequest(strings.ToUpper(method), where, bytes.NewReader(body))
				if r.Header.Set("Cookie", cookie); kind != "" {
					r.Header.Set("Content-Type", kind)
				}
				w := httptest.NewRecorder()
				h.ServeHTTP(w, r)
				if _, err := io.Copy(io.Discard, w.Result().Body); err != nil {
					t.Fatal(err)
				}
				line += fmt.Sprintf(" %d", w.Code)
				if w.Code >= 500 {
					t.Errorf("%s: %s", op.ID, w.Body)
				}
				if method != "get" && w.Code < 400 { // something was changed
					done()
					h, done = copyOf(t, b, base)
				}
			}
			lines = append(lines, line)
		}
	}
	done()
	slices.Sort(lines)
	got := fmt.Sprintf("%-19s %s\n", "# operation", strings.Join(who, " ")) + strings.Join(lines, "\n") + "\n"
	if os.Getenv("LUCID_WRITE_RIGHTS") != "" {
		if err := os.WriteFile(tableFile, []byte(got), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(tableFile)
	if err != nil {
		t.Fatal(err)
	}
	expected := strings.Split(string(want), "\n")
	for _, line := range strings.Split(got, "\n") {
		if !slices.Contains(expected, line) {
			t.Errorf("answers %q", line)
		}
	}
	for _, line := range expected {
		if !strings.Contains(got, line) {
			t.Errorf("the table says %q", line)
		}
	}
}
