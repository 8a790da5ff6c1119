// Package worker runs what a program does by itself: one loop for every kind of background
// work, in which neither an error nor a panic of one item ends the program or holds up others.
package worker

import (
	"context"
	"errors"
	"fmt"
	"runtime/debug"
	"time"
)

// ClockSlack is by how much a clock may be ahead that is as good as right: what was begun later
// than that from now was begun while the clock was ahead.
const ClockSlack = 10 * time.Minute

// PanicError is a panic that was caught while something was done about one item.
type PanicError struct {
	Value any
	Stack []byte
}

func (e *PanicError) Error() string { return fmt.Sprintf("panic: %v\n%s", e.Value, e.Stack) }

// Guard runs what is to be done about one item. A panic in it becomes a *PanicError.
func Guard(do func() error) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = &PanicError{Value: r, Stack: debug.Stack()}
		}
	}()
	return do()
}

// Panicked reports whether an error is of a panic that Guard caught.
func Panicked(err error) bool {
	var e *PanicError
	return errors.As(err, &e)
}

// Loop says what a background loop does, and how often.
type Loop struct {
	// Work does what is due now. It returns when there is more to do, nil for not before
	// somebody wakes the loop.
	Work func(context.Context) (*time.Time, error)
	// Now is the clock that the times of Work are on.
	Now func() time.Time
	// Woken is written to when there may be something to do at once; nil is never.
	Woken <-chan struct{}
	// Idle is the longest time between two looks; it covers a clock that was set.
	Idle time.Duration
	// Soon is the shortest.
	Soon time.Duration
	// Again is for how long the loop rests after a failure.
	Again time.Duration
	// Failed is told of every failure.
	Failed func(error)
}

// Run works until ctx ends.
func (l *Loop) Run(ctx context.Context) {
	for ctx.Err() == nil {
		wait := l.Idle
		var next *time.Time
		err := Guard(func() (err error) {
			next, err = l.Work(ctx)
			return err
		})
		switch {
		case err != nil && ctx.Err() == nil:
			l.Failed(err)
			wait = l.Again
		case next != nil:
			wait = max(l.Soon, min(l.Idle, next.Sub(l.Now())))
		}
		timer := time.NewTimer(max(0, wait))
		select {
		case <-ctx.Done():
		case <-l.Woken:
		case <-timer.C:
		}
		timer.Stop()
	}
}
