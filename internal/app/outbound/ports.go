package outbound

import (
	"context"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	AccountStore
	BackStore
	LetterStore
	OutboxStore
	RecordStore
	// GroupCommit runs f in one transaction with those of other callers who come
	// meanwhile, each all or nothing; never within another one.
	GroupCommit(ctx context.Context, f func(context.Context) error) error
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// AccountStore keeps the ways that letters go, and how they went.
type AccountStore interface {
	// Expired lists letters whose lease is over.
	Expired(ctx context.Context, now time.Time) ([]int64, error)
}

// BackStore keeps what comes back of letters.
type BackStore interface {
	AddLink(ctx context.Context, l domain.Link) (int64, error)
	PutBadAddress(ctx context.Context, b domain.BadAddress) error
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	Letter(ctx context.Context, id int64) (domain.Letter, error)
	// Move changes the state if it is still from, setting what the change
	// says; it tells whether it did.
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	// ClaimLetter has a waiting letter of this version be sent now, unless its account
	// has sent as many as it may; it tells whether it did.
	ClaimLetter(ctx context.Context, id int64, t domain.Claim) (bool, error)
	// Due gives the waiting letters whose time has come, the oldest first, and the
	// time of the next one after them.
	Due(ctx context.Context, now time.Time, limit int) ([]domain.DueLetter, *time.Time, error)
	InState(ctx context.Context, s domain.LetterState) ([]domain.Letter, error)
	User(ctx context.Context, id int64) (domain.User, error)
	// WaitingOn gives the letters to a person, or about a deal, that wait to go, the next first.
	WaitingOn(ctx context.Context, kind field.Record, id int64, limit int) ([]int64, error)
	// WaitingOf gives the letters of a sender that wait to go, the next first.
	WaitingOf(ctx context.Context, senderID int64, limit int) ([]int64, error)
	// EndedSince gives the kind of an event since a time that stops the runs of a person, or "".
	EndedSince(ctx context.Context, personID int64, since time.Time) (string, error)
	// RoundStop tells what came in between that keeps a letter of a round from going.
	RoundStop(ctx context.Context, l *domain.Letter) (domain.RoundStop, error)
	// LetterHead gives a letter without its words.
	LetterHead(ctx context.Context, id int64) (domain.Letter, error)
	// ReadBatch reads letters, their people and what keeps them from going at once, and
	// gives a context with which they are read from that, by one goroutine.
	ReadBatch(ctx context.Context, letterIDs []int64) (context.Context, error)
	AddTask(ctx context.Context, t domain.Task) (int64, error)
	PutBytes(ctx context.Context, id int64, bytes []byte) error
	Bytes(ctx context.Context, id int64) ([]byte, error)
}

// OutboxStore keeps how the outbox as a whole stands.
type OutboxStore interface {
	// Handed gives how many tries to hand letters over the store knows of.
	Handed(ctx context.Context) (int64, error)
	SetHanded(ctx context.Context, n int64) error
	// PullBack has letters go now that were put into the outbox to go at once, at a time that is
	// more than slack ahead.
	PullBack(ctx context.Context, now time.Time, slack time.Duration) (int, error)
	OutboxHold(ctx context.Context) (domain.OutboxHold, error)
	// Begun tells whether any letter was ever put into the outbox, or something would put one there.
	Begun(ctx context.Context) (bool, error)
	// HoldOutbox has nothing sent for a reason, or for "" lets letters go again.
	HoldOutbox(ctx context.Context, why string, at *time.Time) error
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	Person(ctx context.Context, id int64) (domain.Person, error)
	AddEntry(ctx context.Context, e domain.Entry) error
}

// Journal keeps what is said to mail servers until the store has it, so that a crash
// loses nothing of that. A key names one try of a letter.
type Journal interface {
	// Begin notes, on the disk, that a letter is about to be handed over.
	Begin(key string, at time.Time) error
	// End notes how that went.
	End(key string, c domain.Change) error
	// Of gives what was noted of a try.
	Of(key string) (n domain.Noted, ok bool)
	// Settled says that the store has what was noted of some tries.
	Settled(keys ...string) error
	// Clear forgets everything but Seq.
	Clear() error
	// Seq is how many tries were ever noted.
	Seq() int64
	// Missing tells whether it was not there although the database was in use.
	Missing() bool
}

// Transport hands bytes over to a mail server.
type Transport interface {
	// Send gives the server's answer. Its error, if any, is a *SendError.
	// Recipients after the first that are refused do not keep the letter from
	// the others; the answer names them.
	Send(ctx context.Context, by domain.Account, from string, to []string, bytes []byte) (string, error)
}
