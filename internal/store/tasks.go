package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// AddTask stores a task.
func (s *Store) AddTask(ctx context.Context, t domain.Task) (int64, error) {
	return s.add(ctx, "add task", `INSERT INTO tasks (user_id, person_id, deal_id, letter_id, text, due_at, created_at)
		VALUES (:user_id, :person_id, :deal_id, :letter_id, :text, :due_at, :created_at)`, t)
}

// Tasks lists open tasks of a user, of one person or with 0 of all. A reminder goes
// away with anything that the person answered to its letter, or wrote, since.
func (s *Store) Tasks(ctx context.Context, userID, personID int64) ([]domain.Task, error) {
	list := []domain.Task{}
	err := s.list(ctx, "list tasks", &list, `SELECT t.id, t.user_id, t.person_id, t.deal_id, t.letter_id, t.text, t.due_at, t.done_at, t.created_at,
		coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name
		FROM tasks t LEFT JOIN people p ON p.id = t.person_id
		WHERE t.user_id = ? AND (? = 0 OR t.person_id = ?) AND t.done_at IS NULL AND (t.letter_id IS NULL OR NOT EXISTS (
			SELECT 1 FROM history h WHERE h.person_id = t.person_id AND h.kind IN ('replied', 'answered') AND (h.letter_id = t.letter_id OR h.at > t.created_at)))
		ORDER BY t.due_at, t.id LIMIT 500`, userID, personID, personID)
	return list, err
}

// SetTaskDue puts a task off.
func (s *Store) SetTaskDue(ctx context.Context, userID, id int64, at time.Time) error {
	found, err := s.one(ctx, "put task off", `UPDATE tasks SET due_at = ? WHERE id = ? AND user_id = ?`, at, id, userID)
	if err == nil && !found {
		return domain.ErrNotFound
	}
	return err
}

// SetTaskDone settles a task or brings it back.
func (s *Store) SetTaskDone(ctx context.Context, userID, id int64, at *time.Time) error {
	found, err := s.one(ctx, "settle task", `UPDATE tasks SET done_at = ? WHERE id = ? AND user_id = ?`, at, id, userID)
	if err == nil && !found {
		return domain.ErrNotFound
	}
	return err
}
