package app

import (
	"context"
	"iter"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Store keeps everything. Its errors are ErrNotFound and ErrStale where a
// method says so; other errors are unexpected.
type Store interface {
	UserStore
	RecordStore
	TemplateStore
	FolderStore
	ShelfStore
	LetterStore
	BackStore
	AccountStore
	PostStore
	ImportStore
	OutboxStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
	// GroupCommit runs f in one transaction with those of other callers who come
	// meanwhile, each all or nothing; never within another one.
	GroupCommit(ctx context.Context, f func(context.Context) error) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	UserByEmail(ctx context.Context, key string) (domain.User, error)
	Team(ctx context.Context, id int64) (domain.Team, error)
	OwnFields(ctx context.Context) ([]field.Def, error)
	AddTeam(ctx context.Context, t domain.Team) (int64, error)
	AddUser(ctx context.Context, u domain.User) (int64, error)
	SetHold(ctx context.Context, userID int64, seconds int) error
	// UpdateProfile stores phone, job title, booking link and own fields.
	UpdateProfile(ctx context.Context, u domain.User) error
	// CalendarToken gives the token of a user's calendar address, "" when there is none.
	CalendarToken(ctx context.Context, userID int64) (string, error)
	SetCalendarToken(ctx context.Context, userID int64, token string) error
	UserByCalendar(ctx context.Context, token string) (domain.User, error)
	FromAddresses(ctx context.Context, userID int64) ([]domain.FromAddress, error)
	// PutFromAddress adds an address of a user, or stores its name and signature.
	PutFromAddress(ctx context.Context, f domain.FromAddress) error
	// DeleteFromAddress takes an address from a user, or gives ErrNotFound.
	DeleteFromAddress(ctx context.Context, userID int64, key string, at time.Time) error
	RestoreFromAddress(ctx context.Context, userID int64, key string) error // or ErrNotFound
	AddOwnField(ctx context.Context, d field.Def) error
	// UpdateOwnField stores the label and the choices of the field at its path.
	UpdateOwnField(ctx context.Context, d field.Def) error
	OrderOwnFields(ctx context.Context, paths []string) error
	// DeleteOwnField takes a field out of the catalogue, or for nil puts it
	// back; or ErrNotFound.
	DeleteOwnField(ctx context.Context, path string, at *time.Time) error
	OwnFieldDeleted(ctx context.Context, path string) (bool, error)
	// Teams lists the teams by name.
	Teams(ctx context.Context) ([]domain.Team, error)
	// Users lists everybody by name.
	Users(ctx context.Context) ([]domain.User, error)
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
	// PeopleBeginning gives some people of whom words begin with what was typed, those who
	// were written to last first.
	PeopleBeginning(ctx context.Context, typed string, limit int) ([]PersonRow, error)
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error)
	// PeopleIDs gives everybody, those of one company together.
	PeopleIDs(ctx context.Context) ([]int64, error)
	// PeopleWithDeals gives people, each with the newest open deal; who was deleted is left
	// out.
	PeopleWithDeals(ctx context.Context, ids []int64) ([]domain.PersonDeal, error)
	// PeopleEdition rises when people change, or what is told of them from companies and
	// deals.
	PeopleEdition(ctx context.Context) (int64, error)
	PeopleByEmail(ctx context.Context, key string) ([]domain.Person, error)
	AddPerson(ctx context.Context, p domain.Person) (int64, error)
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p domain.Person) error
	Company(ctx context.Context, id int64) (domain.Company, error)
	CompanyByName(ctx context.Context, name string) (domain.Company, error)
	AddCompany(ctx context.Context, c domain.Company) (int64, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	// UpdateDeal stores the values of a deal, UpdateCompany and UpdateTeam theirs.
	UpdateDeal(ctx context.Context, d domain.Deal) error
	UpdateCompany(ctx context.Context, c domain.Company) error
	UpdateTeam(ctx context.Context, t domain.Team) error
	DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error)
	AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error)
	SetDealOwn(ctx context.Context, id int64, own domain.Own) error
	// AllDeals lists deals, the open ones first, by the day they close.
	AllDeals(ctx context.Context, search string, limit int) ([]domain.DealRow, error)
	DealRow(ctx context.Context, id int64) (domain.DealRow, error)
	// DealPeople gives the people of a deal, the main contact first.
	DealPeople(ctx context.Context, id int64) ([]domain.DealPerson, error)
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
	CompanyPeople(ctx context.Context, id int64) ([]domain.DealPerson, error)
	CompanyDeals(ctx context.Context, id int64) ([]domain.DealRow, error)
}

