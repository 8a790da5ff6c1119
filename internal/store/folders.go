package store

import (
	"context"
	"errors"
	"time"

	"lucidletter/internal/domain"
)

type folderRow struct {
	domain.Folder
	RightsJSON string `db:"rights_json"`
}

// Folders gives all folders of a kind in their order.
func (s *Store) Folders(ctx context.Context, holds string) ([]domain.Folder, error) {
	var rows []folderRow
	err := s.list(ctx, "list folders", &rows, `SELECT id, holds, parent_id, name, owner_id, created_at, rights AS rights_json
		FROM folders WHERE holds = ? AND deleted_at IS NULL ORDER BY position, name COLLATE NOCASE, id`, holds)
	out := make([]domain.Folder, len(rows))
	for i := 0; err == nil && i < len(rows); i++ {
		err = readJSON("rights of folder", rows[i].RightsJSON, &rows[i].Rights)
		out[i] = rows[i].Folder
	}
	return out, err
}

func rowOfFolder(f domain.Folder) (folderRow, error) {
	text, err := writeJSON(f.Rights)
	return folderRow{f, text}, err
}

// AddFolder stores a folder behind the others.
func (s *Store) AddFolder(ctx context.Context, f domain.Folder) (int64, error) {
	row, err := rowOfFolder(f)
	if err != nil {
		return 0, wrap("add folder", err)
	}
	return s.add(ctx, "add folder", `INSERT INTO folders (holds, parent_id, name, owner_id, rights, created_at, position)
		VALUES (:holds, :parent_id, :name, :owner_id, :rights_json, :created_at, (SELECT coalesce(max(position), 0) + 1 FROM folders))`, row)
}

// UpdateFolder stores name, parent and rights.
func (s *Store) UpdateFolder(ctx context.Context, f domain.Folder) error {
	row, err := rowOfFolder(f)
	if err == nil {
		_, err = s.change(ctx, "update folder", `UPDATE folders SET name = :name, parent_id = :parent_id, rights = :rights_json WHERE id = :id`, row)
	}
	return err
}

// OrderFolder puts a folder before another one of its parent, or last.
func (s *Store) OrderFolder(ctx context.Context, id, before int64) error {
	return s.Within(ctx, func(ctx context.Context) error {
		return s.order(ctx, "folders", `deleted_at IS NULL AND parent_id IS (SELECT parent_id FROM folders WHERE id = ?)`, id, before)
	})
}

// DeleteFolder deletes an empty folder; deleted templates in it stand outside of folders then.
func (s *Store) DeleteFolder(ctx context.Context, id int64, at time.Time, held domain.Held) error {
	text, err := writeJSON(held)
	if err != nil {
		return err
	}
	return s.Within(ctx, func(ctx context.Context) error {
		if _, err := s.exec(ctx, "delete folder", `UPDATE templates SET folder_id = NULL WHERE folder_id = ? AND deleted_at IS NOT NULL`, id); err != nil {
			return err
		}
		_, err := s.exec(ctx, "delete folder", `UPDATE folders SET deleted_at = ?, held = ? WHERE id = ?`, at, text, id)
		return err
	})
}

// DeletedFolder gives a folder that was deleted, and what it held.
func (s *Store) DeletedFolder(ctx context.Context, id int64) (domain.Folder, domain.Held, error) {
	var r struct {
		folderRow
		HeldJSON string `db:"held"`
	}
	var held domain.Held
	err := s.get(ctx, "load folder", &r, `SELECT id, holds, parent_id, name, owner_id, created_at, rights AS rights_json, held FROM folders WHERE id = ? AND deleted_at IS NOT NULL`, id)
	if err != nil {
		return r.Folder, held, err
	}
	return r.Folder, held, errors.Join(readJSON("rights of folder", r.RightsJSON, &r.Rights), readJSON("contents of folder", r.HeldJSON, &held))
}

// RestoreFolder undoes DeleteFolder.
func (s *Store) RestoreFolder(ctx context.Context, id int64) error {
	_, err := s.exec(ctx, "restore folder", `UPDATE folders SET deleted_at = NULL, held = '{}' WHERE id = ?`, id)
	return err
}
