package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

// Settings gives what holds for the workspace, or ErrNotFound before anybody said.
func (s *Store) Settings(ctx context.Context) (out domain.Settings, err error) {
	var text string
	if err := s.get(ctx, "load settings", &text, `SELECT value FROM settings WHERE id = 1`); err != nil {
		return out, err
	}
	return out, readJSON("settings", text, &out)
}

// PutSettings stores what holds for the workspace.
func (s *Store) PutSettings(ctx context.Context, set domain.Settings) error {
	text, err := json.Marshal(set)
	if err != nil {
		return wrap("store settings", err)
	}
	_, err = s.exec(ctx, "store settings", `INSERT INTO settings (id, value) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET value = excluded.value`, string(text))
	return err
}

const linkColumns = `id, letter_id, token, url, document_id, name, sha, created_at`

// AddLink stores where an address in a letter leads.
func (s *Store) AddLink(ctx context.Context, l domain.Link) (int64, error) {
	return s.add(ctx, "add link", `INSERT INTO letter_links (letter_id, token, url, document_id, name, sha, created_at)
		VALUES (:letter_id, :token, :url, :document_id, :name, :sha, :created_at)`, l)
}

// LinkByToken gives the link of a token.
func (s *Store) LinkByToken(ctx context.Context, token string) (l domain.Link, err error) {
	err = s.get(ctx, "load link", &l, `SELECT `+linkColumns+` FROM letter_links WHERE token = ?`, token)
	return l, err
}

// LinksOf lists the links of a letter in their order.
func (s *Store) LinksOf(ctx context.Context, letterID int64) ([]domain.Link, error) {
	list := []domain.Link{}
	err := s.list(ctx, "list links", &list, `SELECT `+linkColumns+` FROM letter_links WHERE letter_id = ? ORDER BY id`, letterID)
	return list, err
}

// AddVisit files an entry unless the same came since a time.
func (s *Store) AddVisit(ctx context.Context, e domain.Entry, since time.Time) (bool, error) {
	return s.one(ctx, "file visit", `INSERT INTO history (person_id, company_id, deal_id, letter_id, user_id, kind, text, at, machine, link_id)
		SELECT ?, ?, ?, ?, ?, ?, ?, ?, ?, ?
		WHERE NOT EXISTS (SELECT 1 FROM history WHERE letter_id = ? AND kind = ? AND at > ? AND machine = ? AND link_id IS ?)`,
		e.PersonID, e.CompanyID, e.DealID, e.LetterID, e.UserID, e.Kind, e.Text, e.At, e.Machine, e.LinkID,
		e.LetterID, e.Kind, since, e.Machine, e.LinkID)
}

// Burst marks clicks on several links of a letter since a time as a machine's, with the
// opens among them.
func (s *Store) Burst(ctx context.Context, letterID int64, since time.Time) error {
	_, err := s.exec(ctx, "mark clicks", `UPDATE history SET machine = 1 WHERE letter_id = ? AND kind IN ('clicked', 'opened') AND at > ? AND NOT machine
		AND (SELECT count(DISTINCT link_id) FROM history WHERE letter_id = ? AND kind = 'clicked' AND at > ?) > 1`, letterID, since, letterID, since)
	return err
}

type backRow struct {
	LetterID int64            `db:"letter_id"`
	Kind     domain.EntryKind `db:"kind"`
	Machine  bool             `db:"machine"`
	LinkID   *int64           `db:"link_id"`
	Times    int              `db:"times"`
	Last     string           `db:"last"` // an aggregate has no type
}

// CameBack counts what came back of letters.
func (s *Store) CameBack(ctx context.Context, letterIDs []int64) ([]domain.CameBack, error) {
	list := []domain.CameBack{}
	if len(letterIDs) == 0 {
		return list, nil
	}
	query, args, err := sq.Select("letter_id", "kind", "machine", "link_id", "count(*) AS times", "max(at) AS last").From("history").
		Where(sq.Eq{"letter_id": letterIDs}).Where("kind NOT IN ('sent', 'refused')").GroupBy("letter_id", "kind", "machine", "link_id").ToSql()
	if err != nil {
		return nil, wrap("count what came back", err)
	}
	var rows []backRow
	if err := s.list(ctx, "count what came back", &rows, query, args...); err != nil {
		return nil, err
	}
	for _, r := range rows {
		at, err := time.Parse("2006-01-02 15:04:05.999999999-07:00", r.Last)
		if err != nil {
			return nil, wrap("count what came back", err)
		}
		list = append(list, domain.CameBack{LetterID: r.LetterID, Kind: r.Kind, Machine: r.Machine, LinkID: r.LinkID, Times: r.Times, At: at.UTC()})
	}
	return list, nil
}

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