// LibraryQuery says which templates of the library, and in what order.
type LibraryQuery struct {
	Search  string               // words of which each begins a word of name, use, subject or body
	State   domain.TemplateState // "" any
	Kind    field.Record         // what it must fit; "" any
	Owner   int64                // 0 anybody
	Starred bool                 // by the user
	Recent  bool                 // sent by the user, the latest first
	Folder  int64                // this folder without those in it; 0 the whole library, NoFolder outside of folders
	Tag     string
	Sort    string // name, last, used, changed, order; "" how well the search fits, else name
	Down    bool
	Offset  int
	Limit   int
}

// NoFolder asks for what stands in no folder.
const NoFolder = -1

// TemplateLine is a template as lists show it, without its wording.
type TemplateLine struct {
	domain.TemplateKey
	Name      string     `db:"name"`
	WhenToUse string     `db:"when_to_use"`
	Tags      []string   `db:"-"`
	OwnerName string     `db:"owner_name"`
	UpdatedAt time.Time  `db:"updated_at"`
	Used      int        `db:"used"`
	LastUsed  *time.Time `db:"last_used"`
	Languages []string   `db:"-"` // of all wordings, where there are several
	Starred   bool       `db:"starred"`
}

// Found is where a search hit, with the hits between \x02 and \x03. Body holds the words around.
type Found struct {
	Name      string `db:"name"`
	WhenToUse string `db:"when_to_use"`
	Subject   string `db:"subject"`
	Body      string `db:"body"`
}

// TemplateStore keeps templates.
type TemplateStore interface {
	// FindTemplates gives the templates of a query in its order, whoever may
	// see them; Kind, Offset and Limit are not looked at.
	FindTemplates(ctx context.Context, userID int64, q LibraryQuery) ([]domain.TemplateKey, error)
	// TemplateLines gives these templates, in this order.
	TemplateLines(ctx context.Context, userID int64, ids []int64) ([]TemplateLine, error)
	// FoundIn marks the hits of a search in these templates.
	FoundIn(ctx context.Context, search string, ids []int64) (map[int64]Found, error)
	// AllTemplates gives those that are in the given state and not deleted,
	// whole, by name.
	AllTemplates(ctx context.Context, state domain.TemplateState) ([]domain.Template, error)
	// WordingsOf gives a template and its wordings in other languages, whole, those that
	// are not deleted, in the order of adding.
	WordingsOf(ctx context.Context, id int64) ([]domain.Template, error)
	// Template gives a template, also a deleted one.
	Template(ctx context.Context, id int64) (domain.Template, error)
	AddTemplate(ctx context.Context, t domain.Template) (int64, error)
	// UpdateTemplate stores the wording of t as version t.Version+1 if t.Version
	// is still the stored one, else ErrStale.
	UpdateTemplate(ctx context.Context, t domain.Template) error
	// PlaceTemplate stores where a template stands: before another one of its folder,
	// or at the end for 0.
	PlaceTemplate(ctx context.Context, t domain.Template, before int64) error
	SetTemplateRights(ctx context.Context, id int64, r access.Rights) error
	// DeleteTemplate takes a template out of the library with its other wordings, or
	// for nil puts back what went together.
	DeleteTemplate(ctx context.Context, id int64, at *time.Time) error
	Star(ctx context.Context, userID, templateID int64, on bool) error
	// SetOrigin says which version of its original a copy looked at; nil ends that it follows.
	SetOrigin(ctx context.Context, id int64, origin *int64, version int) error
	// CopiesOf counts the copies that follow a template.
	CopiesOf(ctx context.Context, id int64) (int, error)
	// DraftsOf counts the letters being written from a template.
	DraftsOf(ctx context.Context, templateID int64) (int, error)
	// Versions lists what AddTemplate and UpdateTemplate stored.
	Versions(ctx context.Context, templateID int64) ([]domain.VersionRow, error)
	TemplateVersion(ctx context.Context, templateID int64, version int) (domain.Template, error)
}

