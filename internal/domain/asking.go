package domain

import (
	"context"
	"fmt"
	"time"
)

// Asking is who waits for an answer, and for how long: Short for what is looked up, Long for
// what is searched, filtered, sorted or counted.
type Asking struct {
	User        int64
	Short, Long time.Duration
}

type asking struct{}

// WithAsking notes in a context who waits. What works without anybody waiting has no limit.
func WithAsking(ctx context.Context, a Asking) context.Context {
	return context.WithValue(ctx, asking{}, a)
}

// AskingOf gives who waits, and whether somebody does.
func AskingOf(ctx context.Context) (Asking, bool) {
	a, ok := ctx.Value(asking{}).(Asking)
	return a, ok
}

// TooLong is the error of a question that takes longer than somebody waits.
func TooLong(limit time.Duration) error {
	return &StateError{Why: fmt.Sprintf("This takes longer than %.0f seconds, and was ended so that others do not wait. Use fewer tests, or begin with one that few people fit: an owner, a stage, a city, a day.", limit.Seconds())}
}
