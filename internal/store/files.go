package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// AddFile stores bytes once.
func (s *Store) AddFile(ctx context.Context, f domain.File) error {
	_, err := s.exec(ctx, "add file", `INSERT OR IGNORE INTO files (sha, type, size, bytes, created_at) VALUES (?, ?, ?, ?, ?)`, f.SHA, f.Type, f.Size, f.Bytes, f.CreatedAt)
	return err
}

// NoteUpload notes who brought a file in.
func (s *Store) NoteUpload(ctx context.Context, sha string, userID int64, at time.Time) error {
	_, err := s.exec(ctx, "note upload", `INSERT OR IGNORE INTO uploads (sha, user_id, at) VALUES (?, ?, ?)`, sha, userID, at)
	return err
}

// Uploaded tells whether a user brought a file in.
func (s *Store) Uploaded(ctx context.Context, sha string, userID int64) (was bool, err error) {
	err = s.get(ctx, "look who uploaded", &was, `SELECT EXISTS (SELECT 1 FROM uploads WHERE sha = ? AND user_id = ?)`, sha, userID)
	return was, err
}

// File gives a file with its bytes.
func (s *Store) File(ctx context.Context, sha string) (f domain.File, err error) {
	err = s.get(ctx, "load file", &f, `SELECT sha, type, size, bytes, created_at FROM files WHERE sha = ?`, sha)
	return f, err
}

// FileHead gives a file without its bytes.
func (s *Store) FileHead(ctx context.Context, sha string) (f domain.File, err error) {
	err = s.get(ctx, "look for file", &f, `SELECT sha, type, size, created_at FROM files WHERE sha = ?`, sha)
	return f, err
}

type documentRow struct {
	domain.SharedDocument
	RightsJSON string `db:"rights_json"`
}

const documentQuery = `SELECT d.id, d.name, d.purpose, d.file_name, d.sha, f.type, f.size, d.owner_id, d.version, d.updated_at, d.updated_by, d.deleted_at, d.rights AS rights_json
	FROM documents d JOIN files f ON f.sha = d.sha `

// Documents gives the shelf by name.
func (s *Store) Documents(ctx context.Context) ([]domain.SharedDocument, error) {
	var rows []documentRow
	err := s.list(ctx, "list documents", &rows, documentQuery+`WHERE d.deleted_at IS NULL ORDER BY d.name COLLATE NOCASE, d.id`)
	out := make([]domain.SharedDocument, len(rows))
	for i := 0; err == nil && i < len(rows); i++ {
		err = readJSON("rights of document", rows[i].RightsJSON, &rows[i].Rights)
		out[i] = rows[i].SharedDocument
	}
	return out, err
}

// SharedDocument gives one document, also a deleted one.
func (s *Store) SharedDocument(ctx context.Context, id int64) (domain.SharedDocument, error) {
	var r documentRow
	err := s.get(ctx, "load document", &r, documentQuery+`WHERE d.id = ?`, id)
	if err == nil {
		err = readJSON("rights of document", r.RightsJSON, &r.Rights)
	}
	return r.SharedDocument, err
}

// AddDocument puts a document on the shelf.
func (s *Store) AddDocument(ctx context.Context, d domain.SharedDocument) (int64, error) {
	text, err := writeJSON(d.Rights)
	if err != nil {
		return 0, wrap("add document", err)
	}
	return s.add(ctx, "add document", `INSERT INTO documents (name, purpose, file_name, sha, rights, owner_id, version, updated_at, updated_by)
		VALUES (:name, :purpose, :file_name, :sha, :rights_json, :owner_id, :version, :updated_at, :updated_by)`, documentRow{d, text})
}

// UpdateDocument stores everything of a document.
func (s *Store) UpdateDocument(ctx context.Context, d domain.SharedDocument) error {
	text, err := writeJSON(d.Rights)
	if err != nil {
		return wrap("update document", err)
	}
	_, err = s.change(ctx, "update document", `UPDATE documents SET name = :name, purpose = :purpose, file_name = :file_name, sha = :sha, rights = :rights_json, version = :version,
		updated_at = :updated_at, updated_by = :updated_by, deleted_at = :deleted_at WHERE id = :id`, documentRow{d, text})
	return err
}