// FolderStore keeps folders. All of them come in their order.
type FolderStore interface {
	Folders(ctx context.Context, holds string) ([]domain.Folder, error)
	AddFolder(ctx context.Context, f domain.Folder) (int64, error)
	// UpdateFolder stores name, parent and rights.
	UpdateFolder(ctx context.Context, f domain.Folder) error
	// OrderFolder puts a folder before another one of its parent, or last for 0.
	OrderFolder(ctx context.Context, id, before int64) error
	// DeleteFolder deletes an empty folder, and notes what it held.
	DeleteFolder(ctx context.Context, id int64, at time.Time, held domain.Held) error
	// DeletedFolder gives a folder that was deleted and what it held, or ErrNotFound.
	DeletedFolder(ctx context.Context, id int64) (domain.Folder, domain.Held, error)
	RestoreFolder(ctx context.Context, id int64) error
}

// ShelfStore keeps passages, stationery, files and approved documents. What is
// given by its id may be deleted, what is listed is not.
type ShelfStore interface {
	Passages(ctx context.Context) ([]domain.Passage, error)
	Passage(ctx context.Context, id int64) (domain.Passage, error)
	AddPassage(ctx context.Context, p domain.Passage) (int64, error)
	UpdatePassage(ctx context.Context, p domain.Passage) error // or ErrStale
	DeletePassage(ctx context.Context, id int64, at *time.Time) error
	AllStationery(ctx context.Context) ([]domain.Stationery, error)
	Stationery(ctx context.Context, id int64) (domain.Stationery, error)
	AddStationery(ctx context.Context, s domain.Stationery) (int64, error)
	UpdateStationery(ctx context.Context, s domain.Stationery) error // or ErrStale
	AddFile(ctx context.Context, f domain.File) error
	File(ctx context.Context, sha string) (domain.File, error)
	Documents(ctx context.Context) ([]domain.SharedDocument, error)
	SharedDocument(ctx context.Context, id int64) (domain.SharedDocument, error)
	AddDocument(ctx context.Context, d domain.SharedDocument) (int64, error)
	UpdateDocument(ctx context.Context, d domain.SharedDocument) error
}

// LetterRow is a letter with the names that lists show.
type LetterRow struct {
	domain.Letter
	PersonName   string `db:"person_name"`
	TemplateName string `db:"template_name"`
}

// LettersQuery selects letters of a sender: in any of the states, about a person, a
// company or a deal where one is given, and with all words of a search.
type LettersQuery struct {
	SenderID                    int64
	States                      []domain.LetterState
	PersonID, CompanyID, DealID int64
	Search                      string
	Limit                       int
}

