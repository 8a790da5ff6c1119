package domain

import (
	"slices"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
)

// User is one who works here and sends letters.
type User struct {
	ID           int64       `json:"id" db:"id"`
	Email        string      `json:"email" db:"email"`
	PasswordHash string      `json:"-" db:"password_hash"`
	Role         access.Role `json:"role" db:"role"`
	TeamID       *int64      `json:"teamId,omitempty" db:"team_id"`
	FirstName    string      `json:"firstName" db:"first_name"`
	LastName     string      `json:"lastName" db:"last_name"`
	Phone        string      `json:"phone" db:"phone"`
	JobTitle     string      `json:"jobTitle" db:"job_title"`
	BookingLink  string      `json:"bookingLink" db:"booking_link"`
	Signature    string      `json:"signature" db:"signature"`
	HoldSeconds  int         `json:"holdSeconds" db:"hold_seconds"`
	TimeZone     string      `json:"timeZone" db:"time_zone"`
	Country      string      `json:"country" db:"country"`
	TaskMail     bool        `json:"taskMail" db:"task_mail"` // is reminded of tasks by email
	Own          Own         `json:"own" db:"own"`
}

// Name is the name as it stands in From.
func (u *User) Name() string { return JoinName(u.FirstName, u.LastName) }

// As is the user as core/access asks for it.
func (u *User) As() access.User {
	as := access.User{ID: u.ID, Role: u.Role}
	if u.TeamID != nil {
		as.TeamID = *u.TeamID
	}
	return as
}

// JoinName gives a name of its two parts, either of which may be missing.
func JoinName(first, last string) string { return strings.TrimSpace(first + " " + last) }

// Team is a team of users. Language is that of letters to people of whom none is
// known, such as en-GB.
type Team struct {
	ID            int64  `db:"id"`
	Name          string `db:"name"`
	PostalAddress string `db:"postal_address"`
	Website       string `db:"website"`
	Language      string `db:"language"`
	Own           Own    `db:"own"`
}

// Own holds own fields by their whole path, in canonical form.
type Own map[string]string

// Company is a firm that contacts belong to. Employees is a number in
// canonical form.
type Company struct {
	ID         int64     `json:"id" db:"id"`
	Name       string    `json:"name" db:"name"`
	Website    string    `json:"website" db:"website"`
	Industry   string    `json:"industry" db:"industry"`
	Employees  string    `json:"employees" db:"employees"`
	Phone      string    `json:"phone" db:"phone"`
	Street     string    `json:"street" db:"street"`
	PostalCode string    `json:"postalCode" db:"postal_code"`
	City       string    `json:"city" db:"city"`
	Country    string    `json:"country" db:"country"`
	OwnerID    *int64    `json:"ownerId,omitempty" db:"owner_id"`
	Own        Own       `json:"own" db:"own"`
	CreatedAt  time.Time `json:"createdAt" db:"created_at"`

	DeletedAt *time.Time `json:"deletedAt,omitempty" db:"deleted_at"`
}

// Person is a lead or a contact. For a lead CompanyName is the company as it
// was given; a contact's company is CompanyID.
type Person struct {
	ID           int64        `json:"id" db:"id"`
	Kind         field.Record `json:"kind" db:"kind" enum:"lead,contact"`
	Honorific    string       `json:"honorific" db:"honorific"`
	FirstName    string       `json:"firstName" db:"first_name"`
	LastName     string       `json:"lastName" db:"last_name"`
	Email        string       `json:"email" db:"email"`
	Phone        string       `json:"phone" db:"phone"`
	JobTitle     string       `json:"jobTitle" db:"job_title"`
	City         string       `json:"city" db:"city"`
	Country      string       `json:"country" db:"country"`
	Language     string       `json:"language" db:"language"`
	TimeZone     string       `json:"timeZone" db:"time_zone"`
	Basis        string       `json:"basis" db:"basis" doc:"Why this person may be written to"`
	BasisSince   string       `json:"basisSince" db:"basis_since"`
	BasisSource  string       `json:"basisSource" db:"basis_source"`
	CompanyID    *int64       `json:"companyId,omitempty" db:"company_id"`
	CompanyName  string       `json:"companyName" db:"company_name"`
	LeadStatus   string       `json:"leadStatus" db:"lead_status"`
	LeadSource   string       `json:"leadSource" db:"lead_source"`
	Department   string       `json:"department" db:"department"`
	ContactSince string       `json:"contactSince" db:"contact_since"`
	OwnerID      *int64       `json:"ownerId,omitempty" db:"owner_id"`
	Own          Own          `json:"own" db:"own"`
	SaidRight    Own          `json:"-" db:"said_right"` // values that look like none and are right, by path
	OptedOutAt   *time.Time   `json:"optedOutAt,omitempty" db:"opted_out_at"`
	Untracked    bool         `json:"untracked" db:"untracked" doc:"Nobody looks what this person opens"`
	CreatedAt    time.Time    `json:"createdAt" db:"created_at"`
	UpdatedAt    time.Time    `json:"updatedAt" db:"updated_at"`
	Version      int          `json:"version" db:"version"`
	DeletedAt    *time.Time   `json:"deletedAt,omitempty" db:"deleted_at"`
}

