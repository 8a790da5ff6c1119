package store

import (
	"context"
	"encoding/json"
	"errors"

	"lucidletter/internal/domain"
)

const templateColumns = `t.id, t.name, t.when_to_use, t.state, t.owner_id, t.version, t.created_at, t.updated_at, t.updated_by, t.folder_id, t.deleted_at, t.extras, t.sister_of, t.origin_id, t.origin_version, t.rights AS rights_json, t.tags AS tags_json, t.subject AS subject_json, t.body AS body_json`

type templateRow struct {
	domain.Template
	SubjectJSON string `db:"subject_json"`
	BodyJSON    string `db:"body_json"`
	RightsJSON  string `db:"rights_json"`
	TagsJSON    string `db:"tags_json"`
}

func (r *templateRow) read() (domain.Template, error) {
	err := errors.Join(readJSON("rights of template", r.RightsJSON, &r.Rights), readJSON("tags of template", r.TagsJSON, &r.Tags))
	if err != nil {
		return r.Template, err
	}
	if r.Subject, err = readDocument("subject of template", r.SubjectJSON); err != nil {
		return r.Template, err
	}
	r.Body, err = readDocument("body of template", r.BodyJSON)
	return r.Template, err
}

func templateRowOf(t domain.Template) (templateRow, error) {
	r := templateRow{Template: t}
	var err error
	if r.SubjectJSON, err = writeDocument(t.Subject); err != nil {
		return r, err
	}
	if r.BodyJSON, err = writeDocument(t.Body); err != nil {
		return r, err
	}
	if r.RightsJSON, err = writeJSON(t.Rights); err != nil {
		return r, err
	}
	r.TagsJSON, err = writeJSON(append([]string{}, t.Tags...))
	return r, err
}

func readJSON(what, text string, into any) error {
	return wrap("read "+what, json.Unmarshal([]byte(text), into))
}

func writeJSON(v any) (string, error) {
	text, err := json.Marshal(v)
	return string(text), err
}

// AllTemplates gives the templates in a state, whole, by name.
func (s *Store) AllTemplates(ctx context.Context, state domain.TemplateState) ([]domain.Template, error) {
	return s.templates(ctx, `t.state = ? AND t.deleted_at IS NULL ORDER BY t.name COLLATE NOCASE, t.id`, state)
}

// WordingsOf gives a template and its wordings in other languages.
func (s *Store) WordingsOf(ctx context.Context, id int64) ([]domain.Template, error) {
	return s.templates(ctx, `(t.id = ? OR t.sister_of = ?) AND t.deleted_at IS NULL ORDER BY t.id`, id, id)
}

// keepTogether gives the wordings of a template its settings, and finds them with it.
func (s *Store) keepTogether(ctx context.Context, first int64) error {
	if _, err := s.exec(ctx, "keep wordings together", `UPDATE templates SET (name, when_to_use, tags, owner_id, folder_id, rights) =
		(SELECT f.name, f.when_to_use, f.tags, f.owner_id, f.folder_id, f.rights FROM templates f WHERE f.id = templates.sister_of) WHERE sister_of = ?`, first); err != nil {
		return err
	}
	return s.indexTemplate(ctx, first)
}

// first gives the template whose settings count for t.
func first(t *domain.Template) int64 {
	if t.SisterOf != nil {
		return *t.SisterOf
	}
	return t.ID
}

func (s *Store) templates(ctx context.Context, where string, args ...any) ([]domain.Template, error) {
	var rows []templateRow
	if err := s.list(ctx, "list templates", &rows, `SELECT `+templateColumns+` FROM templates t WHERE `+where, args...); err != nil {
		return nil, err
	}
	out := make([]domain.Template, 0, len(rows))
	for _, r := range rows {
		t, err := r.read()
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

// Template gives one template.
func (s *Store) Template(ctx context.Context, id int64) (domain.Template, error) {
	var r templateRow
	if err := s.get(ctx, "load template", &r, `SELECT `+templateColumns+` FROM templates t WHERE t.id = ?`, id); err != nil {
		return domain.Template{}, err
	}
	return r.read()
}

// AddTemplate stores a template.
func (s *Store) AddTemplate(ctx context.Context, t domain.Template) (int64, error) {
	row, err := templateRowOf(t)
	if err != nil {
		return 0, wrap("add template", err)
	}
	var id int64
	err = s.Within(ctx, func(ctx context.Context) error {
		id, err = s.add(ctx, "add template", `INSERT INTO templates (name, when_to_use, subject, body, state, owner_id, version, created_at, updated_at, updated_by, folder_id, rights, tags, extras, sister_of, origin_id, origin_version, position)
			VALUES (:name, :when_to_use, :subject_json, :body_json, :state, :owner_id, :version, :created_at, :updated_at, :updated_by, :folder_id, :rights_json, :tags_json, :extras, :sister_of, :origin_id, :origin_version,
			(SELECT coalesce(max(position), 0) + 1 FROM templates))`, row)
		if err != nil {
			return err
		}
		t.ID = id
		return errors.Join(s.keepVersion(ctx, id), s.keepTogether(ctx, first(&t)))
	})
	return id, err
}

// UpdateTemplate stores t as its next version, or gives ErrStale.
func (s *Store) UpdateTemplate(ctx context.Context, t domain.Template) error {
	row, err := templateRowOf(t)
	if err != nil {
		return wrap("update template", err)
	}
	return s.Within(ctx, func(ctx context.Context) error {
		stored, err := s.change(ctx, "update template", `UPDATE templates SET name = :name, when_to_use = :when_to_use, subject = :subject_json, body = :body_json, tags = :tags_json, extras = :extras,
			state = :state, version = version + 1, updated_at = :updated_at, updated_by = :updated_by WHERE id = :id AND version = :version`, row)
		switch {
		case err != nil:
			return err
		case !stored:
			return domain.ErrStale
		}
		return errors.Join(s.keepVersion(ctx, t.ID), s.keepTogether(ctx, first(&t)))
	})
}
