package app

import (
	"context"
	"database/sql/driver"
	"time"

	"lucidletter/core/access"
)

// Login is where and how the program signs in at a server. Secret is a password, or a
// token for xoauth2; it is stored sealed and never given out.
type Login struct {
	Host     string `json:"host" maxLength:"253"`
	Port     int    `json:"port" minimum:"0" maximum:"65535"`
	Security string `json:"security" enum:"starttls,tls,none,"`
	Method   string `json:"method" enum:"none,plain,login,xoauth2,"`
	User     string `json:"user" maxLength:"254"`
	Sealed   []byte `json:"sealed,omitempty" hidden:"true"`
	Secret   string `json:"-"` // as it is opened for use
}

// Account is a mail server that letters go through, and the mailbox that answers come
// to. Without Addresses it is for everybody's; UserID makes it one user's own.
// Connections, PerMinute and PerDay are limits, 0 none (of connections: 1).
type Account struct {
	ID           int64           `db:"id"`
	Name         string          `db:"name"`
	Addresses    Stretches       `db:"addresses"`
	UserID       *int64          `db:"user_id"`
	Audience     access.Audience `db:"-"`
	Server       Login           `db:"server"`
	Connections  int             `db:"connections"`
	PerMinute    int             `db:"per_minute"`
	PerDay       int             `db:"per_day"`
	ReturnTo     string          `db:"return_to"`
	DKIMDomain   string          `db:"dkim_domain"`
	DKIMSelector string          `db:"dkim_selector"`
	DKIMKey      []byte          `db:"dkim_key"` // sealed PKCS #8
	Mailbox      Login           `db:"mailbox"`
	MailboxAt    string          `db:"mailbox_at"`   // up to where it was read
	MailboxSaid  string          `db:"mailbox_said"` // why it could not be read, or ""
	CreatedAt    time.Time       `db:"created_at"`
	DeletedAt    *time.Time      `db:"deleted_at"`
}

// Value writes a login as JSON.
func (l Login) Value() (driver.Value, error) { return toJSON(l) }

// Scan reads a login from JSON.
func (l *Login) Scan(src any) error { return fromJSON(src, l) }

// LetterStep is one step of a letter on its way.
type LetterStep struct {
	State  LetterState `json:"state" db:"state" enum:"draft,waiting,sending,sent,refused,unsure,cancelled"`
	Reason string      `json:"reason" db:"reason"`
	DueAt  *time.Time  `json:"dueAt,omitempty" db:"due_at"`
	At     time.Time   `json:"at" db:"at"`
}

// Sealer keeps secrets from whoever has the database alone.
type Sealer interface {
	Seal(secret []byte) ([]byte, error)
	Open(sealed []byte) ([]byte, error)
}

// DKIMKey signs letters (RFC 6376). Key is PKCS #8.
type DKIMKey struct {
	Domain, Selector string
	Key              []byte
}

// AccountStore keeps the ways that letters go, and how they went.
type AccountStore interface {
	Accounts(ctx context.Context) ([]Account, error)
	Account(ctx context.Context, id int64) (Account, error)
	// PutAccount stores an account, a new one with the id 0, and gives its id.
	PutAccount(ctx context.Context, a Account) (int64, error)
	// PutBackAccount brings back an account that was deleted, or gives ErrNotFound.
	PutBackAccount(ctx context.Context, id int64) error
	MailboxRead(ctx context.Context, id int64, at, said string) error
	// Expired lists letters whose lease is over.
	Expired(ctx context.Context, now time.Time) ([]int64, error)
	// Busy tells whether a letter is being handed over or due.
	Busy(ctx context.Context, now time.Time) (bool, error)
	SetDue(ctx context.Context, id int64, due time.Time) (bool, error)
	Steps(ctx context.Context, letterID int64) ([]LetterStep, error)
}
