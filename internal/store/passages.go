package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

type passageRow struct {
	domain.Passage
	BodyJSON   string `db:"body_json"`
	RightsJSON string `db:"rights_json"`
}

const passageColumns = `id, name, shortcut, folder_id, owner_id, version, created_at, updated_at, updated_by, deleted_at, body AS body_json, rights AS rights_json`

func (r *passageRow) read() (domain.Passage, error) {
	err := readJSON("rights of passage", r.RightsJSON, &r.Rights)
	if err == nil {
		r.Body, err = readDocument("body of passage", r.BodyJSON)
	}
	return r.Passage, err
}

func passageRowOf(p domain.Passage) (passageRow, error) {
	r := passageRow{Passage: p}
	var err error
	if r.BodyJSON, err = writeDocument(p.Body); err == nil {
		r.RightsJSON, err = writeJSON(p.Rights)
	}
	return r, err
}

// Passages gives all passages that are not deleted, in their order.
func (s *Store) Passages(ctx context.Context) ([]domain.Passage, error) {
	var rows []passageRow
	if err := s.list(ctx, "list passages", &rows, `SELECT `+passageColumns+` FROM passages WHERE deleted_at IS NULL ORDER BY position, name COLLATE NOCASE, id`); err != nil {
		return nil, err
	}
	out := make([]domain.Passage, 0, len(rows))
	for _, r := range rows {
		p, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

// Passage gives one passage, also a deleted one.
func (s *Store) Passage(ctx context.Context, id int64) (domain.Passage, error) {
	var r passageRow
	if err := s.get(ctx, "load passage", &r, `SELECT `+passageColumns+` FROM passages WHERE id = ?`, id); err != nil {
		return domain.Passage{}, err
	}
	return r.read()
}

// AddPassage stores a passage behind the others.
func (s *Store) AddPassage(ctx context.Context, p domain.Passage) (int64, error) {
	row, err := passageRowOf(p)
	if err != nil {
		return 0, wrap("add passage", err)
	}
	return s.add(ctx, "add passage", `INSERT INTO passages (name, shortcut, body, folder_id, owner_id, rights, created_at, updated_at, updated_by, position)
		VALUES (:name, :shortcut, :body_json, :folder_id, :owner_id, :rights_json, :created_at, :updated_at, :updated_by,
		(SELECT coalesce(max(position), 0) + 1 FROM passages))`, row)
}

// UpdatePassage stores p as version p.Version+1, or gives ErrStale.
func (s *Store) UpdatePassage(ctx context.Context, p domain.Passage) error {
	row, err := passageRowOf(p)
	if err != nil {
		return wrap("update passage", err)
	}
	stored, err := s.change(ctx, "update passage", `UPDATE passages SET name = :name, shortcut = :shortcut, body = :body_json, folder_id = :folder_id, rights = :rights_json,
		updated_at = :updated_at, updated_by = :updated_by, version = version + 1 WHERE id = :id AND version = :version`, row)
	if err == nil && !stored {
		return domain.ErrStale
	}
	return err
}

// DeletePassage takes a passage away or puts it back.
func (s *Store) DeletePassage(ctx context.Context, id int64, at *time.Time) error {
	_, err := s.exec(ctx, "delete passage", `UPDATE passages SET deleted_at = ? WHERE id = ?`, at, id)
	return err
}

type stationeryRow struct {
	domain.Stationery
	HeaderJSON string `db:"header_json"`
	FooterJSON string `db:"footer_json"`
}

const stationeryColumns = `id, name, ready, is_default, version, updated_at, updated_by, deleted_at, header AS header_json, footer AS footer_json`

func (r *stationeryRow) read() (domain.Stationery, error) {
	var err error
	if r.Header, err = readDocument("header of stationery", r.HeaderJSON); err == nil {
		r.Footer, err = readDocument("footer of stationery", r.FooterJSON)
	}
	return r.Stationery, err
}

func stationeryRowOf(st domain.Stationery) (stationeryRow, error) {
	r := stationeryRow{Stationery: st}
	var err error
	if r.HeaderJSON, err = writeDocument(st.Header); err == nil {
		r.FooterJSON, err = writeDocument(st.Footer)
	}
	return r, err
}

// AllStationery gives every stationery that is not deleted, by name.
func (s *Store) AllStationery(ctx context.Context) ([]domain.Stationery, error) {
	var rows []stationeryRow
	if err := s.list(ctx, "list stationery", &rows, `SELECT `+stationeryColumns+` FROM stationery WHERE deleted_at IS NULL ORDER BY name COLLATE NOCASE, id`); err != nil {
		return nil, err
	}
	out := make([]domain.Stationery, 0, len(rows))
	for _, r := range rows {
		st, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, st)
	}
	return out, nil
}

// Stationery gives one, also a deleted one.
func (s *Store) Stationery(ctx context.Context, id int64) (domain.Stationery, error) {
	var r stationeryRow
	if err := s.get(ctx, "load stationery", &r, `SELECT `+stationeryColumns+` FROM stationery WHERE id = ?`, id); err != nil {
		return domain.Stationery{}, err
	}
	return r.read()
}

// AddStationery stores a stationery.
func (s *Store) AddStationery(ctx context.Context, st domain.Stationery) (int64, error) {
	row, err := stationeryRowOf(st)
	if err != nil {
		return 0, wrap("add stationery", err)
	}
	return s.add(ctx, "add stationery", `INSERT INTO stationery (name, header, footer, ready, is_default, updated_at, updated_by)
		VALUES (:name, :header_json, :footer_json, :ready, :is_default, :updated_at, :updated_by)`, row)
}

// UpdateStationery stores st as version st.Version+1, or gives ErrStale. One that
// becomes the default takes that from the others.
func (s *Store) UpdateStationery(ctx context.Context, st domain.Stationery) error {
	row, err := stationeryRowOf(st)
	if err != nil {
		return wrap("update stationery", err)
	}
	return s.Within(ctx, func(ctx context.Context) error {
		if st.Default {
			if _, err := s.exec(ctx, "update stationery", `UPDATE stationery SET is_default = 0 WHERE id <> ?`, st.ID); err != nil {
				return err
			}
		}
		stored, err := s.change(ctx, "update stationery", `UPDATE stationery SET name = :name, header = :header_json, footer = :footer_json, ready = :ready, is_default = :is_default,
			updated_at = :updated_at, updated_by = :updated_by, deleted_at = :deleted_at, version = version + 1 WHERE id = :id AND version = :version`, row)
		if err == nil && !stored {
			return domain.ErrStale
		}
		return err
	})
}
