package desk

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	BackStore
	FolderStore
	LetterStore
	RecordStore
	ShelfStore
	TemplateStore
	UserStore
	// GroupCommit runs f in one transaction with those of other callers who come
	// meanwhile, each all or nothing; never within another one.
	GroupCommit(ctx context.Context, f func(context.Context) error) error
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// BackStore keeps what comes back of letters.
type BackStore interface {
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
	RestoreBadAddress(ctx context.Context, key string) error // or ErrNotFound
	// SettleIncoming says when a letter that came in was read, and answered; nil leaves it.
	SettleIncoming(ctx context.Context, id int64, read, answered *time.Time) error
}

// FolderStore keeps folders. All of them come in their order.
type FolderStore interface {
	Folders(ctx context.Context, holds string) ([]domain.Folder, error)
	// UpdateFolder stores name, parent and rights.
	UpdateFolder(ctx context.Context, f domain.Folder) error
	Passage(ctx context.Context, id int64) (domain.Passage, error)
	UpdatePassage(ctx context.Context, p domain.Passage) error
	DeletePassage(ctx context.Context, id int64, at *time.Time) error
	// DeletedFolder gives a folder that was deleted and what it held, or ErrNotFound.
	DeletedFolder(ctx context.Context, id int64) (domain.Folder, domain.Held, error)
	RestoreFolder(ctx context.Context, id int64) error
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	AddLetter(ctx context.Context, l domain.Letter) (int64, error)
	Letter(ctx context.Context, id int64) (domain.Letter, error)
	// Letters lists the letters of a query, the newest first, without their words.
	Letters(ctx context.Context, q domain.LettersQuery) ([]domain.LetterRow, error)
	// UpdateDraft stores the letter as version l.Version+1 if it is still a
	// draft of version l.Version, else ErrStale.
	UpdateDraft(ctx context.Context, l domain.Letter) error
	// Move changes the state if it is still from, setting what the change
	// says; it tells whether it did.
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	Steps(ctx context.Context, letterID int64) ([]domain.LetterStep, error)
	// DeleteDraft discards a draft or, with nil, restores it; or ErrNotFound.
	DeleteDraft(ctx context.Context, id int64, at *time.Time) error
	// LetterHead gives a letter without its words.
	LetterHead(ctx context.Context, id int64) (domain.Letter, error)
	// LetterByToken gives the letter of a token without its words, or ErrNotFound.
	LetterByToken(ctx context.Context, token string) (domain.Letter, error)
	// RestoreOptOut undoes DeleteOptOut, and gives what was there; or ErrNotFound.
	RestoreOptOut(ctx context.Context, key string) (domain.OptOut, error)
	AddAsked(ctx context.Context, q domain.Asked) (int64, error)
	// AskedIn lists what a letter asks, in the order of asking.
	AskedIn(ctx context.Context, letterID int64) ([]domain.Asked, error)
	AskedBy(ctx context.Context, token string) (domain.Asked, error)
	PutAnswers(ctx context.Context, id int64, answers []string, at time.Time) error
	Bytes(ctx context.Context, id int64) ([]byte, error)
	// WrittenTo tells whether any letter was sent to a person.
	WrittenTo(ctx context.Context, personID int64) (bool, error)
	// HadLetter gives who of these had a letter, or have one on its way, in a stretch of time, with
	// the subject of the last; one letter does not count.
	HadLetter(ctx context.Context, people []int64, from, to time.Time, but int64) (map[int64]string, error)
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	// PeopleBeginning gives some people of whom words begin with what was typed, those who
	// were written to last first.
	PeopleBeginning(ctx context.Context, typed string, limit int) ([]domain.PersonRow, error)
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error)
	PeopleByEmail(ctx context.Context, key string) ([]domain.Person, error)
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p domain.Person) error
	Company(ctx context.Context, id int64) (domain.Company, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	SetDealOwn(ctx context.Context, id int64, own domain.Own) error
	AddEntry(ctx context.Context, e domain.Entry) error
}

// ShelfStore keeps passages, stationery, files and approved documents. What is
// given by its id may be deleted, what is listed is not.
type ShelfStore interface {
	File(ctx context.Context, sha string) (domain.File, error)
	FileHead(ctx context.Context, sha string) (domain.File, error)
	// Uploaded tells whether a user brought a file in.
	Uploaded(ctx context.Context, sha string, userID int64) (bool, error)
	SharedDocument(ctx context.Context, id int64) (domain.SharedDocument, error)
}

// TemplateStore keeps templates.
type TemplateStore interface {
	// AllTemplates gives those that are in the given state and not deleted,
	// whole, by name.
	AllTemplates(ctx context.Context, state domain.TemplateState) ([]domain.Template, error)
	// WordingsOf gives a template and its wordings in other languages, whole, those that
	// are not deleted, in the order of adding.
	WordingsOf(ctx context.Context, id int64) ([]domain.Template, error)
	// Template gives a template, also a deleted one.
	Template(ctx context.Context, id int64) (domain.Template, error)
	// PlaceTemplate stores where a template stands: before another one of its folder,
	// or at the end for 0.
	PlaceTemplate(ctx context.Context, t domain.Template, before int64) error
	// DeleteTemplate takes a template out of the library with its other wordings, or
	// for nil puts back what went together.
	DeleteTemplate(ctx context.Context, id int64, at *time.Time) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	Team(ctx context.Context, id int64) (domain.Team, error)
	SetHold(ctx context.Context, userID int64, seconds int) error
	// UpdateProfile stores phone, job title, booking link and own fields.
	UpdateProfile(ctx context.Context, u domain.User) error
	// PutFromAddress adds an address of a user, or stores its name and signature.
	PutFromAddress(ctx context.Context, f domain.FromAddress) error
	// DeleteFromAddress takes an address from a user, or gives ErrNotFound.
	DeleteFromAddress(ctx context.Context, userID int64, key string, at time.Time) error
	RestoreFromAddress(ctx context.Context, userID int64, key string) error // or ErrNotFound
	// Users lists everybody by name.
	Users(ctx context.Context) ([]domain.User, error)
}
