package store

import (
	"context"
	"errors"
	"strings"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

const incomingColumns = `i.id, i.digest, i.kind, i.letter_id, i.person_id, i.company_id, i.deal_id, i.user_id, i.matched, i.from_name, i.from_email, i.to_email,
	i.subject, i.text, i.message_id, i.refs, i.back_on, i.at, i.read_at, i.answered_at`

// AddIncoming stores a letter with its bytes, unless it is there.
func (s *Store) AddIncoming(ctx context.Context, in domain.Incoming, bytes []byte) (int64, error) {
	var there int64
	err := s.get(ctx, "look for letter", &there, `SELECT id FROM incoming WHERE digest = ?`, in.Digest)
	if !errors.Is(err, domain.ErrNotFound) {
		return 0, err
	}
	id, err := s.add(ctx, "keep letter", `INSERT INTO incoming (digest, kind, letter_id, person_id, company_id, deal_id, user_id, matched, from_name, from_email, to_email,
		subject, text, message_id, refs, back_on, at, read_at)
		VALUES (:digest, :kind, :letter_id, :person_id, :company_id, :deal_id, :user_id, :matched, :from_name, :from_email, :to_email,
		:subject, :text, :message_id, :refs, :back_on, :at, :read_at)`, in)
	if err != nil {
		return 0, err
	}
	_, err = s.exec(ctx, "keep bytes of letter", `INSERT INTO incoming_bytes (incoming_id, bytes) VALUES (?, ?)`, id, bytes)
	return id, err
}

// Incoming gives a letter that came in.
func (s *Store) Incoming(ctx context.Context, id int64) (in domain.Incoming, err error) {
	err = s.get(ctx, "load incoming letter", &in, `SELECT `+incomingColumns+` FROM incoming i WHERE i.id = ?`, id)
	return in, err
}

// IncomingBytes gives a letter that came in as it came.
func (s *Store) IncomingBytes(ctx context.Context, id int64) (b []byte, err error) {
	err = s.get(ctx, "load bytes of incoming letter", &b, `SELECT bytes FROM incoming_bytes WHERE incoming_id = ?`, id)
	return b, err
}

// IncomingPage gives the cleaned page of a letter that came in and by which edition of the
// rules, or ErrNotFound.
func (s *Store) IncomingPage(ctx context.Context, id int64) (page string, by int, err error) {
	var row struct {
		Page string `db:"page"`
		By   int    `db:"cleaned_by"`
	}
	err = s.get(ctx, "load page of incoming letter", &row, `SELECT page, cleaned_by FROM incoming_pages WHERE incoming_id = ?`, id)
	return row.Page, row.By, err
}

// PutIncomingPage keeps the cleaned page of a letter that came in.
func (s *Store) PutIncomingPage(ctx context.Context, id int64, page string, by int) error {
	_, err := s.exec(ctx, "keep page of incoming letter", `INSERT INTO incoming_pages (incoming_id, page, cleaned_by) VALUES (?, ?, ?)
		ON CONFLICT (incoming_id) DO UPDATE SET page = excluded.page, cleaned_by = excluded.cleaned_by`, id, page, by)
	return err
}

// toAnswer is what nobody has answered or laid by.
const toAnswer = `i.kind = 'answer' AND i.read_at IS NULL AND i.answered_at IS NULL`

// maxListed is how many characters of a letter lists read: what came in may be of any length.
const maxListed = "20000"

// incomingRows reads the beginnings of letters.
func incomingRows() sq.SelectBuilder {
	return sq.Select(strings.Replace(incomingColumns, "i.text", "substr(i.text, 1, "+maxListed+") AS text", 1), "coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name").
		From("incoming i").LeftJoin("people p ON p.id = i.person_id")
}

// IncomingFor lists what came in for a user.
func (s *Store) IncomingFor(ctx context.Context, userID int64, open bool, limit int) ([]domain.IncomingRow, error) {
	q := incomingRows().Where(sq.Eq{"i.user_id": userID})
	if open {
		q = q.Where(toAnswer)
	}
	return s.incomingList(ctx, q.OrderBy("i.at DESC", "i.id DESC").Limit(uint64(limit)))
}

// CountIncoming counts what is to be answered by a user.
func (s *Store) CountIncoming(ctx context.Context, userID int64) (n int, err error) {
	err = s.get(ctx, "count incoming letters", &n, `SELECT count(*) FROM incoming i WHERE i.user_id = ? AND `+toAnswer, userID)
	return n, err
}

// IncomingOf lists what came in for a letter, the earliest first.
func (s *Store) IncomingOf(ctx context.Context, letterID int64) ([]domain.IncomingRow, error) {
	return s.incomingList(ctx, incomingRows().Where(sq.Eq{"i.letter_id": letterID}).OrderBy("i.at", "i.id"))
}

func (s *Store) incomingList(ctx context.Context, q sq.SelectBuilder) ([]domain.IncomingRow, error) {
	list := []domain.IncomingRow{}
	query, args, err := q.ToSql()
	if err != nil {
		return nil, wrap("list incoming letters", err)
	}
	err = s.list(ctx, "list incoming letters", &list, query, args...)
	return list, err
}

// SettleIncoming says when an incoming letter was read, and answered.
func (s *Store) SettleIncoming(ctx context.Context, id int64, read, answered *time.Time) error {
	found, err := s.one(ctx, "settle incoming letter", `UPDATE incoming SET read_at = coalesce(read_at, ?), answered_at = coalesce(?, answered_at) WHERE id = ?`, read, answered, id)
	if err == nil && !found {
		return domain.ErrNotFound
	}
	return err
}

// LetterByMessage gives the letter of a Message-ID, or of the conversation that an
// incoming letter with this id belongs to.
func (s *Store) LetterByMessage(ctx context.Context, messageID string) (domain.Letter, error) {
	if messageID == "" {
		return domain.Letter{}, domain.ErrNotFound
	}
	return s.oneLetter(ctx, `l.message_id = ?1 OR l.id = (SELECT letter_id FROM incoming WHERE message_id = ?1 AND letter_id IS NOT NULL LIMIT 1) LIMIT 1`, messageID)
}

// LetterTo gives the latest letter to an address since a time.
func (s *Store) LetterTo(ctx context.Context, email, subject string, since time.Time) (domain.Letter, error) {
	return s.oneLetter(ctx, `l.to_email = ?1 COLLATE NOCASE AND l.sent_at > ?2 AND l.state IN ('sent', 'unsure') AND NOT l.internal AND (?3 = '' OR l.subject_line = ?3 COLLATE NOCASE)
		ORDER BY l.sent_at DESC LIMIT 1`, email, since, subject)
}

func (s *Store) oneLetter(ctx context.Context, where string, args ...any) (domain.Letter, error) {
	var r letterRow
	if err := s.get(ctx, "find letter", &r, `SELECT `+letterColumns+` FROM letters l WHERE `+where, args...); err != nil {
		return domain.Letter{}, err
	}
	return r.read()
}
