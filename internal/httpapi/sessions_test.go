package httpapi

import (
	"bytes"
	"database/sql"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/httpapi/guard"

	_ "modernc.org/sqlite"
)

// broken is a store of sessions whose readers do not answer.
type broken struct{ write, read *sql.DB }

func (b broken) DB() *sql.DB      { return b.write }
func (b broken) Readers() *sql.DB { return b.read }

// A store that fails is not a sign-out: what is open in the browser stays.
func TestServer_sessionStoreFails(t *testing.T) {
	b, c := start(t)
	gone, err := sql.Open("sqlite", ":memory:")
	if err == nil {
		err = gone.Close()
	}
	if err != nil {
		t.Fatal(err)
	}
	cookies := c.http.Jar.Cookies(must(http.NewRequest("GET", c.url, nil)).URL)
	h := New(b.App, broken{b.Store.DB(), gone}, nil, slog.New(slog.DiscardHandler))
	r := httptest.NewRequest("GET", "/api/people", nil)
	r.AddCookie(cookies[0])
	w := httptest.NewRecorder()
	h.ServeHTTP(w, r)
	if w.Code != 503 || w.Header().Get("Retry-After") == "" || !strings.Contains(w.Body.String(), "busy") {
		t.Errorf("%d %s", w.Code, w.Body)
	}
	// Users that cannot be read are no sign-out either.
	if _, err := b.Store.DB().Exec(`ALTER TABLE users RENAME TO users_gone`); err != nil {
		t.Fatal(err)
	}
	if status, body, _ := c.do("GET", "/api/people", ""); status == 401 {
		t.Errorf("%d %s", status, body)
	}
	if status, body, _ := c.do("GET", "/api/session/state", ""); status == 200 {
		t.Errorf("%d %s", status, body)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// Guessing is slowed and logged; the cookie is for https where the program is.
func TestServer_guessing(t *testing.T) {
	b, _ := start(t)
	var log bytes.Buffer
	b.App.Connect(func(p *app.Ports) { p.PublicURL = "https://letters.fernhollow.example" })
	h := New(b.App, b.Store, nil, slog.New(slog.NewTextHandler(&log, nil)))
	try := func(email, password, from, forwarded string) *httptest.ResponseRecorder {
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"`+email+`","password":"`+password+`"}`))
		r.Header.Set("Content-Type", "application/json")
		if r.RemoteAddr = from; forwarded != "" {
			r.Header.Set("X-Forwarded-For", forwarded)
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	var last *httptest.ResponseRecorder
	for range 7 {
		last = try("nora@fernhollow.example", "guess", "203.0.113.9:4000", "")
	}
	if last.Code != 429 || last.Header().Get("Retry-After") == "" || !strings.Contains(last.Body.String(), "Try again in") {
		t.Errorf("%d %v %s", last.Code, last.Header(), last.Body)
	}
	if n := strings.Count(log.String(), "sign-in"); n != 6 || !strings.Contains(log.String(), "from=203.0.113.9") || strings.Contains(log.String(), "password=") {
		t.Errorf("%d lines: %s", n, log.String())
	}
	// A name that is forged in front of the proxy's own does not help; another caller of
	// the proxy is not held up.
	for range 7 {
		last = try("nora@fernhollow.example", "guess", "127.0.0.1:4000", "10.9.8.7, 203.0.113.9")
	}
	if last.Code != 429 {
		t.Errorf("behind a proxy: %d", last.Code)
	}
	good := try("nora@fernhollow.example", "long enough for her", "127.0.0.1:4000", "203.0.113.9, 198.51.100.4")
	if cookies := good.Header().Values("Set-Cookie"); good.Code != 200 || len(cookies) != 2 {
		t.Errorf("%d %s", good.Code, cookies)
	}
	for _, cookie := range good.Header().Values("Set-Cookie") {
		if !strings.Contains(cookie, "; Secure") || !strings.Contains(cookie, "; HttpOnly") {
			t.Error(cookie)
		}
	}
	unknown := try("nobody@fernhollow.example", "guess", "198.51.100.5:1", "")
	wrong := try("nora@fernhollow.example", "guess", "198.51.100.6:1", "")
	if unknown.Code != wrong.Code || unknown.Body.String() != wrong.Body.String() {
		t.Errorf("an unknown user is told: %s %s", unknown.Body, wrong.Body)
	}
}

// However many strangers guess, who has signed in on a device before is let in there; nobody
// else is by their mark.
func TestServer_knownDevice(t *testing.T) {
	b, _ := start(t)
	var log bytes.Buffer
	h := New(b.App, b.Store, nil, slog.New(slog.NewTextHandler(&log, nil)))
	try := func(email, password, from, device string) *httptest.ResponseRecorder {
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"`+email+`","password":"`+password+`"}`))
		r.Header.Set("Content-Type", "application/json")
		if r.RemoteAddr = from; device != "" {
			r.AddCookie(&http.Cookie{Name: deviceCookie, Value: device})
		}
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	device := ""
	for _, c := range try("nora@fernhollow.example", "long enough for her", "198.51.100.4:1", "").Result().Cookies() {
		if c.Name == deviceCookie {
			device = c.Value
			if !c.HttpOnly || c.SameSite != http.SameSiteStrictMode || c.MaxAge < 24*3600 {
				t.Errorf("%+v", c)
			}
		}
	}
	if device == "" {
		t.Fatal("no mark")
	}
	for i := range 200 {
		try("nora@fernhollow.example", "guess", fmt.Sprintf("203.0.113.%d:1", i%64), "")
	}
	if w := try("nora@fernhollow.example", "long enough for her", "198.51.100.9:1", ""); w.Code != 429 {
		t.Errorf("from a new device meanwhile: %d", w.Code)
	}
	for range 5 {
		if w := try("nora@fernhollow.example", "long enough for her", "203.0.113.5:1", device); w.Code != 200 {
			t.Fatalf("the owner on a known device: %d %s", w.Code, w.Body)
		}
	}
	// A mark that was copied is no way to guess on and on, and one that was made up is none at all.
	last := 0
	for range 7 {
		last = try("nora@fernhollow.example", "guess", "203.0.113.5:1", device).Code
	}
	if last != 429 {
		t.Errorf("seven guesses with a mark: %d", last)
	}
	if w := try("nora@fernhollow.example", "long enough for her", "203.0.113.5:1", "x"+device[1:]); w.Code != 429 {
		t.Errorf("a forged mark: %d", w.Code)
	}
	if n := strings.Count(log.String(), "\n"); n > 80 {
		t.Errorf("%d lines were logged", n)
	}
}

