package outbound

import (
	"context"

	"lucidletter/internal/domain"
)

// Channel carries letters of one kind to people. Email is one; what another kind of message needs
// that a letter does not belongs to its channel.
type Channel interface {
	// Compose puts a letter together as it goes out by an account, and notes in it what it is known
	// by. Its error is an *UnfitError when trying again does not help.
	Compose(ctx context.Context, l *domain.Letter, by *domain.Account) (Composed, error)
	// HandOver gives what the other side answered. Its error, if any, is a *domain.SendError.
	HandOver(ctx context.Context, l *domain.Letter, by *domain.Account, bytes []byte) (string, error)
	// Gone reports whether an answer says that the address is none.
	Gone(err *domain.SendError) bool
}

// Composed is a letter as it goes out.
type Composed struct {
	Bytes []byte
	Links []domain.Link // which its reader is followed by
}

// UnfitError says why a letter cannot be put together before something changes.
type UnfitError struct{ error }