// DueLetter is a letter that is to go now.
type DueLetter struct {
	ID       int64  `db:"id"`
	SenderID int64  `db:"sender_id"`
	From     string `db:"from_email"`
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	AddLetter(ctx context.Context, l domain.Letter) (int64, error)
	Letter(ctx context.Context, id int64) (domain.Letter, error)
	// Letters lists the letters of a query, the newest first, without their words.
	Letters(ctx context.Context, q LettersQuery) ([]LetterRow, error)
	// UpdateDraft stores the letter as version l.Version+1 if it is still a
	// draft of version l.Version, else ErrStale.
	UpdateDraft(ctx context.Context, l domain.Letter) error
	// DeleteDraft discards a draft or, with nil, restores it; or ErrNotFound.
	DeleteDraft(ctx context.Context, id int64, at *time.Time) error
	// Move changes the state if it is still from, setting what the change
	// says; it tells whether it did.
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	// ClaimLetter has a waiting letter of this version be sent now, unless its account
	// has sent as many as it may; it tells whether it did.
	ClaimLetter(ctx context.Context, id int64, t domain.Claim) (bool, error)
	// Due gives the waiting letters whose time has come, the oldest first, and the
	// time of the next one after them.
	Due(ctx context.Context, now time.Time, limit int) ([]DueLetter, *time.Time, error)
	InState(ctx context.Context, s domain.LetterState) ([]domain.Letter, error)
	// LetterHead gives a letter without its words.
	LetterHead(ctx context.Context, id int64) (domain.Letter, error)
	// LetterByToken gives the letter of a token without its words, or ErrNotFound.
	LetterByToken(ctx context.Context, token string) (domain.Letter, error)
	// Barred gives what keeps letters from address keys; every key has an entry.
	Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error)
	// LettersOf gives letters by their ids, without those that are not there or cannot be
	// read.
	LettersOf(ctx context.Context, ids []int64) ([]domain.Letter, error)
	// ReadBatch reads letters, their people and what keeps them from going at once, and
	// gives a context with which they are read from that, by one goroutine.
	ReadBatch(ctx context.Context, letterIDs []int64) (context.Context, error)
	OptOuts(ctx context.Context, search string, limit int) ([]domain.OptOut, error)
	// BarredBy gives the keys of the addresses that a report keeps letters from: bad ones,
	// and those who opted out by it.
	SuppressedBy(ctx context.Context, reportID int64) (bad, optedOut []string, err error)
	AddOptOut(ctx context.Context, o domain.OptOut) error
	DeleteOptOut(ctx context.Context, key string, at time.Time) error // or ErrNotFound
	// RestoreOptOut undoes DeleteOptOut, and gives what was there; or ErrNotFound.
	RestoreOptOut(ctx context.Context, key string) (domain.OptOut, error)
	AddAsked(ctx context.Context, q domain.Asked) (int64, error)
	// AskedIn lists what a letter asks, in the order of asking.
	AskedIn(ctx context.Context, letterID int64) ([]domain.Asked, error)
	AskedBy(ctx context.Context, token string) (domain.Asked, error)
	PutAnswers(ctx context.Context, id int64, answers []string, at time.Time) error
	AddTask(ctx context.Context, t domain.Task) (int64, error)
	// Tasks lists open tasks, the earliest first; reminders that were answered
	// are left out.
	Tasks(ctx context.Context, userID, personID int64) ([]domain.Task, error)
	SetTaskDue(ctx context.Context, userID, id int64, at time.Time) error // or ErrNotFound
	// SetTaskDone settles a task of a user or, with nil, brings it back; or ErrNotFound.
	SetTaskDone(ctx context.Context, userID, id int64, at *time.Time) error
	PutBytes(ctx context.Context, id int64, bytes []byte) error
	Bytes(ctx context.Context, id int64) ([]byte, error)
	AddSent(ctx context.Context, l domain.Letter, bytes []byte) (int64, error)
	// WrittenTo tells whether any letter was sent to a person.
	WrittenTo(ctx context.Context, personID int64) (bool, error)
}

// Mailbox is one recipient of the post office.
type Mailbox struct {
	Name   string    `json:"name" db:"name"`
	Count  int       `json:"count" db:"count"`
	Latest time.Time `json:"latest" db:"latest"`
}

// PostStore keeps what arrived at the post office.
type PostStore interface {
	AddPostLetter(ctx context.Context, l domain.PostLetter) (int64, error)
	Mailboxes(ctx context.Context, search string, limit int) ([]Mailbox, error)
	PostLetters(ctx context.Context, mailbox string, limit int) ([]domain.PostLetter, error)
	PostLetter(ctx context.Context, id int64) (domain.PostLetter, error)
	PostCharacter(ctx context.Context, mailbox string) (string, error) // or ErrNotFound
	SetPostCharacter(ctx context.Context, mailbox, character string) error
	AddScheduledJob(ctx context.Context, e domain.ScheduledJob) error
	NextScheduledJob(ctx context.Context) (domain.ScheduledJob, error) // or ErrNotFound
	ScheduledJobDone(ctx context.Context, id int64, outcome string, at time.Time) error
	ScheduledJobsOf(ctx context.Context, postLetterID int64) ([]domain.ScheduledJob, error)
	PostClock(ctx context.Context) (ahead int64, err error) // in seconds
	SetPostClock(ctx context.Context, ahead int64) error
}

// Clock tells the time.
type Clock func() time.Time

// Table is an import file as rows. Rows yields the line number of each row and
// its cells, or an error that ends the file.
type Table struct {
	Header []string
	Look   field.Look // how it writes numbers and dates
	Rows   iter.Seq2[TableRow, error]
}

// TableRow is one row of a file. Err says why this row alone cannot be read.
type TableRow struct {
	Line  int
	Cells []string
	Err   error
}
