package app

import (
	"context"
	"time"

	"lucidletter/core/result"
)

// Link is where one address in a letter leads: to the web, or to a document of the
// shelf. Token is in the address: 128 random bits.
type Link struct {
	ID         int64     `json:"id" db:"id"`
	LetterID   int64     `json:"-" db:"letter_id"`
	Token      string    `json:"-" db:"token"`
	URL        string    `json:"url" db:"url"`
	DocumentID *int64    `json:"documentId,omitempty" db:"document_id"`
	Name       string    `json:"name" db:"name"`
	SHA        string    `json:"-" db:"sha"`
	CreatedAt  time.Time `json:"-" db:"created_at"`
}

// CameBack is one kind of event of a letter: how often, and when the last time.
type CameBack struct {
	LetterID int64
	Kind     EntryKind
	Machine  bool
	LinkID   *int64
	Times    int
	At       time.Time
}

var backKinds = map[EntryKind]result.Kind{
	EntryOpened: result.Opened, EntryClicked: result.Clicked, EntryDocument: result.Document, EntryReplied: result.Replied, EntryAnswered: result.Replied,
	EntryAway: result.Away, EntryDelayed: result.Delayed, EntryBounced: result.Bounced, EntryComplained: result.Complained, EntryOptedOut: result.OptedOut,
}

// Back is what came back of a letter, as people read it. Measured is false where opens
// cannot be known: then they are not 0.
type Back struct {
	LetterID      int64      `json:"letterId"`
	Measured      bool       `json:"measured" doc:"Whether opens and clicks can be known"`
	Opened        bool       `json:"opened" doc:"A reader opened it, followed a link or answered"`
	Opens         int        `json:"opens"`
	MachineOpens  int        `json:"machineOpens"`
	Clicks        int        `json:"clicks"`
	MachineClicks int        `json:"machineClicks"`
	Documents     int        `json:"documents"`
	Replies       int        `json:"replies"`
	Away          bool       `json:"away"`
	Delayed       bool       `json:"delayed"`
	Bounced       bool       `json:"bounced"`
	Complained    bool       `json:"complained"`
	OptedOut      bool       `json:"optedOut"`
	LastOpen      *time.Time `json:"lastOpen,omitempty"`
	Links         []LinkBack `json:"links,omitempty"`
}

// LinkBack is how often a link was followed, or its document looked at.
type LinkBack struct {
	Link
	Clicks int `json:"clicks"`
}

// IncomingKind says what a letter that came in is.
type IncomingKind string

// The kinds of incoming letters.
const (
	IncomingAnswer    IncomingKind = "answer" // of a person
	IncomingAutomatic IncomingKind = "automatic"
	IncomingBounce    IncomingKind = "bounce"
	IncomingDelay     IncomingKind = "delay"
	IncomingComplaint IncomingKind = "complaint"
)

// Unmatched is how a report is matched that fits no letter.
const Unmatched = "unmatched"

// reports tells whether a letter of this kind speaks of what became of another.
func (k IncomingKind) reports() bool {
	return k == IncomingBounce || k == IncomingDelay || k == IncomingComplaint
}

// Incoming is a letter that came in. UserID is whom it is for, LetterID the letter
// that it belongs to, Matched how that was found. BackOn is an ISO date or "".
type Incoming struct {
	ID         int64        `json:"id" db:"id"`
	Digest     string       `json:"-" db:"digest"`
	Kind       IncomingKind `json:"kind" db:"kind" enum:"answer,automatic,bounce,delay,complaint"`
	LetterID   *int64       `json:"letterId,omitempty" db:"letter_id"`
	PersonID   *int64       `json:"personId,omitempty" db:"person_id"`
	CompanyID  *int64       `json:"-" db:"company_id"`
	DealID     *int64       `json:"dealId,omitempty" db:"deal_id"`
	UserID     *int64       `json:"-" db:"user_id"`
	Matched    string       `json:"matched" db:"matched"`
	FromName   string       `json:"fromName" db:"from_name"`
	FromEmail  string       `json:"fromEmail" db:"from_email"`
	ToEmail    string       `json:"toEmail" db:"to_email"`
	Subject    string       `json:"subject" db:"subject"`
	Text       string       `json:"text" db:"text"`
	MessageID  string       `json:"-" db:"message_id"`
	References string       `json:"-" db:"refs"`
	BackOn     string       `json:"backOn" db:"back_on"`
	At         time.Time    `json:"at" db:"at"`
	ReadAt     *time.Time   `json:"readAt,omitempty" db:"read_at"`
	AnsweredAt *time.Time   `json:"answeredAt,omitempty" db:"answered_at"`
}

