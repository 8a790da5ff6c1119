// Package domain is the nouns of the program as data, with their states: people,
// companies, deals, templates, letters, accounts, what came back. It computes no more than
// what follows from one of them alone. Times are UTC, ids are those of the store and never
// used twice, money is in minor units of its currency (ISO 4217).
package domain

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"lucidletter/core/access"
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

// Add adds what is wrong according to another error of this kind; nil adds nothing.
func (e *InvalidError) Add(err error) {
	var one *InvalidError
	if errors.As(err, &one) {
		e.Fields = append(e.Fields, one.Fields...)
	} else if err != nil {
		e.Fields = append(e.Fields, FieldError{Why: err.Error()})
	}
}

// Names tells whether a field or place is among what is wrong.
func (e *InvalidError) Names(where string) bool {
	return slices.ContainsFunc(e.Fields, func(f FieldError) bool { return f.Where == where })
}

// Invalid is the error of one field or place: why says what is wrong and what to do, as
// fmt.Sprintf writes it.
func Invalid(where, why string, args ...any) error {
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

// Lasting reports whether an error is about the things themselves, so that trying again changes
// nothing before they do; others may be of a store that fails.
func Lasting(err error) bool {
	var bad *InvalidError
	for _, of := range []error{ErrNotFound, ErrStale, ErrDenied, ErrState} {
		if errors.Is(err, of) {
			return true
		}
	}
	return errors.As(err, &bad)
}

// ForPeople gives the words of an error that says to people what is wrong; false for others.
func ForPeople(err error) (why string, told bool) {
	var state *StateError
	var bad *InvalidError
	switch {
	case errors.As(err, &state):
		return state.Why, true
	case errors.As(err, &bad):
		return bad.Error(), true
	}
	return "", false
}

// May gives ErrDenied unless a user may do something with a thing.
func May(u User, what access.Action, t access.Thing) error {
	if !access.May(u.As(), what, t) {
		return ErrDenied
	}
	return nil
}
