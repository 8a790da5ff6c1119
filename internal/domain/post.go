package domain

import (
	"time"
)

// ScheduledJob is something that a recipient of the post office does about a letter.
type ScheduledJob struct {
	ID           int64      `json:"id" db:"id"`
	PostLetterID int64      `json:"-" db:"post_letter_id"`
	Kind         string     `json:"kind" db:"kind"`
	DueAt        time.Time  `json:"dueAt" db:"due_at"`
	DoneAt       *time.Time `json:"doneAt,omitempty" db:"done_at"`
	Outcome      string     `json:"outcome" db:"outcome"`
}
