package store

import (
	"context"

	"lucidletter/internal/domain"
)

// keepVersion copies a template as it is now to its versions.
func (s *Store) keepVersion(ctx context.Context, id int64) error {
	_, err := s.exec(ctx, "keep version of template", `INSERT INTO template_versions
		(template_id, version, name, when_to_use, subject, body, state, stored_at, stored_by, extras)
		SELECT id, version, name, when_to_use, subject, body, state, updated_at, updated_by, extras FROM templates WHERE id = ?`, id)
	return err
}

// Versions lists the versions of a template, the newest first.
func (s *Store) Versions(ctx context.Context, templateID int64) ([]domain.VersionRow, error) {
	rows := []domain.VersionRow{}
	err := s.list(ctx, "list versions", &rows, `SELECT v.version, v.name, v.state, v.stored_at, trim(u.first_name || ' ' || u.last_name) AS by_name,
		(SELECT count(*) FROM letters l WHERE l.template_id = v.template_id AND l.template_version = v.version AND l.sent_at IS NOT NULL AND l.internal = 0) AS sent
		FROM template_versions v JOIN users u ON u.id = v.stored_by WHERE v.template_id = ? ORDER BY v.version DESC`, templateID)
	return rows, err
}

// TemplateVersion gives a template as one of its versions was stored.
func (s *Store) TemplateVersion(ctx context.Context, templateID int64, version int) (domain.Template, error) {
	var r templateRow
	err := s.get(ctx, "load version", &r, `SELECT t.id, v.name, v.when_to_use, v.state, t.owner_id, v.version, t.created_at, v.stored_at AS updated_at,
		v.stored_by AS updated_by, t.folder_id, t.deleted_at, v.extras, t.origin_id, t.origin_version, t.rights AS rights_json, t.tags AS tags_json, v.subject AS subject_json, v.body AS body_json
		FROM template_versions v JOIN templates t ON t.id = v.template_id WHERE v.template_id = ? AND v.version = ?`, templateID, version)
	if err != nil {
		return domain.Template{}, err
	}
	return r.read()
}
