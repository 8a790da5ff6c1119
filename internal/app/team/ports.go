package team

import (
	"context"

	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	AccountStore
	BackStore
	UserStore
}

// AccountStore keeps the ways that letters go, and how they went.
type AccountStore interface {
	Accounts(ctx context.Context) ([]domain.Account, error)
	Account(ctx context.Context, id int64) (domain.Account, error)
	// PutAccount stores an account, a new one with the id 0, and gives its id.
	PutAccount(ctx context.Context, a domain.Account) (int64, error)
	// PutBackAccount brings back an account that was deleted, or gives ErrNotFound.
	PutBackAccount(ctx context.Context, id int64) error
	MailboxRead(ctx context.Context, id int64, at, said string) error
}

// BackStore keeps what comes back of letters.
type BackStore interface {
	Settings(ctx context.Context) (domain.Settings, error)
	PutSettings(ctx context.Context, s domain.Settings) error
	// UserOfAddress gives the user who has an address to write from; or ErrNotFound.
	UserOfAddress(ctx context.Context, key string) (domain.User, error)
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	UserByEmail(ctx context.Context, key string) (domain.User, error)
	AddUser(ctx context.Context, u domain.User) (int64, error)
	FromAddresses(ctx context.Context, userID int64) ([]domain.FromAddress, error)
	// Teams lists the teams by name.
	Teams(ctx context.Context) ([]domain.Team, error)
	// Users lists everybody by name.
	Users(ctx context.Context) ([]domain.User, error)
}
