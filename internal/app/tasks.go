package app

import (
	"context"
	"fmt"
	"time"
)

// Task is something to be done. One of a letter reminds of an answer that did not
// come, and is not listed when it came.
type Task struct {
	ID        int64      `json:"id" db:"id"`
	UserID    int64      `json:"-" db:"user_id"`
	PersonID  *int64     `json:"personId,omitempty" db:"person_id"`
	DealID    *int64     `json:"dealId,omitempty" db:"deal_id"`
	LetterID  *int64     `json:"letterId,omitempty" db:"letter_id"`
	Text      string     `json:"text" db:"text"`
	Person    string     `json:"person" db:"person_name"`
	DueAt     time.Time  `json:"dueAt" db:"due_at"`
	DoneAt    *time.Time `json:"doneAt,omitempty" db:"done_at"`
	CreatedAt time.Time  `json:"-" db:"created_at"`
}

// Tasks lists what the user has to do, the earliest first; of one person, or with 0
// of all.
func (a *App) Tasks(ctx context.Context, u User, personID int64) ([]Task, error) {
	return a.Store.Tasks(ctx, u.ID, personID)
}

// TaskDone settles a task of the user, or brings it back.
func (a *App) TaskDone(ctx context.Context, u User, id int64, done bool) error {
	var at *time.Time
	if done {
		at = ptr(a.now())
	}
	return a.Store.SetTaskDone(ctx, u.ID, id, at)
}

// checkReminder refuses a reminder that comes before the letter goes.
func checkReminder(at *time.Time, due time.Time) error {
	switch {
	case at == nil:
		return nil
	case !at.After(due):
		return invalid("remind", "is before the letter goes; choose a later day")
	case at.Sub(due) > maxAhead:
		return invalid("remind", "is more than a year ahead; choose an earlier day")
	}
	return nil
}

// reminder is the task that a letter which went leaves behind, if its writer asked
// for one.
func (l *Letter) reminder(now time.Time) *Task {
	if l.Extras.Remind == nil {
		return nil
	}
	who := l.ToName
	if who == "" {
		who = l.ToEmail
	}
	person := &l.PersonID
	if l.Internal {
		person = nil
	}
	return &Task{
		UserID: l.SenderID, PersonID: person, DealID: l.DealID, LetterID: &l.ID,
		Text: fmt.Sprintf("No answer yet from %s to “%s”", who, l.SubjectLine), DueAt: *l.Extras.Remind, CreatedAt: now,
	}
}
