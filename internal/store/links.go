package store

import (
	"context"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

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

const linkColumns = `id, letter_id, token, url, document_id, name, sha, created_at`

type backRow struct {
	LetterID int64            `db:"letter_id"`
	Kind     domain.EntryKind `db:"kind"`
	Machine  bool             `db:"machine"`
	LinkID   *int64           `db:"link_id"`
	Times    int              `db:"times"`
	Last     string           `db:"last"` // an aggregate has no type
}
