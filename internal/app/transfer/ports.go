package transfer

import (
	"context"
	"iter"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Table is an import file as rows. Rows yields the line number of each row and
// its cells, or an error that ends the file.
type Table struct {
	Header []string
	Sample [][]string // the first rows, for guesses by what stands in a column
	Look   field.Look // how it writes numbers and dates
	Rows   iter.Seq2[TableRow, error]
}

// TableRow is one row of a file. Err says why this row alone cannot be read.
type TableRow struct {
	Line  int
	Cells []string
	Err   error
}

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	FolderStore
	ImportStore
	RecordStore
	ShelfStore
	TemplateStore
	UserStore
	records.Store
	library.Store
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
	// Yield rests after a step that took some time, so that people who wait are answered first.
	Yield(ctx context.Context, took time.Duration)
}

// FolderStore keeps folders. All of them come in their order.
type FolderStore interface {
	Folders(ctx context.Context, holds string) ([]domain.Folder, error)
	AddFolder(ctx context.Context, f domain.Folder) (int64, error)
}

// ImportStore keeps long imports while they are written.
type ImportStore interface {
	AddImport(ctx context.Context, i domain.Import, r domain.ImportReport) (int64, error)
	// KeepImportRows puts rows aside, numbered from from on.
	KeepImportRows(ctx context.Context, id int64, from int, rows []domain.ImportRow) error
	// TakeImportRows takes the next block of rows of an import out.
	TakeImportRows(ctx context.Context, id int64) ([]domain.ImportRow, error)
	Import(ctx context.Context, id int64) (domain.Import, domain.ImportReport, error) // or ErrNotFound
	SetImport(ctx context.Context, id int64, state string, r domain.ImportReport) error
	// ImportsToWrite gives the imports to be written or taken back, the oldest first.
	ImportsToWrite(ctx context.Context) ([]int64, error)
	// Imports lists the imports of a user, or with 0 of everybody, the newest first.
	Imports(ctx context.Context, userID int64, limit int) ([]domain.Import, error)
	// AddImportWrites stores what an import did with records; TakeImportWrites takes such
	// out, at most limit, the last first.
	AddImportWrites(ctx context.Context, id int64, list []domain.ImportWrite) error
	TakeImportWrites(ctx context.Context, id int64, limit int) ([]domain.ImportWrite, error)
	// ImportColumns gives where a user put columns, by their header in plain words.
	ImportColumns(ctx context.Context, userID int64) (map[string]string, error)
	PutImportColumn(ctx context.Context, userID int64, header, path string) error
	DropImport(ctx context.Context, id int64) error
	// DropImports forgets the imports of before a time whose rows were not all kept.
	DropImports(ctx context.Context, before time.Time) error
}

// RecordStore keeps people, companies, deals and their history.
type RecordStore interface {
	// PeopleOf gives people by their ids.
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error)
	Person(ctx context.Context, id int64) (domain.Person, error)
	// PeopleByEmails gives everybody with one of some address keys, by number.
	PeopleByEmails(ctx context.Context, keys []string) ([]domain.Person, error)
	// AddPeople adds people and gives their numbers in their order.
	AddPeople(ctx context.Context, people []domain.Person) ([]int64, error)
	AddEntries(ctx context.Context, entries []domain.Entry) error
	// UpdatePerson stores p if its version is still the stored one, else
	// ErrStale.
	UpdatePerson(ctx context.Context, p domain.Person) error
	CompanyByName(ctx context.Context, name string) (domain.Company, error)
	AddCompany(ctx context.Context, c domain.Company) (int64, error)
	Company(ctx context.Context, id int64) (domain.Company, error)
	UpdateCompany(ctx context.Context, c domain.Company) error
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	// DealsNamed gives the deals of a name, whatever its case.
	DealsNamed(ctx context.Context, name string) ([]domain.Deal, error)
	AddDeal(ctx context.Context, d domain.Deal, others []int64) (int64, error)
	UpdateDeal(ctx context.Context, d domain.Deal) error
	DeletePerson(ctx context.Context, id int64, at *time.Time) error
	DeleteCompany(ctx context.Context, id int64, at *time.Time) error
	DeleteDeal(ctx context.Context, id int64, at *time.Time) error
	// HangsOn counts what belongs to a record, of which kind is person, company or deal.
	HangsOn(ctx context.Context, kind field.Record, id int64) (domain.Hangs, error)
	AddEntry(ctx context.Context, e domain.Entry) error
}

// ShelfStore keeps passages, stationery, files and approved documents. What is
// given by its id may be deleted, what is listed is not.
type ShelfStore interface {
	Passages(ctx context.Context) ([]domain.Passage, error)
	Passage(ctx context.Context, id int64) (domain.Passage, error)
	AddPassage(ctx context.Context, p domain.Passage) (int64, error)
	AddFile(ctx context.Context, f domain.File) error
	File(ctx context.Context, sha string) (domain.File, error)
}

// TemplateStore keeps templates.
type TemplateStore interface {
	// FindTemplates gives the templates of a query in its order, whoever may
	// see them; Kind, Offset and Limit are not looked at.
	FindTemplates(ctx context.Context, userID int64, q domain.LibraryQuery) ([]domain.TemplateKey, error)
	// TemplateLines gives these templates, in this order.
	TemplateLines(ctx context.Context, userID int64, ids []int64) ([]domain.TemplateLine, error)
	// WordingsOf gives a template and its wordings in other languages, whole, those that
	// are not deleted, in the order of adding.
	WordingsOf(ctx context.Context, id int64) ([]domain.Template, error)
	// Template gives a template, also a deleted one.
	Template(ctx context.Context, id int64) (domain.Template, error)
	AddTemplate(ctx context.Context, t domain.Template) (int64, error)
	// UpdateTemplate stores the wording of t as version t.Version+1 if t.Version
	// is still the stored one, else ErrStale.
	UpdateTemplate(ctx context.Context, t domain.Template) error
}

// UserStore keeps users, teams and the workspace's own fields.
type UserStore interface {
	User(ctx context.Context, id int64) (domain.User, error)
	OwnFields(ctx context.Context) ([]field.Def, error)
	AddOwnField(ctx context.Context, d field.Def) error
}
