package httpapi

import (
	"context"
	"database/sql"
	"errors"
	"net"
	"net/http"
	"net/netip"
	"strings"
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

// caller is where the address of a request stands in its context.
type caller struct{}

// withCaller notes the address that a request comes from.
func withCaller(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), caller{}, callerOf(r))))
	})
}

// callerOf gives the address that a request comes from: of a proxy on this machine the
// last one that it names. An IPv6 address stands for its network of 64 bits, of which
// one line has all.
func callerOf(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	at, err := netip.ParseAddr(host)
	if named := r.Header.Get("X-Forwarded-For"); err == nil && at.IsLoopback() && named != "" {
		if a, err := netip.ParseAddr(strings.TrimSpace(named[strings.LastIndexByte(named, ',')+1:])); err == nil {
			at = a
		}
	}
	if at = at.Unmap(); at.Is6() {
		if net, err := at.Prefix(64); err == nil {
			return net.String()
		}
	}
	return at.String()
}

// signIn signs somebody in; what fails is logged with where it came from.
func (s *Server) signIn(ctx context.Context, email, password string) (domain.User, error) {
	from, _ := ctx.Value(caller{}).(string)
	u, err := s.app.Team.SignIn(ctx, email, password, from)
	var wait *team.WaitError
	if errors.Is(err, domain.ErrSignIn) || errors.As(err, &wait) {
		s.log.Warn("sign-in failed", "email", email, "from", from, "reason", err)
	}
	return u, err
}
