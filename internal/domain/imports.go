package domain

import (
	"hash/fnv"
	"maps"
	"slices"
	"strconv"
	"time"

	"lucidletter/core/field"
)

// ImportRow is a row that is to be written: what was decided about it while the file
// was read. Cells are the values of the person in canonical form, by field path; Firm and
// Deal those of the company and the deal. A row without Cells is about no person.
type ImportRow struct {
	Line        int               `json:"line"`
	PersonID    int64             `json:"person,omitempty"` // 0: somebody new
	Answered    bool              `json:"answered,omitempty"`
	Same        bool              `json:"same,omitempty"` // the person has these values already
	Kind        field.Record      `json:"kind"`
	Cells       map[string]string `json:"cells"`
	CompanyName string            `json:"companyName,omitempty"` // as a lead has it
	Firm        map[string]string `json:"firm,omitempty"`        // company.name and what else is known
	Deal        map[string]string `json:"deal,omitempty"`        // deal.name and what else is known
	Company     *Company          `json:"company,omitempty"`     // in rows that an earlier version kept
}

// ImportBlock is how many rows of a long import are written in one step: some 50 ms, for which
// a save may have to wait.
const ImportBlock = 500

// Import is a file that was imported, or is being written in steps. Report says how far it is.
type Import struct {
	ID        int64     `db:"id"`
	UserID    int64     `db:"user_id"`
	User      string    `db:"user"`
	File      string    `db:"file"`
	State     string    `db:"state"`
	Report    []byte    `db:"report"`
	CreatedAt time.Time `db:"created_at"`
	Undoable  bool      `db:"undoable"` // what it did is known
}

// The states of an import: its rows are being kept, it is being written, it is done; what it
// did is being taken back, or was.
const (
	ImportKeeping    = "keeping"
	ImportWriting    = "writing"
	ImportDone       = "done"
	ImportTakingBack = "taking back"
	ImportTakenBack  = "taken back"
)

// ImportWrite is what an import did with one record: it made it, or gave it values. Was and
// Now are those values before and after, in canonical form, by path.
type ImportWrite struct {
	Seq      int64        `json:"-" db:"seq"`
	Kind     field.Record `json:"-" db:"kind"`
	RecordID int64        `json:"-" db:"record_id"`
	Made     bool         `json:"-" db:"made"`
	Sum      string       `json:"sum,omitempty" db:"-"` // of a person who was made
	Was      Own          `json:"was,omitempty" db:"-"`
	Now      Own          `json:"now,omitempty" db:"-"`
}

// Sum is a sum of everything that somebody can change on a person: two that are the same have
// the same one (FNV-1a of 64 bits).
func (p *Person) Sum() string {
	h := fnv.New64a()
	for _, s := range []string{string(p.Kind), p.Honorific, p.FirstName, p.LastName, p.Email, p.Phone, p.JobTitle, p.City, p.Country, p.Language, p.TimeZone, p.CompanyName, p.LeadStatus, p.LeadSource, p.Department, p.ContactSince, numbered(p.CompanyID), numbered(p.OwnerID), strconv.FormatBool(p.OptedOutAt != nil), strconv.FormatBool(p.Untracked)} {
		_, _ = h.Write([]byte(s + "\x00")) // never fails
	}
	for _, path := range slices.Sorted(maps.Keys(p.Own)) {
		_, _ = h.Write([]byte(path + "\x00" + p.Own[path] + "\x00"))
	}
	return strconv.FormatUint(h.Sum64(), 36)
}

