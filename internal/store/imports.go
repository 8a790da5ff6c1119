package store

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
)

const importColumns = `i.id, i.user_id, i.file, i.state, i.report, i.created_at, u.first_name || ' ' || u.last_name AS user,
	EXISTS (SELECT 1 FROM import_writes w WHERE w.import_id = i.id) AS undoable FROM imports i JOIN users u ON u.id = i.user_id`

// AddImport stores an import that begins.
func (s *Store) AddImport(ctx context.Context, i domain.Import, r domain.ImportReport) (int64, error) {
	report, err := json.Marshal(r)
	if err != nil {
		return 0, wrap("add import", err)
	}
	i.Report = report
	return s.add(ctx, "add import", `INSERT INTO imports (user_id, file, state, report, created_at) VALUES (:user_id, :file, :state, :report, :created_at)`, i)
}

// KeepImportRows puts rows aside behind others, block by block: a block is written and read
// in one go.
func (s *Store) KeepImportRows(ctx context.Context, id int64, from int, rows []domain.ImportRow) error {
	return s.Within(ctx, func(ctx context.Context) error {
		for part := range slices.Chunk(rows, domain.ImportBlock) {
			text, err := json.Marshal(part)
			if err == nil {
				_, err = s.exec(ctx, "keep rows of import", `INSERT INTO import_rows (import_id, seq, row) VALUES (?, ?, ?)`, id, from, string(text))
			}
			if err != nil {
				return wrap("keep rows of import", err)
			}
			from += len(part)
		}
		return nil
	})
}

// TakeImportRows takes the next block of rows of an import out. What an earlier version kept
// is one row in a block.
func (s *Store) TakeImportRows(ctx context.Context, id int64) ([]domain.ImportRow, error) {
	var kept []struct {
		Seq int    `db:"seq"`
		Row string `db:"row"`
	}
	if err := s.list(ctx, "read rows of import", &kept, `SELECT seq, row FROM import_rows WHERE import_id = ? ORDER BY seq LIMIT 1`, id); err != nil || len(kept) == 0 {
		return nil, err
	}
	if text := kept[0].Row; !strings.HasPrefix(text, "[") {
		kept[0].Row = "[" + text + "]"
	}
	var rows []domain.ImportRow
	if err := json.Unmarshal([]byte(kept[0].Row), &rows); err != nil {
		return nil, wrap("read rows of import", err)
	}
	_, err := s.exec(ctx, "take rows of import", `DELETE FROM import_rows WHERE import_id = ? AND seq = ?`, id, kept[0].Seq)
	return rows, err
}

