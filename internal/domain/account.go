package domain

import (
	"database/sql/driver"
	"slices"
	"strings"
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

// Covers tells whether an address is one of those that the account names.
func (acc *Account) Covers(email string) bool {
	email = strings.ToLower(email)
	return slices.ContainsFunc(acc.Addresses, func(one string) bool {
		return one == email || strings.HasPrefix(one, "@") && strings.HasSuffix(email, one)
	})
}

// MailOf is whose mail is in the mailbox of an account, as far as it is known.
func (acc *Account) MailOf() []string {
	if strings.Contains(acc.Mailbox.User, "@") {
		return append([]string{acc.Mailbox.User}, acc.Addresses...)
	}
	return acc.Addresses
}
