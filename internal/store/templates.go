package store

import (
	"context"
	"time"

	"lucidletter/internal/app"
)

const templateColumns = `t.id, t.name, t.when_to_use, t.state, t.owner_id, t.version, t.created_at, t.updated_at, t.updated_by, t.subject AS subject_json, t.body AS body_json`

type templateRow struct {
	app.Template
	SubjectJSON string `db:"subject_json"`
	BodyJSON    string `db:"body_json"`
}

func (r *templateRow) read() (app.Template, error) {
	var err error
	if r.Subject, err = readDocument("subject of template", r.SubjectJSON); err != nil {
		return r.Template, err
	}
	r.Body, err = readDocument("body of template", r.BodyJSON)
	return r.Template, err
}

func templateRowOf(t app.Template) (templateRow, error) {
	r := templateRow{Template: t}
	var err error
	if r.SubjectJSON, err = document(t.Subject); err != nil {
		return r, err
	}
	r.BodyJSON, err = document(t.Body)
	return r, err
}

// Templates lists all templates by name.
func (s *Store) Templates(ctx context.Context) ([]app.TemplateRow, error) {
	var rows []struct {
		templateRow
		OwnerName string  `db:"owner_name"`
		Used      int     `db:"used"`
		LastUsed  *string `db:"last_used"`
	}
	err := s.list(ctx, "list templates", &rows, `SELECT `+templateColumns+`, u.first_name || ' ' || u.last_name AS owner_name,
		(SELECT count(*) FROM letters l WHERE l.template_id = t.id AND l.sent_at IS NOT NULL) AS used,
		(SELECT max(l.sent_at) FROM letters l WHERE l.template_id = t.id) AS last_used
		FROM templates t JOIN users u ON u.id = t.owner_id ORDER BY t.name COLLATE NOCASE, t.id`)
	if err != nil {
		return nil, err
	}
	out := make([]app.TemplateRow, 0, len(rows))
	for _, r := range rows {
		t, err := r.read()
		if err != nil {
			return nil, err
		}
		row := app.TemplateRow{Template: t, OwnerName: r.OwnerName, Used: r.Used}
		if r.LastUsed != nil {
			// An expression has no declared type, so the driver gives text.
			at, err := time.Parse("2006-01-02 15:04:05.999999999-07:00", *r.LastUsed)
			if err != nil {
				return nil, wrap("read last use", err)
			}
			row.LastUsed = &at
		}
		out = append(out, row)
	}
	return out, nil
}

// Template gives one template.
func (s *Store) Template(ctx context.Context, id int64) (app.Template, error) {
	var r templateRow
	if err := s.get(ctx, "load template", &r, `SELECT `+templateColumns+` FROM templates t WHERE t.id = ?`, id); err != nil {
		return app.Template{}, err
	}
	return r.read()
}

// AddTemplate stores a template.
func (s *Store) AddTemplate(ctx context.Context, t app.Template) (int64, error) {
	row, err := templateRowOf(t)
	if err != nil {
		return 0, wrap("add template", err)
	}
	var id int64
	err = s.Within(ctx, func(inner app.Store) error {
		tx := inner.(*Store)
		id, err = tx.add(ctx, "add template", `INSERT INTO templates (name, when_to_use, subject, body, state, owner_id, version, created_at, updated_at, updated_by)
			VALUES (:name, :when_to_use, :subject_json, :body_json, :state, :owner_id, :version, :created_at, :updated_at, :updated_by)`, row)
		if err != nil {
			return err
		}
		return tx.keepVersion(ctx, id)
	})
	return id, err
}

// UpdateTemplate stores t as its next version, or gives ErrStale.
func (s *Store) UpdateTemplate(ctx context.Context, t app.Template) error {
	row, err := templateRowOf(t)
	if err != nil {
		return wrap("update template", err)
	}
	return s.Within(ctx, func(inner app.Store) error {
		tx := inner.(*Store)
		stored, err := tx.change(ctx, "update template", `UPDATE templates SET name = :name, when_to_use = :when_to_use, subject = :subject_json, body = :body_json,
			state = :state, version = version + 1, updated_at = :updated_at, updated_by = :updated_by WHERE id = :id AND version = :version`, row)
		switch {
		case err != nil:
			return err
		case !stored:
			return app.ErrStale
		}
		return tx.keepVersion(ctx, t.ID)
	})
}
