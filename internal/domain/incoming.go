package domain

import (
	"slices"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/field"
	"lucidletter/core/result"
)

// ReadIncoming is a letter that came in, as it could be read.
type ReadIncoming struct {
	ReadMail
	FromName   string
	FromEmail  string
	ReplyTo    string    // where an answer is to go, "" the sender
	All        []Address // everybody in To and Cc
	MessageID  string
	InReplyTo  []string // Message-IDs without angle brackets, as below
	References []string
	Kind       IncomingKind
	Returned   []Returned // of a bounce or a delay
	OriginalID string     // the Message-ID of the letter that is returned or complained of
	OriginalTo string     // and its recipient, as far as it is told
}

// Returned is an address that a letter did not reach. Status is that of RFC 3463, such
// as 5.1.1, or "". Gone tells that the address itself is no good.
type Returned struct {
	Email  string
	Status string
	Final  bool // nobody goes on trying
	Gone   bool
	Said   string // in the words of the server
}

// WentTo tells whether somebody with an address got a letter; nobody got none.
func (l *Letter) WentTo(email string) bool {
	return l != nil && email != "" && slices.ContainsFunc(l.Recipients(), func(to string) bool { return field.EmailKey(to) == field.EmailKey(email) })
}

// ReadMail is an email as a recipient's program reads it.
type ReadMail struct {
	From    string       `json:"from"`
	To      string       `json:"to"`
	Subject string       `json:"subject"`
	Date    time.Time    `json:"date"`
	Text    string       `json:"text"`
	HTML    string       `json:"html"`
	Headers []MailHeader `json:"headers"`
	Files   []MailPart   `json:"files"`
}

// MailPart is what is attached to an email.
type MailPart struct {
	Name string `json:"name"`
	Type string `json:"type"`
	Size int    `json:"size"`
}

// MailHeader is one header field, decoded.
type MailHeader struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

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

// BackKinds are the kinds of entries that tell what came back.
var BackKinds = map[EntryKind]result.Kind{
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

// Reports tells whether a letter of this kind speaks of what became of another.
func (k IncomingKind) Reports() bool {
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

// Suppression is what keeps letters from an address: that who reads there opted out, or that
// letters came back. Both are nil where it may be written to.
type Suppression struct {
	OptedOutAt *time.Time
	Bad        *BadAddress
}

// Standing is what of a person and of an address keeps letters from going there. MergedInto names the
// record that took the place of one that was deleted.
func (p *Person) Standing(to string, s Suppression, mergedInto string) eligibility.Facts {
	f := eligibility.Facts{Email: to, Deleted: p.DeletedAt != nil, MergedInto: mergedInto}
	switch {
	case p.OptedOutAt != nil:
		f.OptedOut = *p.OptedOutAt
	case s.OptedOutAt != nil:
		f.OptedOut = *s.OptedOutAt
	}
	if s.Bad != nil && to != "" {
		f.Bounced = s.Bad.At
		f.BouncedWhy, _ = result.ForPeople(s.Bad.Reason)
	}
	return f
}

// Settings is what holds for the whole workspace.
type Settings struct {
	Tracking      bool   `json:"tracking" doc:"Opens and clicks are measured"`
	OptOutLink    bool   `json:"optOutLink" doc:"A line at the foot of letters leads to where one opts out"`
	OptOutWords   string `json:"optOutWords" maxLength:"200"`
	PostalAddress bool   `json:"postalAddress" doc:"The team's postal address stands at the foot of letters"`

	// QuietDays is for how long after a colleague's letter a round leaves somebody in peace.
	QuietDays int      `json:"quietDays" minimum:"0" maximum:"365" doc:"Rounds skip who was written to by a colleague in as many days; 0 nobody"`
	Grounds   []string `json:"grounds" maxItems:"40" doc:"On what basis people may be written to; none: rounds do not ask for it"`

	LeadFields map[string]string `json:"leadFields,omitempty" doc:"Where own fields of a lead go when it becomes a contact, by path; to the one of the same name without"`
}

// UsualSettings hold until somebody changes them.
func UsualSettings() Settings {
	return Settings{Tracking: true, OptOutWords: "If you’d rather not hear from us, unsubscribe here", QuietDays: 7, Grounds: UsualGrounds()}
}

// UsualGrounds are the bases of a new workspace (common practice, no source).
func UsualGrounds() []string {
	return []string{"Asked us", "Customer", "Published business address", "Referral", "Met in person", "Other"}
}
