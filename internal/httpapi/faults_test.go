package httpapi

import (
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
)

// coded is an error of the database as its driver gives it.
type coded int

func (c coded) Error() string { return "database: internal words" }
func (c coded) Code() int     { return int(c) }

// A full disk and a damaged database are told as that, in one JSON text and without anything that
// the request was about.
func TestServer_faults(t *testing.T) {
	for want, code := range map[string]coded{"disk of this program is full": 13, "is damaged": 11, "damaged, so": 26 | 1<<8, "busy right now": 10} {
		b, _ := start(t)
		if _, err := b.Store.DB().Exec(`CREATE TRIGGER no_sessions BEFORE INSERT ON sessions BEGIN SELECT raise(ABORT, 'x'); END`); err != nil {
			t.Fatal(err)
		}
		h := New(b.App, b.Store, nil, slog.New(slog.DiscardHandler))
		fails := h.sessions.ErrorFunc
		h.sessions.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) { fails(w, r, errors.Join(code, err)) }
		r := httptest.NewRequest("POST", "/api/session", strings.NewReader(`{"email":"nora@fernhollow.example","password":"long enough for her"}`))
		r.Header.Set("Content-Type", "application/json")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		dec := json.NewDecoder(w.Body)
		var told struct{ Detail, Email string }
		err := dec.Decode(&told)
		_, more := dec.Token()
		if err != nil || !errors.Is(more, io.EOF) || !strings.Contains(told.Detail, want) || told.Email != "" || len(w.Header().Values("Set-Cookie")) > 0 {
			t.Errorf("%s: %d %v %v %+v %v", want, w.Code, err, more, told, w.Header())
		}
	}
}