// IncomingRow is an incoming letter as lists show it.
type IncomingRow struct {
	Incoming
	Person string `json:"person" db:"person_name"`
	Said   string `json:"said" db:"-" doc:"What was written anew, without what is quoted"`
}

// BadAddress is an address that letters came back from for good.
type BadAddress struct {
	Key      string    `json:"-" db:"email_key"`
	Reason   string    `json:"reason" db:"reason"`
	Detail   string    `json:"detail,omitempty" db:"-"` // what the server said, where Reason is in words
	At       time.Time `json:"at" db:"at"`
	LetterID *int64    `json:"letterId,omitempty" db:"letter_id"`
	ReportID *int64    `json:"reportId,omitempty" db:"incoming_id" doc:"The incoming report that said so"`
}

// Barred is what keeps letters from an address: that who reads there opted out, or that
// letters came back. Both are nil where it may be written to.
type Barred struct {
	OptedOutAt *time.Time
	Bad        *BadAddress
}

// Settings is what holds for the whole workspace.
type Settings struct {
	Tracking      bool   `json:"tracking" doc:"Opens and clicks are measured"`
	OptOutLink    bool   `json:"optOutLink" doc:"A line at the foot of letters leads to where one opts out"`
	OptOutWords   string `json:"optOutWords" maxLength:"200"`
	PostalAddress bool   `json:"postalAddress" doc:"The team's postal address stands at the foot of letters"`
}

// usualSettings hold until somebody changes them.
func usualSettings() Settings {
	return Settings{Tracking: true, OptOutWords: "If you’d rather not hear from us, unsubscribe here"}
}

// BackStore keeps what comes back of letters.
type BackStore interface {
	Settings(ctx context.Context) (Settings, error)
	PutSettings(ctx context.Context, s Settings) error
	AddLink(ctx context.Context, l Link) (int64, error)
	// LinkByToken gives the link of a token, or ErrNotFound.
	LinkByToken(ctx context.Context, token string) (Link, error)
	LinksOf(ctx context.Context, letterID int64) ([]Link, error)
	// AddVisit files e unless the same came since; it tells whether it did.
	AddVisit(ctx context.Context, e Entry, since time.Time) (bool, error)
	// Burst marks clicks on several links of a letter since a time as a machine's.
	Burst(ctx context.Context, letterID int64, since time.Time) error
	// CameBack lists what came back of letters.
	CameBack(ctx context.Context, letterIDs []int64) ([]CameBack, error)
	// AddIncoming stores a letter with its bytes; it tells 0 for one that is there already.
	AddIncoming(ctx context.Context, in Incoming, bytes []byte) (int64, error)
	Incoming(ctx context.Context, id int64) (Incoming, error)
	IncomingBytes(ctx context.Context, id int64) ([]byte, error)
	// IncomingPage gives the cleaned page of a letter and the edition of the rules that it
	// was cleaned by, or ErrNotFound.
	IncomingPage(ctx context.Context, id int64) (page string, by int, err error)
	PutIncomingPage(ctx context.Context, id int64, page string, by int) error
	// IncomingFor lists what came in for a user, the latest first: of all kinds, or
	// what is to be answered alone.
	IncomingFor(ctx context.Context, userID int64, open bool, limit int) ([]IncomingRow, error)
	// CountIncoming counts what is to be answered by a user.
	CountIncoming(ctx context.Context, userID int64) (int, error)
	IncomingOf(ctx context.Context, letterID int64) ([]IncomingRow, error)
	// SettleIncoming says when a letter that came in was read, and answered; nil leaves it.
	SettleIncoming(ctx context.Context, id int64, read, answered *time.Time) error
	// LetterByMessage gives the sent letter of a Message-ID, also by the id of what
	// came in of its conversation; or ErrNotFound.
	LetterByMessage(ctx context.Context, messageID string) (Letter, error)
	// LetterTo gives the latest letter to an address since a time, with a subject
	// unless that is ""; or ErrNotFound.
	LetterTo(ctx context.Context, email, subject string, since time.Time) (Letter, error)
	PutBadAddress(ctx context.Context, b BadAddress) error
	DeleteBadAddress(ctx context.Context, key string, at time.Time) error
	RestoreBadAddress(ctx context.Context, key string) error // or ErrNotFound
	// UserOfAddress gives the user who has an address to write from; or ErrNotFound.
	UserOfAddress(ctx context.Context, key string) (User, error)
}
