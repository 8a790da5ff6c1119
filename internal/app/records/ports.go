package records

import (
	"context"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	LetterStore
	ListStore
	RecordStore
	UserStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// LetterStore keeps letters and the bytes that were handed over.
type LetterStore interface {
	// Barred gives what keeps letters from address keys; every key has an entry.
	Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error)
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	PeopleListStore
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error) // also deleted ones
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleByEmail(ctx context.Context, key string) ([]domain.Person, error)
	AddPerson(ctx context.Context, p domain.Person) (int64, error)
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p domain.Person) error
	Company(ctx context.Context, id int64) (domain.Company, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	// UpdateDeal stores the values of a deal, UpdateCompany and UpdateTeam theirs.
	UpdateDeal(ctx context.Context, d domain.Deal) error
	UpdateCompany(ctx context.Context, c domain.Company) error
	UpdateTeam(ctx context.Context, t domain.Team) error
	DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error)
	DealRow(ctx context.Context, id int64) (domain.DealRow, error)
	// DealPeople gives the people of a deal, the main contact first.
	DealPeople(ctx context.Context, id int64) ([]domain.DealPerson, error)
	AddEntry(ctx context.Context, e domain.Entry) error
	MakingStore
	CompanyPeople(ctx context.Context, id int64) ([]domain.DealPerson, error)
	CompanyDeals(ctx context.Context, id int64) ([]domain.DealRow, error)
}

// PeopleListStore finds records for tables.
type PeopleListStore interface {
	// People gives a window of the people and how many fit, or no more than one beyond q.Most.
	People(ctx context.Context, q domain.PeopleQuery) (domain.PeoplePage, error)
	// PeopleFound gives ids from q.Offset on, at most q.Limit.
	PeopleFound(ctx context.Context, q domain.PeopleQuery) ([]int64, error)
	CountPeople(ctx context.Context, q domain.PeopleQuery) (int, error)
	// Companies and Deals give a window of theirs and how many fit.
	Companies(ctx context.Context, q domain.RecordsQuery) ([]domain.CompanyRow, int, error)
	Deals(ctx context.Context, q domain.RecordsQuery) ([]domain.DealRow, int, error)
}

// MakingStore makes records and takes them away.
type MakingStore interface {
	CompanyByName(ctx context.Context, name string) (domain.Company, error)
	AddCompany(ctx context.Context, c domain.Company) (int64, error)
	AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error)
	// SetDealPeople stores who is in a deal besides its main contact.
	SetDealPeople(ctx context.Context, id int64, others []int64) error
	// DeletePerson, DeleteCompany and DeleteDeal mark a record as deleted or, with nil, put
	// it back; or ErrNotFound.
	DeletePerson(ctx context.Context, id int64, at *time.Time) error
	DeleteCompany(ctx context.Context, id int64, at *time.Time) error
	DeleteDeal(ctx context.Context, id int64, at *time.Time) error
	// AddUndo keeps what takes an act of a user back, and forgets what was kept before a time;
	// TakeUndo gives it, once, or ErrNotFound.
	AddUndo(ctx context.Context, userID int64, kind, data string, at, before time.Time) (int64, error)
	TakeUndo(ctx context.Context, id, userID int64, kind string, since time.Time) (string, error)
	// HangsOn counts what belongs to a record, of which kind is person, company or deal.
	HangsOn(ctx context.Context, kind field.Record, id int64) (domain.Hangs, error)
	// PeopleBeginning gives some people of whom words begin with what was typed.
	PeopleBeginning(ctx context.Context, typed string, limit int) ([]domain.PersonRow, error)
	// MergePeople gives what belongs to one person to another, and notes it.
	MergePeople(ctx context.Context, m domain.Merge) (int64, error)
	Merge(ctx context.Context, id int64) (domain.Merge, error)
	AllTemplates(ctx context.Context, state domain.TemplateState) ([]domain.Template, error)
	// MergeOf gives the number of the merge by which a person is gone, 0 when there is none.
	MergeOf(ctx context.Context, goneID int64) (int64, error)
	// KeptOf gives the record that somebody's was merged into, or ErrNotFound.
	KeptOf(ctx context.Context, goneID int64) (int64, error)
	// SplitPeople undoes MergePeople.
	SplitPeople(ctx context.Context, id int64, at time.Time) error
	AddNote(ctx context.Context, e domain.Entry) (int64, error)
	DeleteNote(ctx context.Context, id, userID int64) error // or ErrNotFound
}

// ListStore keeps lists of people that somebody saved.
type ListStore interface {
	// Lists gives the lists of a user and those that are shared, by name.
	Lists(ctx context.Context, userID int64) ([]domain.List, error)
	// List gives a list, also a deleted one.
	List(ctx context.Context, id int64) (domain.List, error)
	AddList(ctx context.Context, l domain.List) (int64, error)
	UpdateList(ctx context.Context, l domain.List) error
	// DeleteList marks a list as deleted or, with nil, puts it back; or ErrNotFound.
	DeleteList(ctx context.Context, id int64, at *time.Time) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	Team(ctx context.Context, id int64) (domain.Team, error)
	OwnFields(ctx context.Context) ([]field.Def, error)
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
}
