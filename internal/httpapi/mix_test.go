package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/core/access"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
)

// Everything at once: an import, counts of reach, letters that go out and mail that comes
// in, saves and settings. Every request is answered, and nobody hangs. LUCID_MIX says for
// how long, such as 60s; two seconds without it.
func TestServer_everythingAtOnce(t *testing.T) {
	lasts, err := time.ParseDuration(os.Getenv("LUCID_MIX"))
	if err != nil {
		lasts = 2 * time.Second
	}
	b, c := start(t)
	ctx, cancel := context.WithCancel(context.Background())
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	template := b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}, of {{company.name|your company}}")
	door, err := mail.OpenInbound("127.0.0.1:0", false, b.App, slog.New(slog.DiscardHandler))
	if err != nil {
		t.Fatal(err)
	}
	var workers sync.WaitGroup
	worker := outbox.New(b.App, slog.New(slog.DiscardHandler))
	workers.Go(func() { worker.Run(ctx) })
	workers.Go(func() { b.App.Transfer.RunImports(ctx, func(err error) { t.Error(err) }) })
	defer func() {
		cancel()
		workers.Wait()
		if err := door.Close(); err != nil {
			t.Error(err)
		}
	}()
	var asked, answered atomic.Int64
	busy := map[int]bool{200: true, 204: true, 409: true, 503: true} // 409: somebody else saved first
	ask := func(method, path, kind string, body []byte) []byte {
		asked.Add(1)
		r, err := http.NewRequestWithContext(context.Background(), method, c.url+path, bytes.NewReader(body))
		if err != nil {
			t.Error(err)
			return nil
		}
		r.Header.Set("Content-Type", kind)
		res, err := c.http.Do(r)
		if err != nil {
			t.Errorf("%s %s: %v", method, path, err)
			return nil
		}
		defer func() { _ = res.Body.Close() }()
		raw, err := io.ReadAll(res.Body)
		if err != nil || !busy[res.StatusCode] {
			t.Errorf("%s %s: %d %.200s %v", method, path, res.StatusCode, raw, err)
		}
		answered.Add(1)
		return raw
	}
	until := time.Now().Add(lasts)
	var all sync.WaitGroup
	again := func(f func(n int)) {
		all.Go(func() {
			for n := 0; time.Now().Before(until); n++ {
				f(n)
			}
		})
	}
	again(func(n int) { // imports, short and long
		var form bytes.Buffer
		w := multipart.NewWriter(&form)
		part, err := w.CreateFormFile("file", "people.csv")
		if err != nil {
			t.Error(err)
		}
		fmt.Fprintln(part, "First,Last,Email,Company")
		for i := range 50 + n%3*400 {
			fmt.Fprintf(part, "Bo,Ohm,bo%d@ohm.example,Ohm %d\n", n*1000+i, i%9)
		}
		if err := w.Close(); err != nil {
			t.Error(err)
		}
		ask("POST", "/api/imports?kind=contact", w.FormDataContentType(), form.Bytes())
		time.Sleep(100 * time.Millisecond)
	})
	for range 2 {
		again(func(int) { ask("GET", fmt.Sprintf("/api/templates/%d/reach", template), "", nil) })
		again(func(n int) { ask("GET", fmt.Sprintf("/api/people?q=o&limit=100&offset=%d", n%300), "", nil) })
		again(func(n int) {
			var p struct {
				Person struct {
					Version int `json:"version"`
				} `json:"person"`
			}
			if raw := ask("GET", fmt.Sprintf("/api/people/%d", ada), "", nil); json.Unmarshal(raw, &p) == nil {
				ask("PATCH", fmt.Sprintf("/api/people/%d", ada), "application/json", fmt.Appendf(nil, `{"version":%d,"set":{"person.city":"City %d"}}`, p.Person.Version, n))
			}
		})
	}
	again(func(int) { // letters
		l, err := b.App.Desk.StartLetter(ctx, b.Rep, ada, &template, nil)
		if err == nil {
			_, err = b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{})
		}
		if err != nil {
			t.Error(err)
		}
		b.Pass(30 * time.Second)
		b.App.Wake()
		time.Sleep(20 * time.Millisecond)
	})
	again(func(n int) { // mail
		raw := fmt.Sprintf("From: ada@quill.example\r\nSubject: Re: Hi\r\nMessage-ID: <m%d@quill.example>\r\n\r\nyes %d\r\n", n, n)
		client, err := smtp.Dial(door.Addr())
		if err == nil {
			err = errors.Join(client.SendMail("ada@quill.example", []string{b.Rep.Email}, strings.NewReader(raw)), client.Quit())
		}
		if err != nil {
			t.Error(err)
		}
	})
	again(func(n int) { // settings
		settings, err := b.App.Team.Settings(ctx)
		if err == nil {
			settings.Tracking = n%2 == 0
			err = b.App.Team.SetSettings(ctx, domain.User{ID: b.Lead.ID, Role: access.Administrator}, settings)
		}
		if err != nil {
			t.Error(err)
		}
		time.Sleep(10 * time.Millisecond)
	})
	all.Wait()
	if asked.Load() != answered.Load() || asked.Load() < 20 {
		t.Errorf("%d asked, %d answered", asked.Load(), answered.Load())
	}
	t.Logf("%d requests in %s, all answered", asked.Load(), lasts)
}
