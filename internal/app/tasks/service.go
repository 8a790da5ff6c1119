// Package tasks holds the use cases about what users have to do: tasks, the calendar that they stand in,
// and the emails that remind of them.
package tasks

import (
	"context"
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/domain"
)

// Store keeps tasks and the people and deals that they are about.
type Store interface {
	AddTask(ctx context.Context, t domain.Task) (int64, error)
	// Tasks lists open tasks, the earliest first; reminders that were answered
	// are left out.
	Tasks(ctx context.Context, userID, personID int64) ([]domain.Task, error)
	TasksPage(ctx context.Context, q domain.TasksQuery) (domain.TasksPage, error)
	TasksComingDue(ctx context.Context, userID int64, after, until time.Time) (domain.TasksDue, error)
	SetTaskDue(ctx context.Context, userID, id int64, at time.Time) error // or ErrNotFound
	// SetTaskDone settles a task of a user or, with nil, brings it back; or ErrNotFound.
	SetTaskDone(ctx context.Context, userID, id int64, at *time.Time) error
	// DueReminders gives tasks that are due, of users who are reminded by email and were not.
	DueReminders(ctx context.Context, now time.Time, but []int64, limit int) ([]domain.Task, error)
	SetReminded(ctx context.Context, ids []int64, at *time.Time) error
	OutboxHold(ctx context.Context) (domain.OutboxHold, error)
	Letters(ctx context.Context, q domain.LettersQuery) ([]domain.LetterRow, error)
	Person(ctx context.Context, id int64) (domain.Person, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	User(ctx context.Context, id int64) (domain.User, error)
	// CalendarToken gives the token of a user's calendar address, "" when there is none.
	CalendarToken(ctx context.Context, userID int64) (string, error)
	SetCalendarToken(ctx context.Context, userID int64, token string) error
	UserByCalendar(ctx context.Context, token string) (domain.User, error)
}

// Ports is what the service needs.
type Ports struct {
	Store   Store
	NewID   func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	Now     func() time.Time // in UTC, in whole milliseconds as it is stored
	Compose *compose.Service
	Email   *outbound.Email
}

// Service is what users have to do. Make it with New.
type Service struct {
	store   Store
	newID   func() string
	now     func() time.Time
	compose *compose.Service
	email   *outbound.Email

	unreminded map[int64]time.Time // users whom no email could be sent to, and when; of the reminding worker alone
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, newID: p.NewID, now: p.Now, compose: p.Compose, email: p.Email, unreminded: map[int64]time.Time{}}
}
