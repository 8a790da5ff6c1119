// Package web is what the operations of the API have in common: who may ask, how answers and
// errors look.
package web

import (
	"context"
	"net/http"
	"regexp"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/internal/domain"
)

// API is where operations are registered. User gives the one who is signed in; Answer is an
// error as callers get it, of an operation.
type API struct {
	huma.API
	User   func(ctx context.Context) (domain.User, error)
	Answer func(operation string, err error) error
	// Patience is for how long something is looked up for somebody.
	Patience func() time.Duration
	makes    map[string]bool // method and route of what makes something
}

// making marks an operation that makes something.
const making = "making"

// Making is an operation that makes something: with a key of its own it is done once.
func Making(op huma.Operation) huma.Operation {
	if op.Metadata == nil {
		op.Metadata = map[string]any{}
	}
	op.Metadata[making] = true
	op.Parameters = append(op.Parameters, &huma.Param{
		Name: "Idempotency-Key", In: "header", Description: "8 to 100 letters: what this makes is made once for each key of a user, within a day",
		Schema: &huma.Schema{Type: huma.TypeString},
	})
	return op
}

// Makes tells whether a route makes something.
func (a *API) Makes(method, route string) bool { return a.makes[method+" "+route] }

var placeholder = regexp.MustCompile(`\{([^}]+)\}`)

// patient marks an operation that may take long, and is waited for.
const patient = "patient"

// Patient is an operation that may take a minute: what a file is made of.
func Patient(op huma.Operation) huma.Operation {
	if op.Metadata == nil {
		op.Metadata = map[string]any{}
	}
	op.Metadata[patient] = true
	return op
}

// signedIn is where the user of a request stands in its context.
type signedIn struct{}

// Handle registers an operation for those who are signed in; for others nothing of the request
// is read.
func Handle[I, O any](a *API, op huma.Operation, f func(context.Context, domain.User, *I) (*O, error)) {
	if op.Metadata[making] != nil {
		if a.makes == nil {
			a.makes = map[string]bool{}
		}
		a.makes[op.Method+" "+placeholder.ReplaceAllString(op.Path, ":$1")] = true
	}
	op.Errors = append(op.Errors, http.StatusUnauthorized, http.StatusInternalServerError)
	op.Middlewares = append(op.Middlewares, func(c huma.Context, next func(huma.Context)) {
		u, err := a.User(c.Context())
		if err != nil {
			// A caller that is gone does not hear it.
			problem := a.Answer(op.OperationID, err)
			status := http.StatusUnauthorized
			if with, ok := problem.(huma.StatusError); ok {
				status = with.GetStatus()
			}
			_ = huma.WriteErr(a.API, c, status, problem.Error())
			return
		}
		next(huma.WithValue(c, signedIn{}, u))
	})
	huma.Register(a.API, op, func(ctx context.Context, in *I) (*O, error) {
		u := ctx.Value(signedIn{}).(domain.User)
		asking := domain.Asking{User: u.ID, Short: a.Patience(), Long: a.Patience() * 5 / 2}
		if op.Metadata[patient] != nil {
			asking.Short, asking.Long = time.Minute, time.Minute
		}
		out, err := f(domain.WithAsking(ctx, asking), u, in)
		if err != nil {
			return nil, a.Answer(op.OperationID, err)
		}
		return out, nil
	})
}

// Body is an answer of one JSON value.
type Body[T any] struct {
	Body T
}

// OK gives an answer.
func OK[T any](v T) *Body[T] { return &Body[T]{Body: v} }

// Op describes an operation.
func Op(id, method, path, summary string) huma.Operation {
	return huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary}
}

// IDInput is the number in the address of an operation.
type IDInput struct {
	ID int64 `path:"id" minimum:"1"`
}

// Large is an operation whose request may hold so many bytes.
func Large(op huma.Operation, n int64) huma.Operation {
	op.MaxBodyBytes = n
	return op
}
