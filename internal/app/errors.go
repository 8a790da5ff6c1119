// Package app holds the use cases, by noun. It decides; the core computes; the
// store, the mail packages and the HTTP layer carry. Everything outside comes
// in through the ports of ports.go, the clock included.
package app

import (
	"errors"
	"fmt"
	"strings"
)

// The errors that callers tell apart. Everything else is unexpected: it is
// logged and never shown.
var (
	ErrNotFound = errors.New("not found")
	ErrStale    = errors.New("changed by somebody else since it was opened")
	ErrDenied   = errors.New("not allowed")
	ErrSignIn   = errors.New("email or password is wrong")
	ErrState    = errors.New("not possible in this state")
	// ErrDiscarded says that a draft was discarded; it can be restored.
	ErrDiscarded = errors.New("discarded")
)

// FieldError names a field or place, and what to do about it.
type FieldError struct {
	Where string `json:"where"`
	Why   string `json:"why"`
}

// InvalidError is input that was refused, field by field; nothing was changed.
type InvalidError struct {
	Fields []FieldError
}

func (e *InvalidError) Error() string {
	parts := make([]string, len(e.Fields))
	for i, f := range e.Fields {
		parts[i] = f.Where + ": " + f.Why
	}
	return strings.Join(parts, "; ")
}

func invalid(where, why string, args ...any) error {
	return &InvalidError{Fields: []FieldError{{Where: where, Why: fmt.Sprintf(why, args...)}}}
}

// StateError says in words why something is not possible now.
type StateError struct{ Why string }

func (e *StateError) Error() string { return e.Why }

// Unwrap makes it an ErrState.
func (e *StateError) Unwrap() error { return ErrState }

// Busy tells whether a store could not be reached since somebody else was writing:
// trying again later helps.
func Busy(err error) bool {
	var busy interface{ Busy() bool }
	return errors.As(err, &busy) && busy.Busy()
}
