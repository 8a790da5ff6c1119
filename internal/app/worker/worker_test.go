package worker

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"
)

func TestGuard(t *testing.T) {
	odd := errors.New("odd")
	var caught *PanicError
	if err := Guard(func() error { panic("broken") }); !errors.As(err, &caught) || caught.Value != "broken" || !strings.Contains(err.Error(), "worker_test.go") {
		t.Errorf("a panic: %v", err)
	}
	if err := Guard(func() error { return odd }); !errors.Is(err, odd) {
		t.Errorf("an error: %v", err)
	}
	if err := Guard(func() error { return nil }); err != nil {
		t.Errorf("neither: %v", err)
	}
}

// A loop goes on after a panic and an error, and ends with its context.
func TestLoop_goesOn(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	defer cancel()
	looks, failed := 0, 0
	l := Loop{Now: time.Now, Idle: time.Millisecond, Again: time.Millisecond, Failed: func(error) { failed++ }, Work: func(context.Context) (*time.Time, error) {
		switch looks++; looks {
		case 1:
			panic("broken")
		case 2:
			return nil, errors.New("odd")
		case 4:
			cancel()
		}
		return nil, nil
	}}
	l.Run(ctx)
	if looks != 4 || failed != 2 {
		t.Errorf("%d looks, %d failures", looks, failed)
	}
}
