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
