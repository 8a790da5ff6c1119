package store

import (
	"context"
	"time"

	sq "github.com/Masterminds/squirrel"

	"lucidletter/internal/domain"
)

// AddEntry files one line of a history.
func (s *Store) AddEntry(ctx context.Context, e domain.Entry) error {
	_, err := s.add(ctx, "add to history", addEntry, e)
	return err
}

const addEntry = `INSERT INTO history (person_id, company_id, deal_id, letter_id, user_id, kind, text, at, machine, link_id, incoming_id)
	VALUES (:person_id, :company_id, :deal_id, :letter_id, :user_id, :kind, :text, :at, :machine, :link_id, :incoming_id)`

// AddNote files a line of a history and gives its id.
func (s *Store) AddNote(ctx context.Context, e domain.Entry) (int64, error) {
	return s.add(ctx, "add to history", `INSERT INTO history (person_id, company_id, deal_id, user_id, kind, text, at) VALUES (:person_id, :company_id, :deal_id, :user_id, :kind, :text, :at)`, e)
}

// DeleteNote takes a note of a user out of a history; or ErrNotFound.
func (s *Store) DeleteNote(ctx context.Context, id, userID int64) error {
	hit, err := s.one(ctx, "take note out of history", `DELETE FROM history WHERE id = ? AND user_id = ? AND kind IN ('call', 'visit', 'note')`, id, userID)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

const historyColumns = `h.id, h.person_id, h.company_id, h.deal_id, h.letter_id, h.user_id, h.kind, h.text, h.at, h.machine, h.link_id, h.incoming_id,
	coalesce(u.first_name || ' ' || u.last_name, '') AS by_name, coalesce(l.thread_id, l.id) AS thread_id, coalesce(l.subject_line, '') AS subject`

// what entries a view of the history shows; all without one.
var historyViews = map[string][]domain.EntryKind{
	"letters": {domain.EntrySent, domain.EntryRefused, domain.EntryReplied, domain.EntryReceived, domain.EntryAway, domain.EntryBounced, domain.EntryDelayed},
	"back":    {domain.EntryOpened, domain.EntryClicked, domain.EntryDocument, domain.EntryReplied, domain.EntryAnswered, domain.EntryAway, domain.EntryBounced, domain.EntryDelayed, domain.EntryComplained, domain.EntryOptedOut, domain.EntryReceived},
	"changes": {domain.EntryCreated, domain.EntryImported, domain.EntryChanged, domain.EntryPlan},
}

// History gives a window of what happened with a person, a company or a deal, the
// newest first.
func (s *Store) History(ctx context.Context, q domain.HistoryQuery) ([]domain.Entry, error) {
	of := sq.Eq{}
	for column, id := range map[string]int64{"h.person_id": q.PersonID, "h.company_id": q.CompanyID, "h.deal_id": q.DealID} {
		if id != 0 {
			of[column] = id
		}
	}
	if kinds := historyViews[q.Only]; kinds != nil {
		of["h.kind"] = kinds
	}
	query, args, err := sq.Select(historyColumns).From("history h").LeftJoin("users u ON u.id = h.user_id").LeftJoin("letters l ON l.id = h.letter_id").
		Where(of).OrderBy("h.at DESC", "h.id DESC").Limit(uint64(q.Limit)).Offset(uint64(q.Offset)).ToSql()
	if err != nil {
		return nil, wrap("list history", err)
	}
	e := []domain.Entry{}
	err = s.list(ctx, "list history", &e, query, args...)
	return e, err
}

const newsRows = `SELECT h.id, h.kind, h.text, h.at, h.person_id, h.letter_id, h.incoming_id,
		coalesce(trim(p.first_name || ' ' || p.last_name), '') AS person_name, coalesce(l.subject_line, '') AS subject
		FROM history h LEFT JOIN letters l ON l.id = h.letter_id LEFT JOIN incoming i ON i.id = h.incoming_id LEFT JOIN people p ON p.id = h.person_id`

// OpenNews gives what came back besides replies and was not dealt with.
func (s *Store) OpenNews(ctx context.Context, userID int64, since time.Time, limit int) ([]domain.NewsRow, error) {
	list := []domain.NewsRow{}
	err := s.list(ctx, "list open news", &list, newsRows+`
		WHERE h.at > ? AND h.settled_at IS NULL AND NOT h.machine AND coalesce(l.sender_id, i.user_id) = ?
		AND h.kind IN ('bounced', 'away', 'answered', 'complained', 'opted out') ORDER BY h.at DESC, h.id DESC LIMIT ?`, since, userID, limit)
	return list, err
}

// SettleNews notes that an entry was dealt with, or was not.
func (s *Store) SettleNews(ctx context.Context, userID, id int64, at *time.Time) error {
	hit, err := s.one(ctx, "settle news", `UPDATE history SET settled_at = ? WHERE id = ? AND EXISTS (SELECT 1 FROM history h LEFT JOIN letters l ON l.id = h.letter_id
		LEFT JOIN incoming i ON i.id = h.incoming_id WHERE h.id = history.id AND coalesce(l.sender_id, i.user_id) = ?)`, at, id, userID)
	if err == nil && !hit {
		return domain.ErrNotFound
	}
	return err
}

// News gives what came back for a user since an entry, and the id of the last entry.
func (s *Store) News(ctx context.Context, userID, after int64, limit int) (list []domain.NewsRow, last int64, err error) {
	if err = s.get(ctx, "last entry", &last, `SELECT coalesce(max(id), 0) FROM history`); err != nil || after < 0 {
		return nil, last, err
	}
	err = s.list(ctx, "list news", &list, newsRows+`
		WHERE h.id > ? AND NOT h.machine AND coalesce(l.sender_id, i.user_id) = ?
		AND h.kind NOT IN ('sent', 'refused', 'created', 'imported', 'changed', 'delayed', 'plan') ORDER BY h.id DESC LIMIT ?`, after, userID, limit)
	return list, last, err
}
