package library

import (
	"context"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	FolderStore
	RecordStore
	ShelfStore
	TemplateStore
	UserStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
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
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	People(ctx context.Context, q domain.PeopleQuery) (domain.PeoplePage, error)
	Person(ctx context.Context, id int64) (domain.Person, error)
	// PeopleIDs gives everybody, those of one company together.
	PeopleIDs(ctx context.Context) ([]int64, error)
	// PeopleWithDeals gives people, each with the newest open deal; who was deleted is left
	// out.
	PeopleWithDeals(ctx context.Context, ids []int64) ([]domain.PersonDeal, error)
	// PeopleEdition rises when people change, or what is told of them from companies and
	// deals.
	PeopleEdition(ctx context.Context) (int64, error)
	Company(ctx context.Context, id int64) (domain.Company, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error)
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
	// NoteUpload notes who brought a file in.
	NoteUpload(ctx context.Context, sha string, userID int64, at time.Time) error
	File(ctx context.Context, sha string) (domain.File, error)
	FileHead(ctx context.Context, sha string) (domain.File, error)
	Documents(ctx context.Context) ([]domain.SharedDocument, error)
	SharedDocument(ctx context.Context, id int64) (domain.SharedDocument, error)
	AddDocument(ctx context.Context, d domain.SharedDocument) (int64, error)
	UpdateDocument(ctx context.Context, d domain.SharedDocument) error
}

// TemplateStore keeps templates.
type TemplateStore interface {
	// FindTemplates gives the templates of a query in its order, whoever may
	// see them; Kind, Offset and Limit are not looked at.
	FindTemplates(ctx context.Context, userID int64, q domain.LibraryQuery) ([]domain.TemplateKey, error)
	// TemplateLines gives these templates, in this order.
	TemplateLines(ctx context.Context, userID int64, ids []int64) ([]domain.TemplateLine, error)
	// FoundIn marks the hits of a search in these templates.
	FoundIn(ctx context.Context, search string, ids []int64) (map[int64]domain.Found, error)
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
	// PlansWith gives the plans that have letters of a template, by name.
	PlansWith(ctx context.Context, templateID int64) ([]domain.Plan, error)
	// DraftsOf counts the letters being written from a template.
	DraftsOf(ctx context.Context, templateID int64) (int, error)
	// Versions lists what AddTemplate and UpdateTemplate stored.
	Versions(ctx context.Context, templateID int64) ([]domain.VersionRow, error)
	TemplateVersion(ctx context.Context, templateID int64, version int) (domain.Template, error)
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	OwnFields(ctx context.Context) ([]field.Def, error)
	// Teams lists the teams by name.
	Teams(ctx context.Context) ([]domain.Team, error)
	// Users lists everybody by name.
	Users(ctx context.Context) ([]domain.User, error)
}
