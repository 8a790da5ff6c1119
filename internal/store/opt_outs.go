package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

const optOuts = `SELECT o.email_key, o.email, o.reason, o.at, o.letter_id, o.user_id, o.incoming_id, coalesce(u.first_name || ' ' || u.last_name, '') AS by_name
	FROM opt_outs o LEFT JOIN users u ON u.id = o.user_id`

// OptOuts lists the addresses that hold a text, the latest first.
func (s *Store) OptOuts(ctx context.Context, search string, limit int) ([]domain.OptOut, error) {
	list := []domain.OptOut{}
	err := s.list(ctx, "list opt-outs", &list, optOuts+` WHERE o.deleted_at IS NULL AND instr(o.email_key, ?) > 0 ORDER BY o.at DESC, o.email_key LIMIT ?`, search, limit)
	return list, err
}

// AddOptOut writes an address down, if it is not yet or was taken off again.
func (s *Store) AddOptOut(ctx context.Context, o domain.OptOut) error {
	_, err := s.exec(ctx, "add opt-out", `INSERT INTO opt_outs (email_key, email, reason, at, letter_id, user_id, incoming_id) VALUES (?, ?, ?, ?, ?, ?, ?)
		ON CONFLICT (email_key) DO UPDATE SET reason = excluded.reason, at = excluded.at, letter_id = excluded.letter_id, user_id = excluded.user_id, incoming_id = excluded.incoming_id, deleted_at = NULL
		WHERE deleted_at IS NOT NULL`,
		o.Key, o.Email, o.Reason, o.At, o.LetterID, o.UserID, o.ReportID)
	return err
}

// DeleteOptOut takes an address from the list.
func (s *Store) DeleteOptOut(ctx context.Context, key string, at time.Time) error {
	gone, err := s.one(ctx, "delete opt-out", `UPDATE opt_outs SET deleted_at = ? WHERE email_key = ? AND deleted_at IS NULL`, at, key)
	return missing(gone, err)
}

// RestoreOptOut puts an address back on the list.
func (s *Store) RestoreOptOut(ctx context.Context, key string) (o domain.OptOut, err error) {
	back, err := s.one(ctx, "restore opt-out", `UPDATE opt_outs SET deleted_at = NULL WHERE email_key = ? AND deleted_at IS NOT NULL`, key)
	if err = missing(back, err); err != nil {
		return o, err
	}
	err = s.get(ctx, "load opt-out", &o, optOuts+` WHERE o.email_key = ?`, key)
	return o, err
}

// missing is ErrNotFound when nothing was changed.
func missing(changed bool, err error) error {
	if err == nil && !changed {
		return domain.ErrNotFound
	}
	return err
}

// LetterByToken gives the letter of a token without its words.
func (s *Store) LetterByToken(ctx context.Context, token string) (l domain.Letter, err error) {
	if token == "" {
		return l, domain.ErrNotFound
	}
	err = s.get(ctx, "load letter", &l, `SELECT `+letterHead+` FROM letters l WHERE l.token = ?`, token)
	return l, err
}

// LetterHead gives a letter without its words.
func (s *Store) LetterHead(ctx context.Context, id int64) (l domain.Letter, err error) {
	err = s.get(ctx, "load letter", &l, `SELECT `+letterHead+` FROM letters l WHERE l.id = ?`, id)
	return l, err
}
