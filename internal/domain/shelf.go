package domain

import (
	"database/sql/driver"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/interchange"
)

// Extras is what a template sets beside its wording. Stationery is that of a
// formatted body: 0 the default one, NoStationery none. MayNot is what writers may
// not add to a letter. Documents are attached to every letter.
type Extras struct {
	TextPart   *document.Document `json:"textPart,omitempty"`
	TextOf     string             `json:"textOf,omitempty"` // what the body said when TextPart was written
	Stationery int64              `json:"stationery,omitempty"`
	MayNot     []Addition         `json:"mayNot,omitempty"`
	Documents  []int64            `json:"documents,omitempty"`
	Untracked  bool               `json:"untracked,omitempty"` // opens and clicks of its letters are not measured
}

// NoStationery is chosen by templates that stand alone.
const NoStationery = -1

// Addition is something that writers add to a letter.
type Addition string

// The additions.
const (
	AddLinks       Addition = "links"
	AddPictures    Addition = "pictures"
	AddFields      Addition = "fields"
	AddAttachments Addition = "attachments"
)

// LetterExtras is what a letter has from its template beside its wording. Had is
// what the letter held when it was merged.
type LetterExtras struct {
	TextPart    *document.Document    `json:"textPart,omitempty"`
	Stationery  int64                 `json:"stationery,omitempty"` // 0 none
	MayNot      []Addition            `json:"mayNot,omitempty"`
	Had         interchange.Inventory `json:"had,omitzero"`
	Attachments []Attachment          `json:"attachments,omitempty"`
	Address     string                `json:"address,omitempty"` // typed for this letter alone; counts while the record has none
	AlsoTo      []Address             `json:"alsoTo,omitempty"`
	Cc          []Address             `json:"cc,omitempty"`
	Bcc         []Address             `json:"bcc,omitempty"`
	ReplyTo     string                `json:"replyTo,omitempty"`
	Remind      *time.Time            `json:"remind,omitempty"`    // when to remind of an answer that did not come
	RemindAny   bool                  `json:"remindAny,omitempty"` // also when one came
	Pieces      []PutIn               `json:"pieces,omitempty"`
	Begun       bool                  `json:"begun,omitempty"`     // its wording began with its template
	Signature   *document.Document    `json:"signature,omitempty"` // as it was put in
	Untracked   bool                  `json:"untracked,omitempty"` // opens and clicks are not measured
	Quote       *Quote                `json:"quote,omitempty"`     // what it answers
	InSpite     bool                  `json:"inSpite,omitempty"`   // of a round; goes although its reader wrote meanwhile
	Kept        []KeptWords           `json:"kept,omitempty"`      // what may speak of the records that it was written for before
}

// KeptWords are words that a letter keeps though they may speak of its old records.
type KeptWords struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Words string `json:"words"`
}

// Quote is what a letter quotes below of the one that it answers. Who says whose words
// these are; Words "" quotes nothing.
type Quote struct {
	Who   string `json:"who"`
	Words string `json:"words"`
}

// Attachment is a file that goes with a letter. One of the shelf follows its
// document until the letter goes.
type Attachment struct {
	Name       string `json:"name"`
	SHA        string `json:"sha"`
	Type       string `json:"type"`
	Size       int    `json:"size"`
	DocumentID int64  `json:"documentId,omitempty"`
	Version    int    `json:"version,omitempty"`
}

// Passage is a short reusable text with a shortcut.
type Passage struct {
	ID        int64             `db:"id"`
	Name      string            `db:"name"`
	Shortcut  string            `db:"shortcut"`
	Body      document.Document `db:"-"`
	FolderID  *int64            `db:"folder_id"`
	OwnerID   int64             `db:"owner_id"`
	Rights    access.Rights     `db:"-"`
	Version   int               `db:"version"`
	CreatedAt time.Time         `db:"created_at"`
	UpdatedAt time.Time         `db:"updated_at"`
	UpdatedBy int64             `db:"updated_by"`
	DeletedAt *time.Time        `db:"deleted_at"`
}

// Stationery is a header and a footer around formatted letters. The look of the
// sheet is that of the header.
type Stationery struct {
	ID        int64             `db:"id"`
	Name      string            `db:"name"`
	Header    document.Document `db:"-"`
	Footer    document.Document `db:"-"`
	Ready     bool              `db:"ready"`
	Default   bool              `db:"is_default"`
	Version   int               `db:"version"`
	UpdatedAt time.Time         `db:"updated_at"`
	UpdatedBy int64             `db:"updated_by"`
	DeletedAt *time.Time        `db:"deleted_at"`
}

// File is the bytes of a picture or a document, by their SHA-256 in hexadecimal.
type File struct {
	SHA       string    `db:"sha"`
	Type      string    `db:"type"`
	Size      int       `db:"size"`
	Bytes     []byte    `db:"bytes"`
	CreatedAt time.Time `db:"created_at"`
}

// SharedDocument is a file of the shelf of approved documents. Version counts its
// replacements.
type SharedDocument struct {
	ID        int64         `db:"id"`
	Name      string        `db:"name"`
	Purpose   string        `db:"purpose"`
	FileName  string        `db:"file_name"`
	SHA       string        `db:"sha"`
	Type      string        `db:"type"`
	Size      int           `db:"size"`
	Rights    access.Rights `db:"-"`
	OwnerID   int64         `db:"owner_id"`
	Version   int           `db:"version"`
	UpdatedAt time.Time     `db:"updated_at"`
	UpdatedBy int64         `db:"updated_by"`
	DeletedAt *time.Time    `db:"deleted_at"`
}

// Value writes extras as JSON.
func (e Extras) Value() (driver.Value, error) { return toJSON(e) }

// Scan reads extras from JSON.
func (e *Extras) Scan(src any) error {
	if src == "{}" { // as most are
		*e = Extras{}
		return nil
	}
	return fromJSON(src, e)
}

// Value writes extras as JSON.
func (e LetterExtras) Value() (driver.Value, error) { return toJSON(e) }

// Scan reads extras from JSON.
func (e *LetterExtras) Scan(src any) error { return fromJSON(src, e) }
