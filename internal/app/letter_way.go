package app

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Journal keeps what is said to mail servers until the store has it, so that a crash
// loses nothing of that. A key names one try of a letter.
type Journal interface {
	// Begin notes, on the disk, that a letter is about to be handed over.
	Begin(key string, at time.Time) error
	// End notes how that went.
	End(key string, c domain.Change) error
	// Of gives what was noted of a try.
	Of(key string) (n Noted, ok bool)
	// Settled says that the store has what was noted of some tries.
	Settled(keys ...string) error
	// Clear forgets everything but Seq.
	Clear() error
	// Seq is how many tries were ever noted.
	Seq() int64
}

// OutboxHold says why nothing is sent; Why is "" while letters go.
type OutboxHold struct {
	Why string     `json:"why" db:"held"`
	At  *time.Time `json:"at,omitempty" db:"held_at"`
}

// Noted is what a journal knows of a try. End is nil while there is no answer.
type Noted struct {
	At  time.Time      `json:"at"`
	End *domain.Change `json:"end,omitempty"`
	Seq int64          `json:"seq,omitempty"` // the tries up to this one
}

// OutboxStore keeps how the outbox as a whole stands.
type OutboxStore interface {
	// Handed gives how many tries to hand letters over the store knows of.
	Handed(ctx context.Context) (int64, error)
	SetHanded(ctx context.Context, n int64) error
	OutboxHold(ctx context.Context) (OutboxHold, error)
	// HoldOutbox has nothing sent for a reason, or for "" lets letters go again.
	HoldOutbox(ctx context.Context, why string, at *time.Time) error
}