// Import gives an import and its report, or ErrNotFound.
func (s *Store) Import(ctx context.Context, id int64) (i domain.Import, r domain.ImportReport, err error) {
	if err = s.get(ctx, "load import", &i, `SELECT `+importColumns+` WHERE i.id = ?`, id); err != nil {
		return i, r, err
	}
	// What an earlier version did not tell is none.
	r = domain.ImportReport{Columns: []domain.Column{}, Refusals: []domain.RefusedRow{}, Asks: []domain.ImportAsk{}, Tidyings: []domain.ImportTidy{}, Kept: []domain.RefusedRow{}}
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

// Imports lists the imports of a user, or with 0 of everybody, the newest first.
func (s *Store) Imports(ctx context.Context, userID int64, limit int) ([]domain.Import, error) {
	list := []domain.Import{}
	err := s.list(ctx, "list imports", &list, `SELECT `+importColumns+` WHERE i.state <> ? AND (? = 0 OR i.user_id = ?) ORDER BY i.id DESC LIMIT ?`, domain.ImportKeeping, userID, userID, limit)
	return list, err
}

// AddImportWrites stores what an import did with records, behind what it did before.
func (s *Store) AddImportWrites(ctx context.Context, id int64, list []domain.ImportWrite) error {
	type row struct {
		domain.ImportWrite
		ImportID int64  `db:"import_id"`
		Said     string `db:"said"`
	}
	return s.Within(ctx, func(ctx context.Context) error {
		seq := int64(0)
		if err := s.get(ctx, "store what an import did", &seq, `SELECT coalesce(max(seq), 0) FROM import_writes WHERE import_id = ?`, id); err != nil {
			return err
		}
		for part := range slices.Chunk(list, atOnce) {
			rows := make([]row, len(part))
			for i, w := range part {
				seq++
				w.Seq = seq
				rows[i] = row{w, id, ""}
				if w.Sum != "" || len(w.Now) > 0 {
					text, err := json.Marshal(w)
					if err != nil {
						return wrap("store what an import did", err)
					}
					rows[i].Said = string(text)
				}
			}
			if _, err := s.add(ctx, "store what an import did", `INSERT INTO import_writes (import_id, seq, kind, record_id, made, said) VALUES (:import_id, :seq, :kind, :record_id, :made, :said)`, rows); err != nil {
				return err
			}
		}
		return nil
	})
}

// TakeImportWrites takes what an import did last out, at most limit, the last first.
func (s *Store) TakeImportWrites(ctx context.Context, id int64, limit int) ([]domain.ImportWrite, error) {
	var rows []struct {
		domain.ImportWrite
		Said string `db:"said"`
	}
	if err := s.list(ctx, "read what an import did", &rows, `SELECT seq, kind, record_id, made, said FROM import_writes WHERE import_id = ? ORDER BY seq DESC LIMIT ?`, id, limit); err != nil || len(rows) == 0 {
		return nil, err
	}
	out := make([]domain.ImportWrite, len(rows))
	for i := range rows {
		if rows[i].Said != "" {
			if err := json.Unmarshal([]byte(rows[i].Said), &rows[i].ImportWrite); err != nil {
				return nil, wrap("read what an import did", err)
			}
		}
		out[i] = rows[i].ImportWrite
	}
	_, err := s.exec(ctx, "take what an import did", `DELETE FROM import_writes WHERE import_id = ? AND seq >= ?`, id, out[len(out)-1].Seq)
	return out, err
}

// ImportColumns gives where a user put columns, by their header.
func (s *Store) ImportColumns(ctx context.Context, userID int64) (map[string]string, error) {
	var list []struct {
		Header string `db:"header"`
		Path   string `db:"path"`
	}
	out := map[string]string{}
	err := s.list(ctx, "read columns of imports", &list, `SELECT header, path FROM import_columns WHERE user_id = ?`, userID)
	for _, c := range list {
		out[c.Header] = c.Path
	}
	return out, err
}

// PutImportColumn remembers where a user put a column.
func (s *Store) PutImportColumn(ctx context.Context, userID int64, header, path string) error {
	_, err := s.exec(ctx, "remember column of import", `INSERT INTO import_columns (user_id, header, path) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET path = excluded.path`, userID, header, path)
	return err
}

// DealsNamed gives the deals of a name, whatever its case.
func (s *Store) DealsNamed(ctx context.Context, name string) ([]domain.Deal, error) {
	list := []domain.Deal{}
	err := s.list(ctx, "find deals", &list, `SELECT `+lists.DealColumns+` FROM deals d WHERE lower(d.name) = lower(?) AND d.deleted_at IS NULL ORDER BY d.id LIMIT 200`, name)
	return list, err
}

// ImportsToWrite gives the imports that are to be written or taken back, the oldest first.
func (s *Store) ImportsToWrite(ctx context.Context) (ids []int64, err error) {
	err = s.list(ctx, "list imports", &ids, `SELECT id FROM imports WHERE state IN ('writing', 'taking back') ORDER BY id`)
	return ids, err
}

// DropImport forgets an import and the rows that it kept.
func (s *Store) DropImport(ctx context.Context, id int64) error {
	_, err := s.exec(ctx, "drop import", `DELETE FROM imports WHERE id = ?`, id)
	return err
}

// DropImports forgets the imports of before a time whose rows were not all kept.
func (s *Store) DropImports(ctx context.Context, before time.Time) error {
	_, err := s.exec(ctx, "drop imports", `DELETE FROM imports WHERE state = 'keeping' AND created_at < ?`, before)
	return err
}
