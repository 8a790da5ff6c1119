package httpapi

import (
	"context"
	"crypto/sha256"
	"encoding/base64"
	"io"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/httpapi/pages"

	"lucidletter/core/question"
	"lucidletter/internal/app/desk"
)

// stranger asks for a page as somebody who is not signed in; a body is a form.
func stranger(t *testing.T, method, address, form string) (int, string, http.Header) {
	t.Helper()
	r, err := http.NewRequest(method, address, strings.NewReader(form))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	answer, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = answer.Body.Close() }()
	text, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	return answer.StatusCode, string(text), answer.Header
}

func TestAnswerPage(t *testing.T) {
	ctx := context.Background()
	b, c := start(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "s", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Ask(ctx, b.Rep, l.ID, question.Sheet{Questions: []question.Question{{Text: "Come <b>?", Answers: []string{"Yes", "No"}}}}); err != nil {
		t.Fatal(err)
	}
	asked, err := b.Store.AskedIn(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	get := func(path string) (int, string, http.Header) { return stranger(t, "GET", c.url+path, "") }
	path := "/a/" + asked[0].Token
	if status, text, _ := get(path + "/1"); status != 200 || !strings.Contains(text, "hasn’t been sent yet") || strings.Contains(text, "<script") {
		t.Errorf("before it went: %d %s", status, text)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	// A scanner that follows the link answers nothing.
	status, text, header := get(path + "/2")
	if status != 200 || !strings.Contains(text, "Come &lt;b&gt;?") || !strings.Contains(text, `value="No" checked`) {
		t.Errorf("%d %s", status, text)
	}
	sum := sha256.Sum256([]byte(pages.SendAtOnce))
	if hash := "'sha256-" + base64.StdEncoding.EncodeToString(sum[:]) + "'"; hash != pages.SendAtOnceHash || !strings.Contains(header.Get("Content-Security-Policy"), hash) {
		t.Errorf("the script's hash is %s; the page says %s", hash, header.Get("Content-Security-Policy"))
	}
	if again, err := b.Store.AskedIn(ctx, l.ID); err != nil || again[0].AnsweredAt != nil {
		t.Errorf("a look at the page answered it: %v", err)
	}
	post := func(form url.Values) (int, string) {
		status, text, _ := stranger(t, "POST", c.url+path, form.Encode())
		return status, text
	}
	for name, form := range map[string]url.Values{"nothing": {}, "another answer": {"q0": {"Perhaps"}}} {
		if status, text := post(form); status != 422 || !strings.Contains(text, `role="alert"`) {
			t.Errorf("%s: %d %s", name, status, text)
		}
	}
	if status, _ := post(url.Values{"q0": {strings.Repeat("x", pages.MaxAnswers)}}); status != http.StatusRequestEntityTooLarge {
		t.Errorf("too much: %d", status)
	}
	if status, text := post(url.Values{"q0": {"No"}}); status != 200 || !strings.Contains(text, "Thank you") || !strings.Contains(text, "<dd>No</dd>") || !strings.Contains(text, "Imre Falk") {
		t.Errorf("%d %s", status, text)
	}
	if again, err := b.Store.AskedIn(ctx, l.ID); err != nil || again[0].Answers[0] != "No" {
		t.Errorf("%+v %v", again, err)
	}
	if status, text, _ := get("/a/nothing"); status != 404 || !strings.Contains(text, "This page doesn’t exist") {
		t.Errorf("%d %s", status, text)
	}
}

func TestOptOutPage(t *testing.T) {
	ctx := context.Background()
	b, c := start(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "s", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	sent, err := b.Store.Letter(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	call := func(method, path, body string) (int, string) {
		status, text, _ := stranger(t, method, c.url+path, body)
		return status, text
	}
	path := "/out/" + sent.Token
	if status, text := call("GET", path, ""); status != 200 || !strings.Contains(text, "<b>ada@quill.example</b>") || !strings.Contains(text, "<button>") {
		t.Errorf("%d %s", status, text)
	}
	// A look changes nothing; the request of RFC 8058 section 3.2 does.
	if p, err := b.Store.Person(ctx, l.PersonID); err != nil || p.OptedOutAt != nil {
		t.Errorf("a look opted out: %v", err)
	}
	if status, text := call("POST", path, "List-Unsubscribe=One-Click"); status != 200 || !strings.Contains(text, "You’re unsubscribed") {
		t.Errorf("%d %s", status, text)
	}
	if p, err := b.Store.Person(ctx, l.PersonID); err != nil || p.OptedOutAt == nil {
		t.Errorf("not opted out: %v", err)
	}
	if status, text := call("GET", path, ""); status != 200 || !strings.Contains(text, "was already unsubscribed") {
		t.Errorf("%d %s", status, text)
	}
	for _, method := range []string{"GET", "POST"} {
		if status, text := call(method, "/out/proof", ""); status != 404 || !strings.Contains(text, "This page doesn’t exist") {
			t.Errorf("%s: %d %s", method, status, text)
		}
	}
}
