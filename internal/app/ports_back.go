package app

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// BackStore keeps what comes back of letters.
type BackStore interface {
	Settings(ctx context.Context) (domain.Settings, error)
	PutSettings(ctx context.Context, s domain.Settings) error
	AddLink(ctx context.Context, l domain.Link) (int64, error)
	// LinkByToken gives the link of a token, or ErrNotFound.
	LinkByToken(ctx context.Context, token string) (domain.Link, error)
	LinksOf(ctx context.Context, letterID int64) ([]domain.Link, error)
	// AddVisit files e unless the same came since; it tells whether it did.
	AddVisit(ctx context.Context, e domain.Entry, since time.Time) (bool, error)
	// Burst marks clicks on several links of a letter since a time as a machine's.
	Burst(ctx context.Context, letterID int64, since time.Time) error
	// CameBack lists what came back of letters.
	CameBack(ctx context.Context, letterIDs []int64) ([]domain.CameBack, error)
	// AddIncoming stores a letter with its bytes; it tells 0 for one that is there already.
	AddIncoming(ctx context.Context, in domain.Incoming, bytes []byte) (int64, error)
	Incoming(ctx context.Context, id int64) (domain.Incoming, error)
	IncomingBytes(ctx context.Context, id int64) ([]byte, error)
	// IncomingPage gives the cleaned page of a letter and the edition of the rules that it
	// was cleaned by, or ErrNotFound.
	IncomingPage(ctx context.Context, id int64) (page string, by int, err error)
	PutIncomingPage(ctx context.Context, id int64, page string, by int) error
	// IncomingFor lists what came in for a user, the latest first: of all kinds, or
	// what is to be answered alone.
	IncomingFor(ctx context.Context, userID int64, open bool, limit int) ([]domain.IncomingRow, error)
	// CountIncoming counts what is to be answered by a user.
	CountIncoming(ctx context.Context, userID int64) (int, error)
	IncomingOf(ctx context.Context, letterID int64) ([]domain.IncomingRow, error)
	// SettleIncoming says when a letter that came in was read, and answered; nil leaves it.
	SettleIncoming(ctx context.Context, id int64, read, answered *time.Time) error
	// LetterByMessage gives the sent letter of a Message-ID, also by the id of what
	// came in of its conversation; or ErrNotFound.
	LetterByMessage(ctx context.Context, messageID string) (domain.Letter, error)
	// LetterTo gives the latest letter to an address since a time, with a subject
	// unless that is ""; or ErrNotFound.
	LetterTo(ctx context.Context, email, subject string, since time.Time) (domain.Letter, error)
	PutBadAddress(ctx context.Context, b domain.BadAddress) error
	DeleteBadAddress(ctx context.Context, key string, at time.Time) error
	RestoreBadAddress(ctx context.Context, key string) error // or ErrNotFound
	// UserOfAddress gives the user who has an address to write from; or ErrNotFound.
	UserOfAddress(ctx context.Context, key string) (domain.User, error)
}