// Name is the full name, or the address when there is none.
func (p *Person) Name() string {
	if name := JoinName(p.FirstName, p.LastName); name != "" {
		return name
	}
	return p.Email
}

// Deal is a sale in the making. CloseDate is an ISO date or empty.
type Deal struct {
	ID            int64     `json:"id" db:"id"`
	Name          string    `json:"name" db:"name"`
	CompanyID     *int64    `json:"companyId,omitempty" db:"company_id"`
	MainContactID *int64    `json:"mainContactId,omitempty" db:"main_contact_id"`
	Stage         string    `json:"stage" db:"stage"`
	AmountMinor   int64     `json:"amountMinor" db:"amount_minor"`
	ZeroGiven     bool      `json:"zeroGiven" db:"zero_given" doc:"An amount of 0 was given; without it, 0 is none"`
	Currency      string    `json:"currency" db:"currency"`
	CloseDate     string    `json:"closeDate" db:"close_date"`
	OwnerID       *int64    `json:"ownerId,omitempty" db:"owner_id"`
	Own           Own       `json:"own" db:"own"`
	CreatedAt     time.Time `json:"createdAt" db:"created_at"`

	DeletedAt *time.Time `json:"deletedAt,omitempty" db:"deleted_at"`
}

// Once gives each number of a list once, in its order.
func Once(ids []int64) []int64 {
	seen := make(map[int64]bool, len(ids))
	return slices.DeleteFunc(slices.Clone(ids), func(id int64) bool {
		was := seen[id]
		seen[id] = true
		return was
	})
}

// HasAmount tells whether the deal has an amount: 0 is one when it was given.
func (d *Deal) HasAmount() bool { return d.AmountMinor != 0 || d.ZeroGiven }

// ShownAmount writes the amount for people, "" when there is none.
func (d *Deal) ShownAmount() string {
	if !d.HasAmount() {
		return ""
	}
	return string(field.NewReader("en-GB").Append(nil, field.MoneyOf(d.AmountMinor, d.Currency), ""))
}

// Open tells whether the deal is neither won nor lost.
func (d Deal) Open() bool { return d.Stage != "won" && d.Stage != "lost" }

// TemplateState is draft, ready or withdrawn.
type TemplateState string

// The states of a template.
const (
	TemplateDraft     TemplateState = "draft"
	TemplateReady     TemplateState = "ready"
	TemplateWithdrawn TemplateState = "withdrawn"
)

// Next gives the states that a template of this one can be stored in: nobody withdraws what
// was never ready.
func (s TemplateState) Next() []TemplateState {
	if s == TemplateReady || s == TemplateWithdrawn {
		return []TemplateState{TemplateDraft, TemplateReady, TemplateWithdrawn}
	}
	return []TemplateState{TemplateDraft, TemplateReady}
}

// Template is the wording to start from.
type Template struct {
	ID        int64             `db:"id"`
	Name      string            `db:"name"`
	WhenToUse string            `db:"when_to_use"`
	Subject   document.Document `db:"-"`
	Body      document.Document `db:"-"`
	State     TemplateState     `db:"state"`
	OwnerID   int64             `db:"owner_id"`
	FolderID  *int64            `db:"folder_id"`
	Rights    access.Rights     `db:"-"`
	Tags      []string          `db:"-"`
	Extras    Extras            `db:"extras"`
	SisterOf  *int64            `db:"sister_of"`      // the template that this is another wording of
	OriginID  *int64            `db:"origin_id"`      // the template that a copy follows
	OriginVer int               `db:"origin_version"` // and the version that it last looked at
	Version   int               `db:"version"`
	CreatedAt time.Time         `db:"created_at"`
	UpdatedAt time.Time         `db:"updated_at"`
	UpdatedBy int64             `db:"updated_by"`
	DeletedAt *time.Time        `db:"deleted_at"`
}

// Folder holds templates or passages, and other folders.
type Folder struct {
	ID        int64         `db:"id"`
	Holds     string        `db:"holds"` // templates or passages
	ParentID  *int64        `db:"parent_id"`
	Name      string        `db:"name"`
	OwnerID   int64         `db:"owner_id"`
	Rights    access.Rights `db:"-"`
	CreatedAt time.Time     `db:"created_at"`
}

// LetterState is the state of one letter; see docs/operations.md.
type LetterState string

// The states of a letter.
const (
	Draft     LetterState = "draft"
	Waiting   LetterState = "waiting"
	Sending   LetterState = "sending"
	Sent      LetterState = "sent"
	Refused   LetterState = "refused"
	Unsure    LetterState = "unsure"
	Cancelled LetterState = "cancelled"
)

