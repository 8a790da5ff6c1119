package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// AddPostLetter keeps a letter that arrived at the post office.
func (s *Store) AddPostLetter(ctx context.Context, l domain.PostLetter) (int64, error) {
	return s.add(ctx, "keep letter at the post office", `INSERT INTO post_letters (mailbox, sender, subject, arrived_at, bytes)
		VALUES (:mailbox, :sender, :subject, :arrived_at, :bytes)`, l)
}

// Mailboxes lists recipients whose address holds the search text, the latest
// first.
func (s *Store) Mailboxes(ctx context.Context, search string, limit int) ([]domain.Mailbox, error) {
	rows := []domain.Mailbox{}
	err := s.list(ctx, "list mailboxes", &rows, `SELECT g.name, g.count, p.arrived_at AS latest
		FROM (SELECT mailbox AS name, count(*) AS count, max(id) AS newest FROM post_letters GROUP BY mailbox) g
		JOIN post_letters p ON p.id = g.newest WHERE instr(g.name, ?) > 0 ORDER BY g.newest DESC LIMIT ?`, search, limit)
	return rows, err
}

// PostLetters lists the letters of a mailbox without their bytes.
func (s *Store) PostLetters(ctx context.Context, mailbox string, limit int) ([]domain.PostLetter, error) {
	rows := []domain.PostLetter{}
	err := s.list(ctx, "list letters of mailbox", &rows, `SELECT id, mailbox, sender, subject, arrived_at FROM post_letters WHERE mailbox = ? ORDER BY id DESC LIMIT ?`, mailbox, limit)
	return rows, err
}

// PostLetter gives one letter of the post office.
func (s *Store) PostLetter(ctx context.Context, id int64) (l domain.PostLetter, err error) {
	err = s.get(ctx, "load letter of the post office", &l, `SELECT id, mailbox, sender, subject, arrived_at, bytes FROM post_letters WHERE id = ?`, id)
	return l, err
}

// PostCharacter gives how a mailbox behaves, or ErrNotFound when nobody set it.
func (s *Store) PostCharacter(ctx context.Context, mailbox string) (c string, err error) {
	err = s.get(ctx, "load character", &c, `SELECT character FROM post_characters WHERE mailbox = ?`, mailbox)
	return c, err
}

// SetPostCharacter says how a mailbox behaves.
func (s *Store) SetPostCharacter(ctx context.Context, mailbox, character string) error {
	_, err := s.exec(ctx, "store character", `INSERT INTO post_characters (mailbox, character) VALUES (?, ?) ON CONFLICT (mailbox) DO UPDATE SET character = excluded.character`, mailbox, character)
	return err
}

// AddScheduledJob stores what a recipient is going to do.
func (s *Store) AddScheduledJob(ctx context.Context, e domain.ScheduledJob) error {
	_, err := s.add(ctx, "add errand", `INSERT INTO post_errands (post_letter_id, kind, due_at) VALUES (:post_letter_id, :kind, :due_at)`, e)
	return err
}

// NextScheduledJob gives the errand that is due first, or ErrNotFound.
func (s *Store) NextScheduledJob(ctx context.Context) (e domain.ScheduledJob, err error) {
	err = s.get(ctx, "next errand", &e, `SELECT id, post_letter_id, kind, due_at, done_at, outcome FROM post_errands WHERE done_at IS NULL ORDER BY due_at, id LIMIT 1`)
	return e, err
}

// ScheduledJobDone says what became of an errand.
func (s *Store) ScheduledJobDone(ctx context.Context, id int64, outcome string, at time.Time) error {
	_, err := s.exec(ctx, "settle errand", `UPDATE post_errands SET done_at = ?, outcome = ? WHERE id = ?`, at, outcome, id)
	return err
}

// ScheduledJobsOf lists what is done about a letter, in order.
func (s *Store) ScheduledJobsOf(ctx context.Context, postLetterID int64) ([]domain.ScheduledJob, error) {
	list := []domain.ScheduledJob{}
	err := s.list(ctx, "list errands", &list, `SELECT id, post_letter_id, kind, due_at, done_at, outcome FROM post_errands WHERE post_letter_id = ? ORDER BY due_at, id`, postLetterID)
	return list, err
}

// PostClock gives how far the clock was moved on, in seconds.
func (s *Store) PostClock(ctx context.Context) (ahead int64, err error) {
	err = s.get(ctx, "load clock", &ahead, `SELECT coalesce((SELECT ahead FROM post_clock WHERE id = 1), 0)`)
	return ahead, err
}

// SetPostClock stores how far the clock was moved on, in seconds.
func (s *Store) SetPostClock(ctx context.Context, ahead int64) error {
	_, err := s.exec(ctx, "store clock", `INSERT INTO post_clock (id, ahead) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET ahead = excluded.ahead`, ahead)
	return err
}
