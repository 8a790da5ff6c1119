-- +goose Up
-- What a template sets beside its wording; versions keep it too.
ALTER TABLE templates ADD COLUMN extras TEXT NOT NULL DEFAULT '{}';
ALTER TABLE template_versions ADD COLUMN extras TEXT NOT NULL DEFAULT '{}';
-- Of a copy, the template it follows and the version it last looked at.
ALTER TABLE templates ADD COLUMN origin_id INTEGER REFERENCES templates(id);
ALTER TABLE templates ADD COLUMN origin_version INTEGER NOT NULL DEFAULT 0;
ALTER TABLE letters ADD COLUMN extras TEXT NOT NULL DEFAULT '{}';
CREATE TABLE passages (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  shortcut TEXT NOT NULL,
  body TEXT NOT NULL,
  folder_id INTEGER REFERENCES folders(id),
  owner_id INTEGER NOT NULL REFERENCES users(id),
  rights TEXT NOT NULL DEFAULT '{}',
  position INTEGER NOT NULL DEFAULT 0,
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  updated_by INTEGER NOT NULL REFERENCES users(id),
  deleted_at DATETIME
);
-- A header and a footer around formatted letters.
CREATE TABLE stationery (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  header TEXT NOT NULL,
  footer TEXT NOT NULL,
  ready INTEGER NOT NULL DEFAULT 0,
  is_default INTEGER NOT NULL DEFAULT 0,
  version INTEGER NOT NULL DEFAULT 1,
  updated_at DATETIME NOT NULL,
  updated_by INTEGER NOT NULL REFERENCES users(id),
  deleted_at DATETIME
);
-- Files by the SHA-256 of their bytes.
CREATE TABLE files (
  sha TEXT PRIMARY KEY,
  type TEXT NOT NULL,
  size INTEGER NOT NULL,
  bytes BLOB NOT NULL,
  created_at DATETIME NOT NULL
);
-- The shelf of approved documents.
CREATE TABLE documents (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  purpose TEXT NOT NULL DEFAULT '',
  file_name TEXT NOT NULL,
  sha TEXT NOT NULL REFERENCES files(sha),
  rights TEXT NOT NULL DEFAULT '{}',
  owner_id INTEGER NOT NULL REFERENCES users(id),
  version INTEGER NOT NULL DEFAULT 1,
  updated_at DATETIME NOT NULL,
  updated_by INTEGER NOT NULL REFERENCES users(id),
  deleted_at DATETIME
);

-- +goose Down
SELECT 1;
