package plans

import (
	"context"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// AddTask stores a task.
func (s *Table) AddTask(ctx context.Context, t domain.Task) (int64, error) {
	return s.db.Add(ctx, "add task", `INSERT INTO tasks (user_id, person_id, deal_id, letter_id, run_id, kind, always, text, due_at, created_at)
		VALUES (:user_id, :person_id, :deal_id, :letter_id, :run_id, :kind, :always, :text, :due_at, :created_at)`, t)
}

const openTasks = `SELECT t.id, t.user_id, t.person_id, t.deal_id, t.letter_id, t.run_id, t.kind, t.always, t.text, t.due_at, t.done_at, t.created_at,
	coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name
	FROM tasks t LEFT JOIN people p ON p.id = t.person_id
	WHERE t.done_at IS NULL AND (t.letter_id IS NULL OR t.always OR NOT EXISTS (
		SELECT 1 FROM history h WHERE h.person_id = t.person_id AND (h.letter_id = t.letter_id AND h.kind IN ` + query.AnswersLetter + ` OR h.at > t.created_at AND h.kind IN ` + query.Wrote + `)))`

// Tasks lists open tasks of a user, of one person or with 0 of all. A reminder goes
// away with anything that the person answered to its letter, or wrote, since.
func (s *Table) Tasks(ctx context.Context, userID, personID int64) ([]domain.Task, error) {
	list := []domain.Task{}
	err := s.db.Select(ctx, "list tasks", &list, openTasks+` AND t.user_id = ? AND (? = 0 OR t.person_id = ?) ORDER BY t.due_at, t.id`, userID, personID, personID)
	return list, err
}

// TasksPage gives a window of them, and how many there are.
func (s *Table) TasksPage(ctx context.Context, q domain.TasksQuery) (domain.TasksPage, error) {
	page := domain.TasksPage{Tasks: []domain.Task{}}
	const those = openTasks + ` AND t.user_id = ? AND (? = 0 OR t.person_id = ?)`
	err := s.db.Get(ctx, "count tasks", &page.Total, `SELECT count(*) FROM (`+those+`)`, q.UserID, q.PersonID, q.PersonID)
	if err == nil {
		err = s.db.Select(ctx, "list tasks", &page.Tasks, those+` ORDER BY t.due_at, t.id LIMIT ? OFFSET ?`, q.UserID, q.PersonID, q.PersonID, q.Limit, q.Offset)
	}
	return page, err
}

// TasksComingDue gives how many tasks of a user became due behind a time and until another, the
// last of them, and when the next one is due.
func (s *Table) TasksComingDue(ctx context.Context, userID int64, after, until time.Time) (domain.TasksDue, error) {
	out := domain.TasksDue{}
	var last []domain.Task
	const those = openTasks + ` AND t.user_id = ? AND t.due_at > ?`
	err := s.db.Get(ctx, "count due tasks", &out.Count, `SELECT count(*) FROM (`+those+` AND t.due_at <= ?)`, userID, after, until)
	if err == nil && out.Count > 0 {
		err = s.db.Select(ctx, "list due tasks", &last, those+` AND t.due_at <= ? ORDER BY t.due_at DESC, t.id DESC LIMIT 1`, userID, after, until)
	}
	if err == nil && len(last) > 0 {
		out.Last = &last[0]
	}
	if err == nil {
		last = nil
		if err = s.db.Select(ctx, "look for next task", &last, those+` ORDER BY t.due_at, t.id LIMIT 1`, userID, until); len(last) > 0 {
			out.NextAt = &last[0].DueAt
		}
	}
	return out, err
}

// DueReminders gives tasks that are due, of users who are reminded by email and were not; those
// of one user together, without those of some users.
func (s *Table) DueReminders(ctx context.Context, now time.Time, but []int64, limit int) ([]domain.Task, error) {
	list := []domain.Task{}
	packed, err := database.Packed(but)
	if err != nil {
		return nil, err
	}
	err = s.db.Select(ctx, "look for reminders", &list, openTasks+` AND t.reminded_at IS NULL AND t.due_at <= ? AND t.due_at > ? AND t.user_id IN (SELECT id FROM users WHERE task_mail)
		AND t.user_id NOT IN (SELECT value FROM json_each(?)) ORDER BY t.user_id, t.due_at, t.id LIMIT ?`, now, now.AddDate(0, 0, -2), packed, limit)
	return list, err
}

// SetReminded notes that a user was reminded of tasks or, with nil, was not.
func (s *Table) SetReminded(ctx context.Context, ids []int64, at *time.Time) error {
	packed, err := database.Packed(ids)
	if err == nil {
		_, err = s.db.Exec(ctx, "note reminder", `UPDATE tasks SET reminded_at = ? WHERE id IN (SELECT value FROM json_each(?))`, at, packed)
	}
	return err
}

// SetTaskDue puts a task off: it is reminded of anew.
func (s *Table) SetTaskDue(ctx context.Context, userID, id int64, at time.Time) error {
	return found(database.Hits(s.db.Exec(ctx, "put task off", `UPDATE tasks SET due_at = ?, reminded_at = NULL WHERE id = ? AND user_id = ?`, at, id, userID)))
}

// SetTaskDone settles a task or brings it back.
func (s *Table) SetTaskDone(ctx context.Context, userID, id int64, at *time.Time) error {
	return found(database.Hits(s.db.Exec(ctx, "settle task", `UPDATE tasks SET done_at = ? WHERE id = ? AND user_id = ?`, at, id, userID)))
}

func found(hit bool, err error) error {
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}
