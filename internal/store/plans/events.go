package plans

import (
	"context"
	"math"
	"time"

	"lucidletter/internal/domain"
)

// DateEvents notes when changes of records were that the program has not looked at.
func (s *Table) DateEvents(ctx context.Context, now time.Time) error {
	var any bool
	if err := s.db.Get(ctx, "look for changes", &any, `SELECT EXISTS (SELECT 1 FROM record_events WHERE at IS NULL)`); err != nil || !any {
		return err
	}
	_, err := s.db.Exec(ctx, "date changes", `UPDATE record_events SET at = ? WHERE at IS NULL`, now)
	return err
}

// RecordEvents gives what changed on records behind an event, the first ones first. It ends
// before the first that has no date yet: who reads notes how far they came, and passes nothing
// that they were not given.
func (s *Table) RecordEvents(ctx context.Context, after int64, limit int) ([]domain.RecordEvent, error) {
	list := []domain.RecordEvent{}
	err := s.db.Select(ctx, "list changes", &list, `SELECT id, kind, person_id, deal_id, path, was, value, at FROM record_events WHERE id > ?
		AND id < coalesce((SELECT min(id) FROM record_events WHERE at IS NULL), ?) ORDER BY id LIMIT ?`, after, int64(math.MaxInt64), limit)
	return list, err
}

// ForgetEvents deletes changes from before a time.
func (s *Table) ForgetEvents(ctx context.Context, before time.Time) error {
	_, err := s.db.Exec(ctx, "forget changes", `DELETE FROM record_events WHERE at < ?`, before)
	return err
}

// ReadMark tells up to where something was read; 0 when it never was.
func (s *Table) ReadMark(ctx context.Context, name string) (int64, error) {
	var list []int64
	err := s.db.Select(ctx, "load mark", &list, `SELECT at_id FROM read_marks WHERE name = ?`, name)
	if err != nil || len(list) == 0 {
		return 0, err
	}
	return list[0], nil
}

// SetReadMark notes it.
func (s *Table) SetReadMark(ctx context.Context, name string, at int64) error {
	_, err := s.db.Exec(ctx, "store mark", `INSERT INTO read_marks (name, at_id) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET at_id = excluded.at_id`, name, at)
	return err
}
