package domain

import (
	"time"

	"lucidletter/core/field"
)

// ImportRow is a row that is to be written: what was decided about it while the file
// was read. Cells are the values of the person in canonical form, by field path.
type ImportRow struct {
	Line        int               `json:"line"`
	PersonID    int64             `json:"person,omitempty"` // 0: somebody new
	Answered    bool              `json:"answered,omitempty"`
	Kind        field.Record      `json:"kind"`
	Cells       map[string]string `json:"cells"`
	CompanyName string            `json:"companyName,omitempty"` // as a lead has it
	Company     *Company          `json:"company,omitempty"`     // that a contact gets
}

// Import is an import that is written in steps. Report says how far it is.
type Import struct {
	ID        int64     `db:"id"`
	UserID    int64     `db:"user_id"`
	State     string    `db:"state"`
	Report    []byte    `db:"report"`
	CreatedAt time.Time `db:"created_at"`
}

// The states of an import: its rows are being kept, it is being written, it is done.
const (
	ImportKeeping = "keeping"
	ImportWriting = "writing"
	ImportDone    = "done"
)

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

	ID      int64 `json:"id" doc:"Of an import that is written in steps; 0 when it was short"`
	Running bool  `json:"running" doc:"It is being written; ask again"`
	Written int   `json:"written" doc:"Rows that were written"`
	ToWrite int   `json:"toWrite" doc:"Rows to be written"`
}

// Column is one column of the file and the field it goes to ("" none). Problem
// says, in a check, why nobody knows where it goes.
type Column struct {
	Header  string `json:"header"`
	Path    string `json:"path"`
	Label   string `json:"label"`
	Problem string `json:"problem"`
	Left    int    `json:"left" doc:"Rows of leads whose value was left out, since only companies have it"`

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
