package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

type askedRow struct {
	domain.Asked
	SheetJSON   string `db:"asked"`
	AnswersJSON string `db:"answers"`
}

func (r *askedRow) read() (domain.Asked, error) {
	err := readJSON("question", r.SheetJSON, &r.Sheet)
	if err == nil && r.AnswersJSON != "" {
		err = readJSON("answers", r.AnswersJSON, &r.Answers)
	}
	return r.Asked, err
}

const askedColumns = `id, letter_id, token, asked, answers, answered_at, created_at`

// AddAsked stores what a letter asks.
func (s *Store) AddAsked(ctx context.Context, q domain.Asked) (int64, error) {
	sheet, err := writeJSON(q.Sheet)
	if err != nil {
		return 0, wrap("store question", err)
	}
	return s.add(ctx, "store question", `INSERT INTO questions (letter_id, token, asked, created_at) VALUES (:letter_id, :token, :asked, :created_at)`, askedRow{Asked: q, SheetJSON: sheet})
}

// AskedIn lists what a letter asks, in the order of asking.
func (s *Store) AskedIn(ctx context.Context, letterID int64) ([]domain.Asked, error) {
	var rows []askedRow
	if err := s.list(ctx, "list questions", &rows, `SELECT `+askedColumns+` FROM questions WHERE letter_id = ? ORDER BY id`, letterID); err != nil {
		return nil, err
	}
	out := make([]domain.Asked, 0, len(rows))
	for _, r := range rows {
		q, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, q)
	}
	return out, nil
}

// AskedBy gives the question of a token.
func (s *Store) AskedBy(ctx context.Context, token string) (domain.Asked, error) {
	var r askedRow
	if err := s.get(ctx, "load question", &r, `SELECT `+askedColumns+` FROM questions WHERE token = ?`, token); err != nil {
		return domain.Asked{}, err
	}
	return r.read()
}

// PutAnswers stores the answers that came last.
func (s *Store) PutAnswers(ctx context.Context, id int64, answers []string, at time.Time) error {
	said, err := writeJSON(answers)
	if err != nil {
		return wrap("store answers", err)
	}
	_, err = s.exec(ctx, "store answers", `UPDATE questions SET answers = ?, answered_at = ? WHERE id = ?`, said, at, id)
	return err
}

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
