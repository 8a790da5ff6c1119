package httpapi

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"time"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/guard"
)

// sessionFailed answers when a session could not be read or stored: nobody is signed out
// by that.
func (s *Server) sessionFailed(w http.ResponseWriter, r *http.Request, err error) {
	defer guard.Given(w) // what the operation had to say is not told: it may be a profile
	if errors.Is(err, context.Canceled) {
		return
	}
	s.log.Error("session", "path", r.URL.Path, "error", err)
	w.Header().Set("Content-Type", "application/problem+json")
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Del("Set-Cookie")
	w.Header().Del("Content-Length")
	status, detail := http.StatusServiceUnavailable, busyNow
	if told := trouble(err); told != "" {
		status, detail = http.StatusInsufficientStorage, told
	} else {
		w.Header().Set("Retry-After", "2")
	}
	w.WriteHeader(status)
	// A caller that is gone does not hear it.
	_ = json.NewEncoder(w).Encode(problem(status, detail))
}

// deviceCookie keeps the mark of a device on which somebody signed in.
const deviceCookie = "lucidletter_device"

// signIn signs somebody in. What fails is logged with where it came from; what was not even
// looked at, since somebody tries too often, in one line a minute.
func (s *Server) signIn(ctx context.Context, email, password, device string) (domain.User, error) {
	from := guard.Caller(ctx)
	u, err := s.app.Team.SignIn(ctx, email, password, from, device)
	var wait *team.WaitError
	switch {
	case errors.Is(err, domain.ErrSignIn):
		s.log.Warn("sign-in failed", "email", email, "from", from, "reason", err)
	case errors.As(err, &wait):
		if n := s.refused.Add(time.Now()); n > 0 {
			s.log.Warn("sign-ins refused, tried too often", "count", n, "last_email", email, "last_from", from)
		}
	}
	return u, err
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
