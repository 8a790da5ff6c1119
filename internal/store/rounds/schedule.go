package rounds

import (
	"context"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
)

// Schedule sets when the letters of a round go. They are those that are ready and, unless
// all, proofread. From is the earliest; over spreads them evenly from then on.
func (s *Table) Schedule(ctx context.Context, roundID int64, all bool, from time.Time, over time.Duration) (int, error) {
	const these = `SELECT m.id, row_number() OVER (ORDER BY m.position) - 1 AS i, count(*) OVER () AS n FROM round_people m LEFT JOIN letters l ON l.id = m.letter_id AND l.deleted_at IS NULL
		WHERE m.round_id = ? AND m.state IN ('ready', 'changed') AND (l.id IS NULL OR l.state = 'draft') AND (? OR m.good <> '' AND m.good = m.sum)`
	if all {
		// Of those that were not proofread as they are, nobody has seen other words either.
		if _, err := s.db.Exec(ctx, "schedule round", `UPDATE round_people SET good = '' WHERE round_id = ? AND good <> sum`, roundID); err != nil {
			return 0, err
		}
	}
	if over == 0 {
		res, err := s.db.Exec(ctx, "schedule round", `UPDATE round_people SET go_at = ?, told = '' FROM (`+these+`) t WHERE round_people.id = t.id`, from, roundID, all)
		if err != nil {
			return 0, err
		}
		n, err := res.RowsAffected()
		return int(n), err
	}
	var rows []struct {
		ID int64 `db:"id"`
		I  int   `db:"i"`
		N  int   `db:"n"`
	}
	if err := s.db.Select(ctx, "schedule round", &rows, these, roundID, all); err != nil {
		return 0, err
	}
	return len(rows), s.db.Within(ctx, func(ctx context.Context) error {
		for _, r := range rows {
			at := from.Add(over / time.Duration(r.N) * time.Duration(r.I))
			if _, err := s.db.Exec(ctx, "schedule round", `UPDATE round_people SET go_at = ?, told = '' WHERE id = ?`, at, r.ID); err != nil {
				return err
			}
		}
		return nil
	})
}

// Zones gives those of the people of a round that are scheduled.
func (s *Table) Zones(ctx context.Context, roundID int64) ([]domain.Zone, error) {
	var list []domain.Zone
	err := s.db.Select(ctx, "list time zones of round", &list, `SELECT DISTINCT p.time_zone, p.country FROM round_people m JOIN people p ON p.id = m.person_id WHERE m.round_id = ? AND m.go_at IS NOT NULL AND m.state IN ('ready', 'changed')`, roundID)
	return list, err
}

// ScheduleZone moves the scheduled letters to people of one zone to a time.
func (s *Table) ScheduleZone(ctx context.Context, roundID int64, z domain.Zone, at time.Time) error {
	_, err := s.db.Exec(ctx, "schedule round", `UPDATE round_people SET go_at = ? WHERE round_id = ? AND go_at IS NOT NULL AND state IN ('ready', 'changed') AND person_id IN (SELECT id FROM people WHERE time_zone = ? AND country = ?)`, at, roundID, z.Zone, z.Country)
	return err
}

// HadToday counts those of a round whose letters could go who have another letter in a stretch
// of time.
func (s *Table) HadToday(ctx context.Context, roundID int64, from, to time.Time) (int, error) {
	var n []int
	err := s.db.Select(ctx, "count letters of the day", &n, `SELECT count(*) FROM round_people m WHERE m.round_id = ? AND m.state IN ('ready', 'changed') AND EXISTS (SELECT 1 FROM letters l INDEXED BY letters_person
		WHERE l.person_id = m.person_id AND NOT l.internal AND l.deleted_at IS NULL AND l.state IN ('waiting', 'sending', 'sent', 'unsure') AND coalesce(l.sent_at, l.due_at, l.updated_at) >= ? AND coalesce(l.sent_at, l.due_at, l.updated_at) < ?)`, roundID, from, to)
	if err != nil || len(n) == 0 {
		return 0, err
	}
	return n[0], nil
}

