package app

import (
	"context"
	"iter"
	"time"

	"lucidletter/core/field"
)

// Store keeps everything. Its errors are ErrNotFound and ErrStale where a
// method says so; other errors are unexpected.
type Store interface {
	UserStore
	RecordStore
	TemplateStore
	LetterStore
	PostStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(Store) error) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (User, error)
	UserByEmail(ctx context.Context, key string) (User, error)
	Team(ctx context.Context, id int64) (Team, error)
	OwnFields(ctx context.Context) ([]field.Def, error)
	AddTeam(ctx context.Context, t Team) (int64, error)
	AddUser(ctx context.Context, u User) (int64, error)
	AddOwnField(ctx context.Context, d field.Def) error
	// Users lists everybody by name.
	Users(ctx context.Context) ([]User, error)
	CountUsers(ctx context.Context) (int, error)
}

// PeopleQuery selects a window of the people table. Search holds words that
// must all begin a word of the record; Kind "" means both.
type PeopleQuery struct {
	Search string
	Kind   field.Record
	InDeal bool   // only who has a deal that is neither won nor lost
	Sort   string // name, company, last, added
	Down   bool   // descending
	Offset int
	Limit  int
}

// PersonRow is one line of the people table.
type PersonRow struct {
	ID          int64        `json:"id" db:"id"`
	Kind        field.Record `json:"kind" db:"kind" enum:"lead,contact"`
	FirstName   string       `json:"firstName" db:"first_name"`
	LastName    string       `json:"lastName" db:"last_name"`
	Email       string       `json:"email" db:"email"`
	JobTitle    string       `json:"jobTitle" db:"job_title"`
	City        string       `json:"city" db:"city"`
	Company     string       `json:"company" db:"company"`
	Status      string       `json:"status" db:"status"`
	Owner       string       `json:"owner" db:"owner"`
	OptedOut    bool         `json:"optedOut" db:"opted_out"`
	LastLetter  *time.Time   `json:"lastLetter,omitempty" db:"last_letter"`
	LastSubject string       `json:"lastSubject" db:"last_subject"`
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	People(ctx context.Context, q PeopleQuery) ([]PersonRow, int, error)
	Person(ctx context.Context, id int64) (Person, error)
	// EachPerson goes through everybody, those of one company together.
	EachPerson(ctx context.Context) iter.Seq2[PersonDeal, error]
	PeopleByEmail(ctx context.Context, key string) ([]Person, error)
	AddPerson(ctx context.Context, p Person) (int64, error)
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p Person) error
	Company(ctx context.Context, id int64) (Company, error)
	CompanyByName(ctx context.Context, name string) (Company, error)
	AddCompany(ctx context.Context, c Company) (int64, error)
	Deal(ctx context.Context, id int64) (Deal, error)
	DealsOf(ctx context.Context, personID int64) ([]Deal, error)
	AddDeal(ctx context.Context, d Deal, others []int64) (int64, error)
	AddEntry(ctx context.Context, e Entry) error
	History(ctx context.Context, personID int64, limit, offset int) ([]Entry, error)
}

// TemplateRow is a template with what the list shows beside it.
type TemplateRow struct {
	Template
	OwnerName string     `db:"owner_name"`
	Used      int        `db:"used"`
	LastUsed  *time.Time `db:"last_used"`
}

// TemplateStore keeps templates.
type TemplateStore interface {
	Templates(ctx context.Context) ([]TemplateRow, error)
	Template(ctx context.Context, id int64) (Template, error)
	AddTemplate(ctx context.Context, t Template) (int64, error)
	// UpdateTemplate stores t as version t.Version+1 if t.Version is still
	// the stored one, else ErrStale.
	UpdateTemplate(ctx context.Context, t Template) error
	// Versions lists what AddTemplate and UpdateTemplate stored.
	Versions(ctx context.Context, templateID int64) ([]VersionRow, error)
	TemplateVersion(ctx context.Context, templateID int64, version int) (Template, error)
}