// IDOf gives the number that a pointer holds, 0 for none.
func IDOf(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

func numbered(id *int64) string {
	if id == nil {
		return ""
	}
	return strconv.FormatInt(*id, 10)
}

// ImportLine is an import as a list shows it.
type ImportLine struct {
	ID      int64        `json:"id"`
	File    string       `json:"file" doc:"Its name, or nothing"`
	By      string       `json:"by"`
	Mine    bool         `json:"mine"`
	At      time.Time    `json:"at"`
	State   string       `json:"state" enum:"keeping,writing,done,taking back,taken back"`
	Report  ImportReport `json:"report"`
	MayUndo bool         `json:"mayUndo" doc:"It can be taken back"`
}

// ImportReport says what an import did, or with Check would do.
type ImportReport struct {
	Columns  []Column     `json:"columns"`
	Rows     int          `json:"rows"`
	Created  int          `json:"created"`
	Updated  int          `json:"updated"`
	Same     int          `json:"same"` // found by email, nothing to change
	Refused  int          `json:"refused"`
	Refusals []RefusedRow `json:"refusals"` // the first thousand
	Asked    int          `json:"asked"`    // rows of which nobody knows whom they are about
	Asks     []ImportAsk  `json:"asks"`     // the first thousand, answered or not
	Skipped  int          `json:"skipped"`  // rows that an answer left out
	Done     bool         `json:"done"`     // false: not everything is stored

	Companies ImportCounts `json:"companies"`
	Deals     ImportCounts `json:"deals"`
	Tidyings  []ImportTidy `json:"tidyings" doc:"Untidy values, by what is untidy about them"`

	ID      int64 `json:"id" doc:"By which it is found again; 0 of a check"`
	Running bool  `json:"running" doc:"It is being written; ask again"`
	Written int   `json:"written" doc:"Rows that were written"`
	ToWrite int   `json:"toWrite" doc:"Rows to be written"`

	TakenBackBy int64 `json:"takenBackBy,omitempty" doc:"The user who took it back"`

	TakenBack int          `json:"takenBack" doc:"Records that were as the import left them, and are as before"`
	Kept      []RefusedRow `json:"kept" doc:"Records that were changed since, and stay; the first thousand"`
	KeptAll   int          `json:"keptAll" doc:"How many those are"`
}

// ImportCounts tells what an import does with companies or deals.
type ImportCounts struct {
	Created int `json:"created"`
	Updated int `json:"updated"`
}

// ImportTidy is one way in which values of a file are untidy, with the first of them.
type ImportTidy struct {
	How      field.Tidying `json:"how" enum:"spaces,junk,capitals,phones,country"`
	Count    int           `json:"count"`
	Examples []TidiedValue `json:"examples"`
	On       bool          `json:"on" doc:"They are tidied"`
}

// TidiedValue is an untidy value and its tidy form.
type TidiedValue struct {
	Line  int    `json:"line"`
	Label string `json:"label"`
	Was   string `json:"was"`
	Now   string `json:"now"`
}

// Column is one column of the file and the field it goes to ("" none). Problem
// says, in a check, why nobody knows where it goes.
type Column struct {
	Header  string `json:"header"`
	Path    string `json:"path"`
	Label   string `json:"label"`
	Problem string `json:"problem"`
	Left    int    `json:"left" doc:"Rows of leads whose value was left out, since only companies have it"`
	How     string `json:"how" enum:"path,name,contents,before,chosen," doc:"What the field was found by: its path, the name of the column, what stands in it, what was chosen the last time"`
	Example string `json:"example" doc:"The first value that stands in it"`
	Type    string `json:"type" enum:"text,number,date,yesno,email,phone,url" doc:"What its values look like"`

	Guessed bool `json:"-"` // by its name, not by its path or by somebody's choice
}

// RefusedRow is a row that cannot be imported. Line counts from 1 for the
// header.
type RefusedRow struct {
	Line int    `json:"line"`
	Why  string `json:"why"`
}

// ImportAsk is a row whose address belongs to several people, or to another row.
type ImportAsk struct {
	Key    string         `json:"key"`
	Line   int            `json:"line"`
	Who    string         `json:"who" doc:"The name in the row"`
	Email  string         `json:"email"`
	Why    string         `json:"why"`
	People []ImportPerson `json:"people" doc:"Who could be meant"`
	Answer string         `json:"answer" doc:"The id of one of them, new, skip, or empty"`
}

// ImportPerson is somebody who has the address of a row.
type ImportPerson struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	About string `json:"about" doc:"What tells them from others"`
}