func incomingRows() sq.SelectBuilder {
	return sq.Select(incomingColumns, "coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name").
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

// Suppressions gives what keeps letters from address keys.
func (s *Store) Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error) {
	var rows []struct {
		Key    string     `db:"key"`
		Listed *time.Time `db:"listed"`
		Said   *time.Time `db:"said"`
		Reason *string    `db:"reason"`
		At     *time.Time `db:"at"`
		Letter *int64     `db:"letter_id"`
		Report *int64     `db:"incoming_id"`
	}
	if had, ok := s.batch(ctx).suppressed(keys); ok {
		return had, nil
	}
	if len(keys) == 0 {
		return map[string]domain.Suppression{}, nil
	}
	asked, err := writeJSON(keys)
	if err != nil {
		return nil, err
	}
	err = s.list(ctx, "look what keeps letters from addresses", &rows, `SELECT k.value AS key, (SELECT at FROM opt_outs WHERE email_key = k.value AND deleted_at IS NULL) AS listed,
		(SELECT opted_out_at FROM people WHERE email_key = k.value AND opted_out_at IS NOT NULL ORDER BY id LIMIT 1) AS said, b.reason, b.at, b.letter_id, b.incoming_id
		FROM json_each(?) k LEFT JOIN bad_addresses b ON b.email_key = k.value AND b.deleted_at IS NULL`, asked)
	out := make(map[string]domain.Suppression, len(rows))
	for _, r := range rows {
		one := domain.Suppression{OptedOutAt: r.Listed}
		if one.OptedOutAt == nil {
			one.OptedOutAt = r.Said
		}
		if r.At != nil {
			one.Bad = &domain.BadAddress{Key: r.Key, Reason: *r.Reason, At: *r.At, LetterID: r.Letter, ReportID: r.Report}
		}
		out[r.Key] = one
	}
	return out, err
}

// PutBadAddress writes down that letters came back from an address.
func (s *Store) PutBadAddress(ctx context.Context, b domain.BadAddress) error {
	_, err := s.exec(ctx, "mark address", `INSERT INTO bad_addresses (email_key, reason, at, letter_id, incoming_id) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (email_key) DO UPDATE SET reason = excluded.reason, at = excluded.at, letter_id = excluded.letter_id,
			incoming_id = CASE WHEN bad_addresses.deleted_at IS NULL THEN bad_addresses.incoming_id ELSE excluded.incoming_id END, deleted_at = NULL`,
		b.Key, b.Reason, b.At, b.LetterID, b.ReportID)
	return err
}

// SuppressedBy gives the keys of the addresses that a report keeps letters from: those that
// it says are no good, and those whose readers it says do not want any.
func (s *Store) SuppressedBy(ctx context.Context, reportID int64) (bad, optedOut []string, err error) {
	bad, optedOut = []string{}, []string{}
	err = s.list(ctx, "list addresses of report", &bad, `SELECT email_key FROM bad_addresses WHERE incoming_id = ? AND deleted_at IS NULL ORDER BY email_key`, reportID)
	if err == nil {
		err = s.list(ctx, "list addresses of report", &optedOut, `SELECT email_key FROM opt_outs WHERE incoming_id = ? AND deleted_at IS NULL ORDER BY email_key`, reportID)
	}
	return bad, optedOut, err
}

// DeleteBadAddress lets an address be written to again.
func (s *Store) DeleteBadAddress(ctx context.Context, key string, at time.Time) error {
	_, err := s.exec(ctx, "let address be tried again", `UPDATE bad_addresses SET deleted_at = ? WHERE email_key = ?`, at, key)
	return err
}

// RestoreBadAddress undoes DeleteBadAddress.
func (s *Store) RestoreBadAddress(ctx context.Context, key string) error {
	back, err := s.one(ctx, "keep address from letters", `UPDATE bad_addresses SET deleted_at = NULL WHERE email_key = ? AND deleted_at IS NOT NULL`, key)
	return missing(back, err)
}

// UserOfAddress gives the user who has an address to write from.
func (s *Store) UserOfAddress(ctx context.Context, key string) (u domain.User, err error) {
	if u, err = s.UserByEmail(ctx, key); !errors.Is(err, domain.ErrNotFound) {
		return u, err
	}
	var id int64
	if err = s.get(ctx, "find user of address", &id, `SELECT user_id FROM from_addresses WHERE email_key = ? AND deleted_at IS NULL ORDER BY id LIMIT 1`, key); err != nil {
		return u, err
	}
	return s.User(ctx, id)
}
