package store

import (
	"context"

	"lucidletter/internal/app"
)

// AddPostLetter keeps a letter that arrived at the post office.
func (s *Store) AddPostLetter(ctx context.Context, l app.PostLetter) (int64, error) {
	return s.add(ctx, "keep letter at the post office", `INSERT INTO post_letters (mailbox, sender, subject, arrived_at, bytes)
		VALUES (:mailbox, :sender, :subject, :arrived_at, :bytes)`, l)
}

// Mailboxes lists recipients whose address holds the search text, the latest
// first.
func (s *Store) Mailboxes(ctx context.Context, search string, limit int) ([]app.Mailbox, error) {
	rows := []app.Mailbox{}
	err := s.list(ctx, "list mailboxes", &rows, `SELECT g.name, g.count, p.arrived_at AS latest
		FROM (SELECT mailbox AS name, count(*) AS count, max(id) AS newest FROM post_letters GROUP BY mailbox) g
		JOIN post_letters p ON p.id = g.newest WHERE instr(g.name, ?) > 0 ORDER BY g.newest DESC LIMIT ?`, search, limit)
	return rows, err
}

// PostLetters lists the letters of a mailbox without their bytes.
func (s *Store) PostLetters(ctx context.Context, mailbox string, limit int) ([]app.PostLetter, error) {
	rows := []app.PostLetter{}
	err := s.list(ctx, "list letters of mailbox", &rows, `SELECT id, mailbox, sender, subject, arrived_at FROM post_letters WHERE mailbox = ? ORDER BY id DESC LIMIT ?`, mailbox, limit)
	return rows, err
}

// PostLetter gives one letter of the post office.
func (s *Store) PostLetter(ctx context.Context, id int64) (l app.PostLetter, err error) {
	err = s.get(ctx, "load letter of the post office", &l, `SELECT id, mailbox, sender, subject, arrived_at, bytes FROM post_letters WHERE id = ?`, id)
	return l, err
}
