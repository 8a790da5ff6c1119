package domain

import (
	"fmt"
	"regexp"
	"time"

	"lucidletter/core/result"
)

// HistoryQuery selects a window of the history of one record. Only is letters, back
// (what came back), changes or "" for everything.
type HistoryQuery struct {
	PersonID, CompanyID, DealID int64
	Only                        string
	Offset, Limit               int
}

var isoDate = regexp.MustCompile(`\b(\d{4})-(\d\d)-(\d\d)\b`)

// ForPeople writes what was noted of an entry for people: what servers said in words,
// dates as dates.
func (e *Entry) ForPeople() {
	switch e.Kind {
	case EntryBounced, EntryDelayed, EntryRefused:
		e.Text, e.Detail = result.ForPeople(e.Text)
	case EntryAway, EntryChanged:
		e.Text = isoDate.ReplaceAllStringFunc(e.Text, func(s string) string {
			day, err := time.Parse(time.DateOnly, s)
			if err != nil {
				return s
			}
			return day.Format("2 January 2006")
		})
	}
}

// NewsRow is something that came back for a user.
type NewsRow struct {
	ID         int64     `json:"id" db:"id"`
	Kind       EntryKind `json:"kind" db:"kind"`
	Text       string    `json:"text" db:"text"`
	Subject    string    `json:"subject" db:"subject"`
	PersonID   *int64    `json:"personId,omitempty" db:"person_id"`
	LetterID   *int64    `json:"letterId,omitempty" db:"letter_id"`
	IncomingID *int64    `json:"incomingId,omitempty" db:"incoming_id"`
	Person     string    `json:"person" db:"person_name"`
	At         time.Time `json:"at" db:"at"`
}

// ForPeople puts words for what is stored.
func (n *NewsRow) ForPeople() {
	e := Entry{Kind: n.Kind, Text: n.Text}
	e.ForPeople()
	n.Text = e.Text
}

// Task is something to be done. One of a letter reminds of an answer that did not
// come, and is not listed when it came, unless it is to stay.
type Task struct {
	ID        int64      `json:"id" db:"id"`
	UserID    int64      `json:"-" db:"user_id"`
	PersonID  *int64     `json:"personId,omitempty" db:"person_id"`
	DealID    *int64     `json:"dealId,omitempty" db:"deal_id"`
	LetterID  *int64     `json:"letterId,omitempty" db:"letter_id"`
	RunID     *int64     `json:"runId,omitempty" db:"run_id" doc:"The run of a plan that it is a step of"`
	Kind      TaskKind   `json:"kind" db:"kind" enum:",call,visit,note,text"`
	Always    bool       `json:"always" db:"always" doc:"It stays when an answer comes"`
	Text      string     `json:"text" db:"text"`
	Person    string     `json:"person" db:"person_name"`
	DueAt     time.Time  `json:"dueAt" db:"due_at"`
	DoneAt    *time.Time `json:"doneAt,omitempty" db:"done_at"`
	CreatedAt time.Time  `json:"-" db:"created_at"`
}

// Reminder is the task that a letter which went leaves behind, if its writer asked
// for one.
func (l *Letter) Reminder(now time.Time) *Task {
	if l.Extras.Remind == nil {
		return nil
	}
	who := l.ToName
	if who == "" {
		who = l.ToEmail
	}
	text := fmt.Sprintf("No reply yet from %s to “%s”", who, l.SubjectLine)
	if l.Extras.RemindAny {
		text = fmt.Sprintf("Follow up with %s on “%s”", who, l.SubjectLine)
	}
	person := &l.PersonID
	if l.Internal {
		person = nil
	}
	return &Task{
		UserID: l.SenderID, PersonID: person, DealID: l.DealID, LetterID: &l.ID,
		Always: l.Extras.RemindAny, Text: text, DueAt: *l.Extras.Remind, CreatedAt: now,
	}
}

// OptOut is an address that nobody may write to any more.
type OptOut struct {
	Key      string    `json:"-" db:"email_key"`
	Email    string    `json:"email" db:"email"`
	Reason   string    `json:"reason" db:"reason"`
	At       time.Time `json:"at" db:"at"`
	LetterID *int64    `json:"letterId,omitempty" db:"letter_id"`
	UserID   *int64    `json:"-" db:"user_id"`
	ReportID *int64    `json:"reportId,omitempty" db:"incoming_id" doc:"The incoming report that said so"`
	By       string    `json:"by" db:"by_name" doc:"Who wrote it down; empty: the recipient"`
}