func TestCallerOf(t *testing.T) {
	proxies := []netip.Prefix{netip.MustParsePrefix("10.0.0.0/24"), netip.MustParsePrefix("127.0.0.0/8"), netip.MustParsePrefix("::1/128")}
	for _, row := range []struct {
		from      string
		forwarded []string
		want      string
	}{
		{"203.0.113.9:4000", nil, "203.0.113.9"},
		{"203.0.113.9:4000", []string{"198.51.100.4"}, "203.0.113.9"},
		{"127.0.0.1:1", []string{"10.9.8.7, 203.0.113.9"}, "203.0.113.9"},
		{"10.0.0.5:1", []string{"203.0.113.9"}, "203.0.113.9"},
		{"10.0.1.5:1", []string{"203.0.113.9"}, "10.0.1.5"},
		{"10.0.0.5:1", []string{"1.2.3.4", "203.0.113.9"}, "203.0.113.9"}, // two lines are one list
		{"10.0.0.5:1", []string{"1.2.3.4, 203.0.113.9, 10.0.0.7"}, "203.0.113.9"},
		{"10.0.0.5:1", []string{"1.2.3.4", "nonsense"}, "10.0.0.5"},
		{"10.0.0.5:1", []string{"203.0.113.9:51000"}, "203.0.113.9"},
		{"[::1]:1", []string{"[2001:db8:1:2:3:4:5:6]"}, "2001:db8:1:2::/64"},
		{"[::ffff:10.0.0.5]:1", []string{"203.0.113.9"}, "203.0.113.9"},
		{"10.0.0.5:1", []string{"10.0.0.6"}, "10.0.0.6"},
	} {
		r := httptest.NewRequest("GET", "/", nil)
		r.RemoteAddr = row.from
		for _, line := range row.forwarded {
			r.Header.Add("X-Forwarded-For", line)
		}
		if got := guard.CallerOf(r, proxies); got != row.want {
			t.Errorf("%s %q: %s, want %s", row.from, row.forwarded, got, row.want)
		}
	}
}

// Sessions whose time is over are not read, and go with the next sign-in.
func TestServer_oldSessions(t *testing.T) {
	b, c := start(t)
	if _, err := b.Store.DB().Exec(`UPDATE sessions SET expiry = ?`, guard.Julian(time.Now().Add(-time.Minute))); err != nil {
		t.Fatal(err)
	}
	c.must(401, "GET", "/api/people", "")
	c.must(200, "POST", "/api/session", `{"email":"nora@fernhollow.example","password":"long enough for her"}`)
	var n int
	if err := b.Store.DB().QueryRow(`SELECT count(*) FROM sessions`).Scan(&n); err != nil || n != 1 {
		t.Errorf("%d sessions, %v", n, err)
	}
}
