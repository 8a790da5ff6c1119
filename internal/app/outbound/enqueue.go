package outbound

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Mover moves letters from one state to another.
type Mover interface {
	// Move leaves a state; it reports whether the letter was in it.
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
}

// Entry is how a letter comes into the outbox.
type Entry struct {
	With string    // what sends it, such as: with the plan “After the fair”; "" is its writer
	At   time.Time // now
	Due  time.Time // when it goes; the zero time is at once
}

// Enqueue puts a stored draft, which was judged in the same transaction, into the outbox. A letter that is
// no draft any more is domain.ErrStale.
func Enqueue(ctx context.Context, s Mover, letter int64, e Entry) error {
	c := domain.Change{To: domain.Waiting, At: e.At, Due: &e.Due, Queued: true}
	if e.Due.IsZero() {
		c.Due = &e.At
	}
	if e.With != "" {
		c.Reason = "Sent " + e.With
	}
	moved, err := s.Move(ctx, letter, domain.Draft, c)
	if err == nil && !moved {
		err = domain.ErrStale
	}
	return err
}
