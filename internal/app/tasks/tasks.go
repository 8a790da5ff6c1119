package tasks

import (
	"context"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// Tasks lists what the user has to do, the earliest first; of one person, or with 0
// of all.
func (a *Service) Tasks(ctx context.Context, u domain.User, personID int64) ([]domain.Task, error) {
	return a.store.Tasks(ctx, u.ID, personID)
}

// MaxTasks is how many tasks one page of a list has at most.
const MaxTasks = 500

// TasksPage gives a window of what the user has to do, and how much that is in all.
func (a *Service) TasksPage(ctx context.Context, u domain.User, personID int64, limit, offset int) (domain.TasksPage, error) {
	return a.store.TasksPage(ctx, domain.TasksQuery{UserID: u.ID, PersonID: personID, Limit: min(limit, MaxTasks), Offset: offset})
}

// TasksDue gives what became due since a time, nil for a screen that only begins to look: what
// was due before stands on Today.
func (a *Service) TasksDue(ctx context.Context, u domain.User, since *time.Time) (domain.TasksDue, error) {
	now := a.now()
	if since == nil || since.After(now) { // or the clock was set back
		since = &now
	}
	out, err := a.store.TasksComingDue(ctx, u.ID, *since, now)
	out.Now = now
	return out, err
}

// TaskDone settles a task of the user, or brings it back.
func (a *Service) TaskDone(ctx context.Context, u domain.User, id int64, done bool) error {
	var at *time.Time
	if done {
		at = new(a.now())
	}
	return a.store.SetTaskDone(ctx, u.ID, id, at)
}

// TaskInput is a task as its owner writes it down, about a person and a deal or
// about neither.
type TaskInput struct {
	Text     string
	Kind     domain.TaskKind
	DueAt    time.Time
	PersonID *int64
	DealID   *int64
}

// MaxTask is the characters of a task.
const MaxTask = 500

// AddTask writes a task down.
func (a *Service) AddTask(ctx context.Context, u domain.User, in TaskInput) (domain.Task, error) {
	t := domain.Task{UserID: u.ID, Kind: in.Kind, PersonID: in.PersonID, DealID: in.DealID, Text: strings.Join(strings.Fields(in.Text), " "), CreatedAt: a.now()}
	var err error
	if t.DueAt, err = a.taskDue(in.DueAt); err != nil {
		return t, err
	}
	switch {
	case t.Text == "":
		return t, domain.Invalid("text", "is missing; say what needs doing")
	case utf8.RuneCountInString(t.Text) > MaxTask:
		return t, domain.Invalid("text", "is longer than %d characters; shorten it", MaxTask)
	}
	if !slices.Contains([]domain.TaskKind{"", domain.TaskCall, domain.TaskVisit, domain.TaskNote}, in.Kind) {
		return t, domain.Invalid("kind", "%q is not known; choose call, visit or note", in.Kind)
	}
	if in.PersonID != nil {
		p, err := a.store.Person(ctx, *in.PersonID)
		if err != nil {
			return t, err
		}
		t.Person = p.Name()
	}
	if in.DealID != nil {
		if _, err := a.store.Deal(ctx, *in.DealID); err != nil {
			return t, err
		}
	}
	t.ID, err = a.store.AddTask(ctx, t)
	return t, err
}

// Snooze puts a task of the user off to a later time.
func (a *Service) Snooze(ctx context.Context, u domain.User, id int64, to time.Time) error {
	due, err := a.taskDue(to)
	if err != nil {
		return err
	}
	return a.store.SetTaskDue(ctx, u.ID, id, due)
}

// taskDue checks when a task is due. What is over already may be written down.
func (a *Service) taskDue(at time.Time) (time.Time, error) {
	at = at.UTC().Truncate(time.Minute)
	now := a.now()
	if at.Sub(now) > 10*desk.MaxAhead || now.Sub(at) > desk.MaxAhead {
		return at, domain.Invalid("dueAt", "is too far away; choose a day within a year back and ten years ahead")
	}
	return at, nil
}
