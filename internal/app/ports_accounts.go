package app

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// AccountStore keeps the ways that letters go, and how they went.
type AccountStore interface {
	Accounts(ctx context.Context) ([]domain.Account, error)
	Account(ctx context.Context, id int64) (domain.Account, error)
	// PutAccount stores an account, a new one with the id 0, and gives its id.
	PutAccount(ctx context.Context, a domain.Account) (int64, error)
	// PutBackAccount brings back an account that was deleted, or gives ErrNotFound.
	PutBackAccount(ctx context.Context, id int64) error
	MailboxRead(ctx context.Context, id int64, at, said string) error
	// Expired lists letters whose lease is over.
	Expired(ctx context.Context, now time.Time) ([]int64, error)
	// Busy tells whether a letter is being handed over or due.
	Busy(ctx context.Context, now time.Time) (bool, error)
	SetDue(ctx context.Context, id int64, due time.Time) (bool, error)
	Steps(ctx context.Context, letterID int64) ([]domain.LetterStep, error)
}