// LetterRow is a letter with the names that lists show.
type LetterRow struct {
	Letter
	PersonName   string `db:"person_name"`
	TemplateName string `db:"template_name"`
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	AddLetter(ctx context.Context, l Letter) (int64, error)
	Letter(ctx context.Context, id int64) (Letter, error)
	// Letters lists the letters of a sender in any of the states, the newest
	// first.
	Letters(ctx context.Context, senderID int64, states []LetterState, limit int) ([]LetterRow, error)
	// UpdateDraft stores the letter as version l.Version+1 if it is still a
	// draft of version l.Version, else ErrStale.
	UpdateDraft(ctx context.Context, l Letter) error
	DeleteDraft(ctx context.Context, id int64) error
	// Move changes the state if it is still from, setting what the change
	// says; it tells whether it did.
	Move(ctx context.Context, id int64, from LetterState, c Change) (bool, error)
	// Due gives the ids of waiting letters whose time has come, the oldest
	// first, and the time of the next one after them.
	Due(ctx context.Context, now time.Time, limit int) ([]int64, *time.Time, error)
	InState(ctx context.Context, s LetterState) ([]Letter, error)
	PutBytes(ctx context.Context, id int64, bytes []byte) error
	Bytes(ctx context.Context, id int64) ([]byte, error)
	AddSent(ctx context.Context, l Letter, bytes []byte) (int64, error)
}

// Change is what a change of state writes. Nil leaves a column as it is.
type Change struct {
	To         LetterState
	Reason     string
	At         time.Time
	Due        *time.Time
	HandedOver *time.Time
	SentAt     *time.Time
	MessageID  string
	Attempt    bool // one more attempt was made
	Queued     bool // the writer sent it on its way
}

// Mailbox is one recipient of the post office.
type Mailbox struct {
	Name   string    `json:"name" db:"name"`
	Count  int       `json:"count" db:"count"`
	Latest time.Time `json:"latest" db:"latest"`
}

// PostStore keeps what arrived at the post office.
type PostStore interface {
	AddPostLetter(ctx context.Context, l PostLetter) (int64, error)
	Mailboxes(ctx context.Context, search string, limit int) ([]Mailbox, error)
	PostLetters(ctx context.Context, mailbox string, limit int) ([]PostLetter, error)
	PostLetter(ctx context.Context, id int64) (PostLetter, error)
}

// Mail is what goes into one email. Text and HTML have LF line ends; HTML is ""
// when the letter is plain.
type Mail struct {
	FromName, FromEmail string
	ToName, ToEmail     string
	Subject             string
	Text                string
	HTML                string
	MessageID           string // without the angle brackets
	Date                time.Time
}

// Composer makes the bytes of an email, with CRLF line ends.
type Composer interface {
	Compose(m Mail) ([]byte, error)
}

// Transport hands bytes over to a mail server.
type Transport interface {
	// Send gives the server's answer. Its error, if any, is a *SendError.
	Send(ctx context.Context, from, to string, bytes []byte) (string, error)
}

// SendError says how sending failed.
type SendError struct {
	Stage     string // connect, sender, recipient, content
	Temporary bool   // trying again later may help
	Unsure    bool   // the content was handed over and no answer came
	Answer    string // what the server said, or why it was not reached
}

func (e *SendError) Error() string { return e.Stage + ": " + e.Answer }

// ReadMail is an email as a recipient's program reads it.
type ReadMail struct {
	From    string       `json:"from"`
	To      string       `json:"to"`
	Subject string       `json:"subject"`
	Date    time.Time    `json:"date"`
	Text    string       `json:"text"`
	HTML    string       `json:"html"`
	Headers []MailHeader `json:"headers"`
}

// MailHeader is one header field, decoded.
type MailHeader struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// MailReader reads an email.
type MailReader interface {
	Read(bytes []byte) (ReadMail, error)
}

// Clock tells the time.
type Clock func() time.Time

// Table is an import file as rows. Rows yields the line number of each row and
// its cells, or an error that ends the file.
type Table struct {
	Header []string
	Rows   iter.Seq2[TableRow, error]
}

// TableRow is one row of a file. Err says why this row alone cannot be read.
type TableRow struct {
	Line  int
	Cells []string
	Err   error
}
