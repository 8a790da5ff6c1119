package domain

import (
	"fmt"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/filter"
)

// PeopleQuery selects a window of the people table. Search holds words that
// must all begin a word of the record; Kind "" means both.
type PeopleQuery struct {
	Search string
	Kind   field.Record
	Only   []int64 // nil everybody
	InDeal bool    // only who has a deal that is neither won nor lost
	Where  filter.Bound
	By     filter.Field // the column that it is sorted by; without a path the name
	Down   bool         // descending
	Offset int
	Limit  int
	// Most is how far people are counted: a total is at most one more. 0: all of them.
	Most    int
	Columns []filter.TableColumn // whose values the rows have
}

// PeoplePage is a window of the people table. Of Total there may be More than were counted.
// Unsorted are very many that a search found: the newest come first.
type PeoplePage struct {
	Rows     []PersonRow
	Total    int
	More     bool
	Unsorted bool
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
	Cells       []string     `json:"cells,omitempty" db:"-" doc:"The values of the columns that were asked for: days as 2026-03-02, times in UTC, the rest as it is read"`
}

// LibraryQuery says which templates of the library, and in what order.
type LibraryQuery struct {
	Search  string        // words of which each begins a word of name, use, subject or body
	State   TemplateState // "" any
	Kind    field.Record  // what it must fit; "" any
	Owner   int64         // 0 anybody
	Starred bool          // by the user
	Recent  bool          // sent by the user, the latest first
	Folder  int64         // this folder and those in it; 0 the whole library, NoFolder outside of folders
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
	TemplateKey
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

// LetterRow is a letter with the names that lists show.
type LetterRow struct {
	Letter
	PersonName   string `db:"person_name"`
	TemplateName string `db:"template_name"`
}

// LettersQuery selects letters of a sender: in any of the states, about a person, a
// company or a deal where one is given, and with all words of a search.
type LettersQuery struct {
	SenderID                    int64
	States                      []LetterState
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

// Mailbox is one recipient of the post office.
type Mailbox struct {
	Name   string    `json:"name" db:"name"`
	Count  int       `json:"count" db:"count"`
	Latest time.Time `json:"latest" db:"latest"`
}

// OutboxHold says why nothing is sent; Why is "" while letters go.
type OutboxHold struct {
	Why string     `json:"why" db:"held"`
	At  *time.Time `json:"at,omitempty" db:"held_at"`
}

// Noted is what a journal knows of a try. End is nil while there is no answer.
type Noted struct {
	At  time.Time `json:"at"`
	End *Change   `json:"end,omitempty"`
	Seq int64     `json:"seq,omitempty"` // the tries up to this one
}

// RecordsQuery selects a window of the companies or the deals. Search holds words that must
// all begin a word of a company, or stand in a deal.
type RecordsQuery struct {
	Search        string
	By            filter.Field // the column that it is sorted by; without a path the usual order
	Down          bool
	Offset, Limit int
	Columns       []filter.TableColumn // whose values the rows have
}

// CompanyRow is one line of the companies table.
type CompanyRow struct {
	ID    int64    `json:"id" db:"id"`
	Name  string   `json:"name" db:"name"`
	City  string   `json:"city" db:"city"`
	Cells []string `json:"cells,omitempty" db:"-" doc:"The values of the columns, as those of people"`
}

// Hangs is what belongs to a record, which stays when it is deleted.
type Hangs struct {
	Letters int `json:"letters" db:"letters" doc:"That were sent"`
	Drafts  int `json:"drafts" db:"drafts"`
	Waiting int `json:"waiting" db:"waiting" doc:"That are to go; those to a person who is deleted do not"`
	People  int `json:"people" db:"people"`
	Deals   int `json:"deals" db:"deals"`
	Tasks   int `json:"tasks" db:"tasks"`
	Runs    int `json:"runs" db:"runs" doc:"Plans that the person is going through, or that are about the deal"`
	Rounds  int `json:"rounds" db:"rounds" doc:"Rounds that the person is in and that are not over"`
	Worked  int `json:"worked" db:"worked" doc:"Changes by hand, and calls, visits and notes"`
}

// Words say what belongs to a record, such as “has 2 letters and a task”.
func (h Hangs) Words() string {
	var parts []string
	for _, one := range []struct {
		n         int
		one, many string
	}{
		{h.Letters + h.Drafts + h.Waiting, "a letter", "letters"}, {h.People, "a person", "people"}, {h.Deals, "a deal", "deals"}, {h.Tasks, "a task", "tasks"},
		{h.Runs, "a plan going on", "plans going on"}, {h.Rounds, "a round", "rounds"},
	} {
		switch {
		case one.n == 1:
			parts = append(parts, one.one)
		case one.n > 1:
			parts = append(parts, fmt.Sprintf("%d %s", one.n, one.many))
		}
	}
	switch {
	case len(parts) == 0:
		return "was worked on since"
	case len(parts) == 1:
		return "has " + parts[0]
	}
	return "has " + strings.Join(parts[:len(parts)-1], ", ") + " and " + parts[len(parts)-1]
}

// List is a list of people that somebody saved. Filter is in its text form.
type List struct {
	ID        int64      `json:"id" db:"id"`
	Name      string     `json:"name" db:"name"`
	Filter    string     `json:"filter" db:"filter"`
	Sort      string     `json:"sort" db:"sort"`
	Down      bool       `json:"down" db:"down"`
	Columns   string     `json:"columns" db:"columns" doc:"In their text form; empty: the usual ones"`
	OwnerID   int64      `json:"ownerId" db:"owner_id"`
	Owner     string     `json:"owner" db:"owner"`
	Shared    bool       `json:"shared" db:"shared" doc:"Everybody sees it"`
	CreatedAt time.Time  `json:"-" db:"created_at"`
	DeletedAt *time.Time `json:"-" db:"deleted_at"`
}

// Merge is two records of one person that were made one. Before are the values that the one
// who was kept had, by path; KeptVersion is the version they got.
type Merge struct {
	ID          int64             `db:"id"`
	KeptID      int64             `db:"kept_id"`
	GoneID      int64             `db:"gone_id"`
	Before      map[string]string `db:"-"`
	KeptVersion int               `db:"kept_version"`
	UserID      int64             `db:"user_id"`
	At          time.Time         `db:"at"`
	UndoneAt    *time.Time        `db:"undone_at"`
}

// TasksQuery says which tasks of a user are listed: of one person, or with 0 of all.
type TasksQuery struct {
	UserID, PersonID int64
	Limit, Offset    int
}

// TasksPage is a window of tasks, and how many there are.
type TasksPage struct {
	Tasks []Task `json:"tasks"`
	Total int    `json:"total"`
}

// TasksDue is what became due since a screen last looked.
type TasksDue struct {
	Now    time.Time  `json:"now" doc:"On the program's clock; ask with it the next time"`
	Count  int        `json:"count" doc:"Tasks that became due since"`
	Last   *Task      `json:"last,omitempty" doc:"The last of them"`
	NextAt *time.Time `json:"nextAt,omitempty" doc:"When the next one will be"`
}
