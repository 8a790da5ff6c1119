-- +goose Up
-- Every version of a template as it was stored; letters remember theirs.
CREATE TABLE template_versions (
  template_id INTEGER NOT NULL REFERENCES templates(id) ON DELETE CASCADE,
  version INTEGER NOT NULL,
  name TEXT NOT NULL,
  when_to_use TEXT NOT NULL,
  subject TEXT NOT NULL,
  body TEXT NOT NULL,
  state TEXT NOT NULL,
  stored_at DATETIME NOT NULL,
  stored_by INTEGER NOT NULL REFERENCES users(id),
  PRIMARY KEY (template_id, version)
) WITHOUT ROWID;
INSERT INTO template_versions SELECT id, version, name, when_to_use, subject, body, state, updated_at, updated_by FROM templates;

-- +goose Down
SELECT 1;