// Letter is one email to one person, in any state.
type Letter struct {
	ID              int64             `db:"id"`
	PersonID        int64             `db:"person_id"`
	CompanyID       *int64            `db:"company_id"`
	DealID          *int64            `db:"deal_id"`
	TemplateID      *int64            `db:"template_id"`
	TemplateVersion *int              `db:"template_version"`
	SenderID        int64             `db:"sender_id"`
	State           LetterState       `db:"state"`
	Reason          string            `db:"reason"`
	ToName          string            `db:"to_name"`
	ToEmail         string            `db:"to_email"`
	FromName        string            `db:"from_name"`
	FromEmail       string            `db:"from_email"`
	Subject         document.Document `db:"-"`
	Body            document.Document `db:"-"`
	Fixed           Stretches         `db:"fixed"` // what must stay of the body, as it was merged
	Extras          LetterExtras      `db:"extras"`
	SubjectLine     string            `db:"subject_line"`
	Internal        bool              `db:"internal"` // to colleagues, filed on the deal alone
	Version         int               `db:"version"`
	Attempts        int               `db:"attempts"`
	MessageID       string            `db:"message_id"`
	Token           string            `db:"token"`       // in addresses that the recipient follows
	Tracked         bool              `db:"tracked"`     // its opens and clicks can be known
	AnswersID       *int64            `db:"answers_id"`  // the incoming letter that it answers
	ThreadID        *int64            `db:"thread_id"`   // the first letter of its conversation, nil itself
	InReplyTo       string            `db:"in_reply_to"` // without angle brackets
	References      string            `db:"refs"`        // ids between spaces, the oldest first
	CreatedAt       time.Time         `db:"created_at"`
	UpdatedAt       time.Time         `db:"updated_at"`
	QueuedAt        *time.Time        `db:"queued_at"` // when the writer last sent it on its way
	DueAt           *time.Time        `db:"due_at"`
	FirstTryAt      *time.Time        `db:"first_try_at"` // since the writer last sent it on its way
	HandedOverAt    *time.Time        `db:"handed_over_at"`
	SentAt          *time.Time        `db:"sent_at"`
	DeletedAt       *time.Time        `db:"deleted_at"` // a draft that was discarded
	RoundID         *int64            `db:"round_id"`
	RunID           *int64            `db:"run_id"`   // the run of a plan that it is a step of
	OrderID         *int64            `db:"order_id"` // the standing order that made it
	Seen            Own               `db:"seen"`     // the values of its records that a draft was written with, by path
}

// Entry is one line of a history.
type Entry struct {
	ID        int64     `json:"id" db:"id"`
	PersonID  *int64    `json:"-" db:"person_id"`
	CompanyID *int64    `json:"-" db:"company_id"`
	DealID    *int64    `json:"-" db:"deal_id"`
	LetterID  *int64    `json:"letterId,omitempty" db:"letter_id"`
	UserID    *int64    `json:"userId,omitempty" db:"user_id"`
	Kind      EntryKind `json:"kind" db:"kind"`
	Text      string    `json:"text" db:"text"`
	Detail    string    `json:"detail,omitempty" db:"-"` // what a server said, behind the words for people
	By        string    `json:"by" db:"by_name"`
	At        time.Time `json:"at" db:"at"`
	// Machine tells that a proxy or scanner did it, not a reader.
	Machine    bool   `json:"machine" db:"machine"`
	LinkID     *int64 `json:"-" db:"link_id"`
	IncomingID *int64 `json:"incomingId,omitempty" db:"incoming_id"`
	ThreadID   *int64 `json:"-" db:"thread_id"` // the first letter of the conversation
	Subject    string `json:"-" db:"subject"`   // of the letter
}

// EntryKind says what happened.
type EntryKind string

// What can happen to a record or a letter.
const (
	EntryCreated    EntryKind = "created"
	EntryImported   EntryKind = "imported"
	EntryChanged    EntryKind = "changed"
	EntrySent       EntryKind = "sent"
	EntryRefused    EntryKind = "refused"
	EntryOpened     EntryKind = "opened"
	EntryClicked    EntryKind = "clicked"
	EntryReplied    EntryKind = "replied"
	EntryDocument   EntryKind = "document" // one that was sent as a link was looked at
	EntryAway       EntryKind = "away"     // an automatic answer
	EntryDelayed    EntryKind = "delayed"
	EntryReceived   EntryKind = "received" // a letter that answers none
	EntryAnswered   EntryKind = "answered" // a question of a letter
	EntryBounced    EntryKind = "bounced"
	EntryComplained EntryKind = "complained"
	EntryOptedOut   EntryKind = "opted out"
	EntryCall       EntryKind = "call" // as people wrote them down
	EntryVisit      EntryKind = "visit"
	EntryNote       EntryKind = "note"
	EntryDeleted    EntryKind = "deleted"
	EntryPutBack    EntryKind = "put back"
	EntryPlan       EntryKind = "plan" // what became of somebody on a plan
)

// PostLetter is one letter that arrived at the post office.
type PostLetter struct {
	ID        int64     `json:"id" db:"id"`
	Mailbox   string    `json:"mailbox" db:"mailbox"`
	Sender    string    `json:"sender" db:"sender"`
	Subject   string    `json:"subject" db:"subject"`
	ArrivedAt time.Time `json:"arrivedAt" db:"arrived_at"`
	Bytes     []byte    `json:"-" db:"bytes"`
}
