package store

import (
	"context"
	"encoding/json"
	"time"

	"lucidletter/internal/domain"
)

// AddImport stores an import that begins.
func (s *Store) AddImport(ctx context.Context, i domain.Import, r domain.ImportReport) (int64, error) {
	report, err := json.Marshal(r)
	if err != nil {
		return 0, wrap("add import", err)
	}
	i.Report = report
	return s.add(ctx, "add import", `INSERT INTO imports (user_id, state, report, created_at) VALUES (:user_id, :state, :report, :created_at)`, i)
}

// KeepImportRows puts rows aside, numbered from from on.
func (s *Store) KeepImportRows(ctx context.Context, id int64, from int, rows []domain.ImportRow) error {
	return s.Within(ctx, func(ctx context.Context) error {
		for n, row := range rows {
			text, err := json.Marshal(row)
			if err == nil {
				_, err = s.exec(ctx, "keep row of import", `INSERT INTO import_rows (import_id, seq, row) VALUES (?, ?, ?)`, id, from+n, string(text))
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// TakeImportRows takes the next rows of an import out, at most limit.
func (s *Store) TakeImportRows(ctx context.Context, id int64, limit int) ([]domain.ImportRow, error) {
	var kept []struct {
		Seq int    `db:"seq"`
		Row string `db:"row"`
	}
	if err := s.list(ctx, "read rows of import", &kept, `SELECT seq, row FROM import_rows WHERE import_id = ? ORDER BY seq LIMIT ?`, id, limit); err != nil || len(kept) == 0 {
		return nil, err
	}
	rows := make([]domain.ImportRow, len(kept))
	for n, k := range kept {
		if err := json.Unmarshal([]byte(k.Row), &rows[n]); err != nil {
			return nil, wrap("read row of import", err)
		}
	}
	_, err := s.exec(ctx, "take rows of import", `DELETE FROM import_rows WHERE import_id = ? AND seq <= ?`, id, kept[len(kept)-1].Seq)
	return rows, err
}

// Import gives an import and its report, or ErrNotFound.
func (s *Store) Import(ctx context.Context, id int64) (i domain.Import, r domain.ImportReport, err error) {
	if err = s.get(ctx, "load import", &i, `SELECT id, user_id, state, report, created_at FROM imports WHERE id = ?`, id); err != nil {
		return i, r, err
	}
	err = json.Unmarshal(i.Report, &r)
	r.ID = id
	return i, r, wrap("load import", err)
}

// SetImport stores the state and the report of an import.
func (s *Store) SetImport(ctx context.Context, id int64, state string, r domain.ImportReport) error {
	report, err := json.Marshal(r)
	if err == nil {
		_, err = s.exec(ctx, "store import", `UPDATE imports SET state = ?, report = ? WHERE id = ?`, state, string(report), id)
	}
	return err
}

// ImportsToWrite gives the imports whose rows are all kept, the oldest first.
func (s *Store) ImportsToWrite(ctx context.Context) (ids []int64, err error) {
	err = s.list(ctx, "list imports", &ids, `SELECT id FROM imports WHERE state <> 'done' AND state = ? ORDER BY id`, domain.ImportWriting)
	return ids, err
}

// DropImport forgets an import and the rows that it kept.
func (s *Store) DropImport(ctx context.Context, id int64) error {
	_, err := s.exec(ctx, "drop import", `DELETE FROM imports WHERE id = ?`, id)
	return err
}

// DropImports forgets the imports of before a time whose rows were not all kept.
func (s *Store) DropImports(ctx context.Context, before time.Time) error {
	_, err := s.exec(ctx, "drop imports", `DELETE FROM imports WHERE state <> 'done' AND state = ? AND created_at < ?`, domain.ImportKeeping, before)
	return err
}
