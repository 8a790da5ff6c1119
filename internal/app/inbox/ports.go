package inbox

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	BackStore
	LetterStore
	RecordStore
	UserStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// BackStore keeps what comes back of letters.
type BackStore interface {
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
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	// LetterHead gives a letter without its words.
	LetterHead(ctx context.Context, id int64) (domain.Letter, error)
	// LetterByToken gives the letter of a token without its words, or ErrNotFound.
	LetterByToken(ctx context.Context, token string) (domain.Letter, error)
	// Barred gives what keeps letters from address keys; every key has an entry.
	Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error)
	OptOuts(ctx context.Context, search string, limit int) ([]domain.OptOut, error)
	// BarredBy gives the keys of the addresses that a report keeps letters from: bad ones,
	// and those who opted out by it.
	SuppressedBy(ctx context.Context, reportID int64) (bad, optedOut []string, err error)
	AddOptOut(ctx context.Context, o domain.OptOut) error
	DeleteOptOut(ctx context.Context, key string, at time.Time) error // or ErrNotFound
	// KeptOf gives the record that somebody's was merged into, or ErrNotFound.
	KeptOf(ctx context.Context, goneID int64) (int64, error)
	Bytes(ctx context.Context, id int64) ([]byte, error)
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleByEmail(ctx context.Context, key string) ([]domain.Person, error)
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p domain.Person) error
	AddEntry(ctx context.Context, e domain.Entry) error
	History(ctx context.Context, q domain.HistoryQuery) ([]domain.Entry, error)
	// News gives what came back for a user since an entry, the latest first, and the id
	// of the last entry; after a negative one nothing.
	News(ctx context.Context, userID, after int64, limit int) ([]domain.NewsRow, int64, error)
	// OpenNews gives what came back for a user since a time besides replies, and was not
	// dealt with, the latest first.
	OpenNews(ctx context.Context, userID int64, since time.Time, limit int) ([]domain.NewsRow, error)
	// SettleNews notes that an entry of a user's letters was dealt with or, with nil, was
	// not; or ErrNotFound.
	SettleNews(ctx context.Context, userID, id int64, at *time.Time) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
}
