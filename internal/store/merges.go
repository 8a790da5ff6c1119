package store

import (
	"context"
	"encoding/json"
	"time"

	"lucidletter/internal/domain"
)

// belongs are the columns that say whose something is.
var belongs = []struct{ table, column string }{
	{"letters", "person_id"}, {"history", "person_id"}, {"deals", "main_contact_id"}, {"tasks", "person_id"}, {"incoming", "person_id"},
}

// MergePeople gives what belongs to one person to another, and notes it; it gives the number
// of the note. The one who is gone is marked as deleted.
func (s *Store) MergePeople(ctx context.Context, m domain.Merge) (id int64, err error) {
	err = s.Within(ctx, func(ctx context.Context) error {
		moved := map[string][]int64{}
		for _, b := range belongs {
			ids := []int64{}
			if err := s.list(ctx, "look what belongs to a person", &ids, `SELECT id FROM `+b.table+` WHERE `+b.column+` = ?`, m.GoneID); err != nil {
				return err
			}
			if len(ids) == 0 {
				continue
			}
			moved[b.table] = ids
			if err := s.give(ctx, b.table, b.column, ids, m.KeptID); err != nil {
				return err
			}
		}
		ids := []int64{}
		if err := s.list(ctx, "look in which deals a person is", &ids, `SELECT deal_id FROM deal_contacts WHERE person_id = ? AND deal_id NOT IN (SELECT deal_id FROM deal_contacts WHERE person_id = ?)`, m.GoneID, m.KeptID); err != nil {
			return err
		}
		moved["deal_contacts"] = ids
		for _, deal := range ids {
			if _, err := s.exec(ctx, "put person into deal", `INSERT INTO deal_contacts (deal_id, person_id) VALUES (?, ?)`, deal, m.KeptID); err != nil {
				return err
			}
		}
		text, err := json.Marshal(moved)
		if err != nil {
			return wrap("note a merge", err)
		}
		before, err := json.Marshal(m.Before)
		if err != nil {
			return wrap("note a merge", err)
		}
		if err := s.DeletePerson(ctx, m.GoneID, &m.At); err != nil {
			return err
		}
		if err := s.latestLetter(ctx, m.KeptID); err != nil {
			return err
		}
		id, err = s.add(ctx, "note a merge", `INSERT INTO merges (kept_id, gone_id, moved, before, kept_version, user_id, at) VALUES (:kept_id, :gone_id, :moved, :before, :kept_version, :user_id, :at)`,
			map[string]any{"kept_id": m.KeptID, "gone_id": m.GoneID, "moved": string(text), "before": string(before), "kept_version": m.KeptVersion, "user_id": m.UserID, "at": m.At})
		return err
	})
	return id, err
}

func (s *Store) give(ctx context.Context, table, column string, ids []int64, to int64) error {
	packed, err := writeJSON(ids)
	if err == nil {
		_, err = s.exec(ctx, "give to another person", `UPDATE `+table+` SET `+column+` = ? WHERE id IN (SELECT value FROM json_each(?))`, to, packed)
	}
	return err
}

// latestLetter works out anew which letter to a person is the latest.
func (s *Store) latestLetter(ctx context.Context, id int64) error {
	_, err := s.exec(ctx, "look for the latest letter", `UPDATE people SET
		last_letter_at = (SELECT sent_at FROM letters WHERE person_id = people.id AND state = 'sent' AND NOT internal ORDER BY sent_at DESC, id DESC LIMIT 1),
		last_subject = coalesce((SELECT subject_line FROM letters WHERE person_id = people.id AND state = 'sent' AND NOT internal ORDER BY sent_at DESC, id DESC LIMIT 1), '') WHERE id = ?`, id)
	return err
}

// Merge gives what was noted of a merge, or ErrNotFound; also of one that was undone.
func (s *Store) Merge(ctx context.Context, id int64) (domain.Merge, error) {
	var row struct {
		domain.Merge
		BeforeJSON string `db:"before_json"`
	}
	err := s.get(ctx, "load a merge", &row, `SELECT id, kept_id, gone_id, before AS before_json, kept_version, user_id, at, undone_at FROM merges WHERE id = ?`, id)
	if err == nil {
		err = readJSON("a merge", row.BeforeJSON, &row.Before)
	}
	return row.Merge, err
}

// MergeOf gives the number of the merge by which a person is gone, 0 when there is none.
func (s *Store) MergeOf(ctx context.Context, goneID int64) (id int64, err error) {
	err = s.get(ctx, "look for a merge", &id, `SELECT coalesce(max(id), 0) FROM merges WHERE gone_id = ? AND undone_at IS NULL`, goneID)
	return id, err
}

// SplitPeople gives back what a merge moved, as far as it still belongs to the one who was
// kept, and puts back the one who was gone.
func (s *Store) SplitPeople(ctx context.Context, id int64, at time.Time) error {
	return s.Within(ctx, func(ctx context.Context) error {
		m, err := s.Merge(ctx, id)
		if err != nil {
			return err
		}
		var text string
		if err := s.get(ctx, "load a merge", &text, `SELECT moved FROM merges WHERE id = ?`, id); err != nil {
			return err
		}
		moved := map[string][]int64{}
		if err := readJSON("a merge", text, &moved); err != nil {
			return err
		}
		for _, b := range belongs {
			packed, err := writeJSON(moved[b.table])
			if err != nil {
				return err
			}
			if _, err := s.exec(ctx, "give back", `UPDATE `+b.table+` SET `+b.column+` = ? WHERE `+b.column+` = ? AND id IN (SELECT value FROM json_each(?))`, m.GoneID, m.KeptID, packed); err != nil {
				return err
			}
		}
		for _, deal := range moved["deal_contacts"] {
			if _, err := s.exec(ctx, "take person out of deal", `DELETE FROM deal_contacts WHERE deal_id = ? AND person_id = ?`, deal, m.KeptID); err != nil {
				return err
			}
		}
		if err := s.DeletePerson(ctx, m.GoneID, nil); err != nil {
			return err
		}
		for _, person := range []int64{m.KeptID, m.GoneID} {
			if err := s.latestLetter(ctx, person); err != nil {
				return err
			}
		}
		hit, err := s.one(ctx, "undo a merge", `UPDATE merges SET undone_at = ? WHERE id = ? AND undone_at IS NULL`, at, id)
		if err == nil && !hit {
			return domain.ErrNotFound
		}
		return err
	})
}
