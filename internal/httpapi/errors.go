package httpapi

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/internal/app"
	"lucidletter/internal/domain"
)

var errSignedOut = errors.New("signed out")

const unexpected = "Something went wrong at our end, and it has been logged. Your text is still here; try again."

const busyNow = "The program is busy right now. Your text is still here; try again in a moment."

func problem(status int, detail string, fields ...domain.FieldError) *huma.ErrorModel {
	m := &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}
	for _, f := range fields {
		m.Errors = append(m.Errors, &huma.ErrorDetail{Location: f.Where, Message: f.Why})
	}
	return m
}

// answer turns an error of the app into what the caller may know of it. It is
// the one place where that is decided.
func (s *Server) answer(operation string, err error) error {
	var bad *domain.InvalidError
	var state *domain.StateError
	var wait *app.WaitError
	switch {
	case errors.As(err, &bad):
		return problem(http.StatusUnprocessableEntity, bad.Error(), bad.Fields...)
	case errors.As(err, &state):
		return problem(http.StatusUnprocessableEntity, state.Why)
	case errors.Is(err, errSignedOut):
		return problem(http.StatusUnauthorized, "You’re signed out. Sign in to continue; your text is kept.")
	case errors.As(err, &wait):
		seconds := int(math.Ceil(wait.For.Seconds()))
		later := problem(http.StatusTooManyRequests, fmt.Sprintf("That was tried too often. Try again in %d s.", seconds))
		return huma.ErrorWithHeaders(later, http.Header{"Retry-After": {strconv.Itoa(seconds)}})
	case errors.Is(err, domain.ErrSignIn):
		return problem(http.StatusUnauthorized, "The email or password is wrong.")
	case errors.Is(err, domain.ErrNotFound):
		return problem(http.StatusNotFound, "This doesn’t exist, or you don’t have access to it.")
	case errors.Is(err, domain.ErrDiscarded):
		return problem(http.StatusGone, "This letter was discarded. Restore it to go on with it.")
	case errors.Is(err, domain.ErrStale):
		return problem(http.StatusConflict, "Somebody else changed this after you opened it. Nothing was overwritten.")
	case errors.Is(err, domain.ErrDenied):
		return problem(http.StatusForbidden, "You don’t have permission to do this. Ask the owner or an administrator.")
	case errors.Is(err, context.Canceled):
		return problem(499, "The request was cancelled.")
	}
	if errors.Is(err, context.DeadlineExceeded) || domain.Busy(err) {
		s.log.Warn("request had to wait too long", "operation", operation, "error", err)
		later := problem(http.StatusServiceUnavailable, busyNow)
		return huma.ErrorWithHeaders(later, http.Header{"Retry-After": {"2"}})
	}
	s.log.Error("request failed", "operation", operation, "error", err)
	return problem(http.StatusInternalServerError, unexpected)
}
