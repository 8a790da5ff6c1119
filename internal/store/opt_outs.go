package store

import (
	"context"

	"lucidletter/internal/app"
)

const optOuts = `SELECT o.email_key, o.email, o.reason, o.at, o.letter_id, o.user_id, coalesce(u.first_name || ' ' || u.last_name, '') AS by_name
	FROM opt_outs o LEFT JOIN users u ON u.id = o.user_id`

// OptOuts lists the addresses that hold a text, the latest first.
func (s *Store) OptOuts(ctx context.Context, search string, limit int) ([]app.OptOut, error) {
	list := []app.OptOut{}
	err := s.list(ctx, "list opt-outs", &list, optOuts+` WHERE instr(o.email_key, ?) > 0 ORDER BY o.at DESC, o.email_key LIMIT ?`, search, limit)
	return list, err
}

// AddOptOut writes an address down, if it is not yet.
func (s *Store) AddOptOut(ctx context.Context, o app.OptOut) error {
	_, err := s.exec(ctx, "add opt-out", `INSERT OR IGNORE INTO opt_outs (email_key, email, reason, at, letter_id, user_id) VALUES (?, ?, ?, ?, ?, ?)`,
		o.Key, o.Email, o.Reason, o.At, o.LetterID, o.UserID)
	return err
}

// DeleteOptOut takes an address from the list.
func (s *Store) DeleteOptOut(ctx context.Context, key string) error {
	gone, err := s.one(ctx, "delete opt-out", `DELETE FROM opt_outs WHERE email_key = ?`, key)
	if err == nil && !gone {
		return app.ErrNotFound
	}
	return err
}

// LetterByToken gives the letter of a token without its words.
func (s *Store) LetterByToken(ctx context.Context, token string) (l app.Letter, err error) {
	if token == "" {
		return l, app.ErrNotFound
	}
	err = s.get(ctx, "load letter", &l, `SELECT `+letterHead+` FROM letters l WHERE l.token = ?`, token)
	return l, err
}

// LetterHead gives a letter without its words.
func (s *Store) LetterHead(ctx context.Context, id int64) (l app.Letter, err error) {
	err = s.get(ctx, "load letter", &l, `SELECT `+letterHead+` FROM letters l WHERE l.id = ?`, id)
	return l, err
}
