package httpapi

import (
	"context"
	"database/sql"
	"errors"
	"net/http"
	"sync"
	"time"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Databases is where sessions are kept: they are read where others read, so that who is
// signed in never waits for who writes.
type Databases interface {
	DB() *sql.DB
	Readers() *sql.DB
}

// sessionStore keeps sessions (scs.CtxStore); waits end with the request.
type sessionStore struct{ write, read *sql.DB }

// julian is a time in days as SQLite's julianday gives it.
func julian(t time.Time) float64 { return float64(t.UnixMilli())/86_400_000 + 2_440_587.5 }

// FindCtx gives what a session holds.
func (s sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	var data []byte
	err := s.read.QueryRowContext(ctx, `SELECT data FROM sessions WHERE token = ? AND expiry > ?`, token, julian(time.Now())).Scan(&data)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx stores a session, and takes those away whose time is over.
func (s sessionStore) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	_, err := s.write.ExecContext(ctx, `INSERT INTO sessions (token, data, expiry) VALUES (?, ?, ?)
		ON CONFLICT (token) DO UPDATE SET data = excluded.data, expiry = excluded.expiry`, token, data, julian(expiry))
	if err == nil {
		_, err = s.write.ExecContext(ctx, `DELETE FROM sessions WHERE expiry <= ?`, julian(time.Now()))
	}
	return err
}

// DeleteCtx ends a session.
func (s sessionStore) DeleteCtx(ctx context.Context, token string) error {
	_, err := s.write.ExecContext(ctx, `DELETE FROM sessions WHERE token = ?`, token)
	return err
}

// Find, Commit and Delete make it a scs.Store; the manager calls the ones above.
func (s sessionStore) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

func (s sessionStore) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

func (s sessionStore) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }

// sessionFailed answers when a session could not be read or stored: nobody is signed out
// by that.
func (s *Server) sessionFailed(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) {
		return
	}
	s.log.Error("session", "path", r.URL.Path, "error", err)
	w.Header().Set("Content-Type", "application/problem+json")
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Retry-After", "2")
	w.WriteHeader(http.StatusServiceUnavailable)
	// A caller that is gone does not hear it.
	_, _ = w.Write([]byte(`{"title":"Service Unavailable","status":503,"detail":"` + busyNow + `"}`))
}

// deviceCookie keeps the mark of a device on which somebody signed in.
const deviceCookie = "lucidletter_device"

// signIn signs somebody in. What fails is logged with where it came from; what was not even
// looked at, since somebody tries too often, in one line a minute.
func (s *Server) signIn(ctx context.Context, email, password, device string) (domain.User, error) {
	from, _ := ctx.Value(caller{}).(string)
	u, err := s.app.Team.SignIn(ctx, email, password, from, device)
	var wait *team.WaitError
	switch {
	case errors.Is(err, domain.ErrSignIn):
		s.log.Warn("sign-in failed", "email", email, "from", from, "reason", err)
	case errors.As(err, &wait):
		if n := s.refused.add(time.Now()); n > 0 {
			s.log.Warn("sign-ins refused, tried too often", "count", n, "last_email", email, "last_from", from)
		}
	}
	return u, err
}

// tally counts what is told of once a minute.
type tally struct {
	mu   sync.Mutex
	n    int
	told time.Time
}

// add counts one more, and gives how many there were when it is time to tell.
func (t *tally) add(now time.Time) int {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.n++
	if now.Sub(t.told) < time.Minute {
		return 0
	}
	n := t.n
	t.n, t.told = 0, now
	return n
}

// device gives the cookie of a device on which a user has signed in.
func (s *Server) device(u *domain.User) *http.Cookie {
	mark := s.app.Team.DeviceOf(u)
	if mark == "" {
		return nil
	}
	return &http.Cookie{
		Name: deviceCookie, Value: mark, Path: "/api/session", MaxAge: team.DeviceDays * 24 * 3600,
		HttpOnly: true, Secure: s.sessions.Cookie.Secure, SameSite: http.SameSiteStrictMode,
	}
}