// HadLetter gives the people among these who had a letter, or have one on its way, in a stretch
// of time, with the subject of the last; one letter does not count.
func (s *Table) HadLetter(ctx context.Context, people []int64, from, to time.Time, but int64) (map[int64]string, error) {
	ids, err := database.Packed(people)
	if err != nil {
		return nil, err
	}
	var list []struct {
		Person  int64  `db:"person_id"`
		Subject string `db:"subject_line"`
	}
	err = s.db.Select(ctx, "look who had a letter", &list, `SELECT l.person_id, l.subject_line FROM json_each(?) k JOIN letters l INDEXED BY letters_person ON l.person_id = k.value
		WHERE l.id <> ? AND NOT l.internal AND l.deleted_at IS NULL AND l.state IN ('waiting', 'sending', 'sent', 'unsure') AND coalesce(l.sent_at, l.due_at, l.updated_at) >= ? AND coalesce(l.sent_at, l.due_at, l.updated_at) < ? ORDER BY l.id`,
		ids, but, from, to)
	out := map[int64]string{}
	for _, one := range list {
		out[one.Person] = one.Subject
	}
	return out, err
}

// ZonesDue gives the zones of the people of a round whose letters are due, also of those that
// wait in the outbox.
func (s *Table) ZonesDue(ctx context.Context, roundID int64, now time.Time) ([]domain.Zone, error) {
	var list []domain.Zone
	err := s.db.Select(ctx, "list time zones of round", &list, `SELECT p.time_zone, p.country FROM round_people m JOIN people p ON p.id = m.person_id WHERE m.round_id = ? AND m.go_at <= ? AND m.state IN ('ready', 'changed')
		UNION SELECT p.time_zone, p.country FROM letters l JOIN people p ON p.id = l.person_id WHERE l.round_id = ? AND l.state = 'waiting' AND l.due_at <= ?`, roundID, now, roundID, now)
	return list, err
}

// DelayZone moves the letters of a round to people of one zone that are due to another time,
// also those in the outbox.
func (s *Table) DelayZone(ctx context.Context, roundID int64, z domain.Zone, now, at time.Time) error {
	const there = ` AND person_id IN (SELECT id FROM people WHERE time_zone = ? AND country = ?)`
	if _, err := s.db.Exec(ctx, "delay round", `UPDATE round_people SET go_at = ? WHERE round_id = ? AND go_at <= ? AND state IN ('ready', 'changed')`+there, at, roundID, now, z.Zone, z.Country); err != nil {
		return err
	}
	_, err := s.db.Exec(ctx, "delay letters of round", `UPDATE letters SET due_at = ?, reason = 'Waits for the next working morning', updated_at = ? WHERE round_id = ? AND state = 'waiting' AND due_at <= ?`+there, at, now, roundID, now, z.Zone, z.Country)
	return err
}

// Unschedule has nothing of a round go that is not in the outbox.
func (s *Table) Unschedule(ctx context.Context, roundID int64) error {
	_, err := s.db.Exec(ctx, "unschedule round", `UPDATE round_people SET go_at = NULL WHERE round_id = ? AND go_at IS NOT NULL`, roundID)
	return err
}

// ToRelease gives people of a round whose letters are to go now, and when the next is to.
func (s *Table) ToRelease(ctx context.Context, roundID int64, now time.Time, limit int) ([]domain.Member, *time.Time, error) {
	list := []domain.Member{}
	if err := s.db.Select(ctx, "list people to write to", &list, `SELECT `+memberColumns+` FROM round_people m WHERE m.round_id = ? AND m.go_at <= ? AND m.state <> 'released' ORDER BY m.go_at, m.id LIMIT ?`, roundID, now, limit); err != nil {
		return nil, nil, err
	}
	var next []time.Time
	if err := s.db.Select(ctx, "next of round", &next, `SELECT go_at FROM round_people WHERE round_id = ? AND go_at IS NOT NULL AND state <> 'released' ORDER BY go_at LIMIT 1`, roundID); err != nil || len(next) == 0 {
		return list, nil, err
	}
	return list, &next[0], nil
}

// ToFollow gives people of rounds whose letters went out and for whom what happens
// afterwards has not happened.
func (s *Table) ToFollow(ctx context.Context, limit int) ([]domain.Member, error) {
	list := []domain.Member{}
	err := s.db.Select(ctx, "list people to follow up", &list, `SELECT `+memberColumns+` FROM round_people m JOIN letters l ON l.id = m.letter_id WHERE m.after_done = 0 AND m.letter_id IS NOT NULL AND l.state = 'sent' ORDER BY m.id LIMIT ?`, limit)
	return list, err
}
