package outbound

import (
	"context"
	"errors"
	"testing"
	"time"

	"lucidletter/internal/domain"
)

type moves struct {
	there bool
	err   error
	from  domain.LetterState
	c     domain.Change
}

func (m *moves) Move(_ context.Context, _ int64, from domain.LetterState, c domain.Change) (bool, error) {
	m.from, m.c = from, c
	return m.there, m.err
}

func TestEnqueue(t *testing.T) {
	now := time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)
	m := &moves{there: true}
	if err := Enqueue(context.Background(), m, 7, Entry{With: "with the plan “P”", At: now}); err != nil {
		t.Fatal(err)
	}
	if m.from != domain.Draft || m.c.To != domain.Waiting || !m.c.Queued || !m.c.Due.Equal(now) || m.c.Reason != "Sent with the plan “P”" {
		t.Errorf("%s, %+v", m.from, m.c)
	}
	later := now.Add(time.Hour)
	if err := Enqueue(context.Background(), m, 7, Entry{At: now, Due: later}); err != nil || !m.c.Due.Equal(later) || !m.c.At.Equal(now) || m.c.Reason != "" {
		t.Errorf("%v, %+v", err, m.c)
	}
	if err := Enqueue(context.Background(), &moves{}, 7, Entry{At: now}); !errors.Is(err, domain.ErrStale) {
		t.Errorf("%v; want that it is no draft any more", err)
	}
	broken := errors.New("broken")
	if err := Enqueue(context.Background(), &moves{there: true, err: broken}, 7, Entry{At: now}); !errors.Is(err, broken) {
		t.Error(err)
	}
}
