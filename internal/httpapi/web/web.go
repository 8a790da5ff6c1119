// Package web is what the operations of the API have in common: who may ask, how answers and
// errors look.
package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"lucidletter/internal/domain"
)

// API is where operations are registered. User gives the one who is signed in; Answer is an
// error as callers get it, of an operation.
type API struct {
	huma.API
	User   func(ctx context.Context) (domain.User, error)
	Answer func(operation string, err error) error
}

// signedIn is where the user of a request stands in its context.
type signedIn struct{}

// Handle registers an operation for those who are signed in; for others nothing of the request
// is read.
func Handle[I, O any](a *API, op huma.Operation, f func(context.Context, domain.User, *I) (*O, error)) {
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
		out, err := f(ctx, ctx.Value(signedIn{}).(domain.User), in)
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
