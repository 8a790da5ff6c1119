package httpapi

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

var errSignedOut = errors.New("signed out")

const unexpected = "Something went wrong at our end, and it has been logged. Your text is still here; try again."

const (
	fullNow    = "The disk of this program is full, so this was not stored. Your text is still here; tell an administrator, and try again when there is room."
	damagedNow = "The database of this program is damaged, so this was not done. Tell an administrator: a copy of it has to be put back (see Backup in the handbook for running it)."
)

const busyNow = "The program is busy right now. Your text is still here; try again in a moment."

// problem is an error as callers get it (RFC 9457). Of fields the detail is made of what
// is said of each.
func problem(status int, detail string, fields ...domain.FieldError) *huma.ErrorModel {
	m := &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail}
	var words []string
	for _, f := range fields {
		m.Errors = append(m.Errors, &huma.ErrorDetail{Location: f.Where, Message: f.Why})
		words = append(words, asSentence(f.Where, f.Why))
	}
	if len(words) > 0 {
		m.Detail = strings.Join(words, " ")
	}
	return m
}

// wrongRequest is a request that is not of the form that the API asks for.
func wrongRequest(status int, detail string, errs ...error) huma.StatusError {
	var fields []domain.FieldError
	for _, err := range errs {
		var d huma.ErrorDetailer
		switch {
		case errors.As(err, &d):
			fields = append(fields, domain.FieldError{Where: d.ErrorDetail().Location, Why: d.ErrorDetail().Message})
		case err != nil:
			fields = append(fields, domain.FieldError{Why: err.Error()})
		}
	}
	return problem(status, detail, fields...)
}

// places are the parts of requests that screens call by other names.
var places = map[string]string{
	"personId": "Recipient", "dealId": "Deal", "templateId": "Template", "ownerId": "Owner", "to": "To", "cc": "Cc", "bcc": "Bcc",
}

// placeName is what people call a place that a request named: replyTo is "Reply to",
// person.first_name "First name".
func placeName(where string) string {
	if name, known := places[where]; known {
		return name
	}
	last := strings.ReplaceAll(where[strings.LastIndexByte(where, '.')+1:], "_", " ")
	var b strings.Builder
	before := rune(0)
	for i, r := range last {
		switch {
		case i == 0:
			r = unicode.ToUpper(r)
		case unicode.IsUpper(r) && unicode.IsLower(before):
			b.WriteByte(' ')
			r = unicode.ToLower(r)
		}
		b.WriteRune(r)
		before = r
	}
	return b.String()
}

var wholeSentence = regexp.MustCompile(`^[A-Z“"].*[.!]$`)

// asSentence says what is wrong with a place.
func asSentence(where, why string) string {
	if where != "" && !wholeSentence.MatchString(why) {
		why = placeName(where) + ": " + why
	}
	if strings.HasSuffix(why, ".") || strings.HasSuffix(why, "!") || strings.HasSuffix(why, "?") {
		return why
	}
	return why + "."
}

// answer turns an error of the app into what the caller may know of it. It is
// the one place where that is decided.
func (s *Server) answer(operation string, err error) error {
	var bad *domain.InvalidError
	var state *domain.StateError
	var wait *team.WaitError
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
	if told := trouble(err); told != "" {
		s.log.Error("request failed", "operation", operation, "error", err)
		return problem(http.StatusInsufficientStorage, told)
	}
	if errors.Is(err, context.DeadlineExceeded) || domain.Busy(err) {
		s.log.Warn("request had to wait too long", "operation", operation, "error", err)
		later := problem(http.StatusServiceUnavailable, busyNow)
		return huma.ErrorWithHeaders(later, http.Header{"Retry-After": {"2"}})
	}
	s.log.Error("request failed", "operation", operation, "error", err)
	return problem(http.StatusInternalServerError, unexpected)
}

// trouble says what is wrong with the disk or the database, or "".
func trouble(err error) string {
	switch {
	case domain.DiskFull(err):
		return fullNow
	case domain.Damaged(err):
		return damagedNow
	}
	return ""
}

func init() { huma.NewError = wrongRequest } // so that every refusal is told alike
