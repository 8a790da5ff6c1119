package store

import (
	"context"
	"time"
)

// AddUndo keeps what takes an act of a user back, and forgets what was kept before a time.
func (s *Store) AddUndo(ctx context.Context, userID int64, kind, data string, at, before time.Time) (int64, error) {
	if _, err := s.exec(ctx, "forget undos", `DELETE FROM undos WHERE at < ?`, before); err != nil {
		return 0, err
	}
	res, err := s.exec(ctx, "keep undo", `INSERT INTO undos (user_id, kind, data, at) VALUES (?, ?, ?, ?)`, userID, kind, data, at)
	if err != nil {
		return 0, err
	}
	return res.LastInsertId()
}

// TakeUndo gives what takes an act back that its user did since a time, once; or ErrNotFound.
func (s *Store) TakeUndo(ctx context.Context, id, userID int64, kind string, since time.Time) (data string, err error) {
	if err := s.get(ctx, "load undo", &data, `SELECT data FROM undos WHERE id = ? AND user_id = ? AND kind = ? AND at >= ?`, id, userID, kind, since); err != nil {
		return "", err
	}
	_, err = s.exec(ctx, "use up undo", `DELETE FROM undos WHERE id = ?`, id)
	return data, err
}
