-- +goose Up
-- Folders of templates or of passages, in the order of their position.
CREATE TABLE folders (
  id INTEGER PRIMARY KEY,
  holds TEXT NOT NULL CHECK (holds IN ('templates', 'passages')),
  parent_id INTEGER REFERENCES folders(id),
  name TEXT NOT NULL,
  position INTEGER NOT NULL DEFAULT 0,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  rights TEXT NOT NULL DEFAULT '{}',
  created_at DATETIME NOT NULL
);
ALTER TABLE templates ADD COLUMN folder_id INTEGER REFERENCES folders(id);
ALTER TABLE templates ADD COLUMN position INTEGER NOT NULL DEFAULT 0;
ALTER TABLE templates ADD COLUMN rights TEXT NOT NULL DEFAULT '{}';
ALTER TABLE templates ADD COLUMN tags TEXT NOT NULL DEFAULT '[]';
-- Deleted templates stay for the letters that were written from them.
ALTER TABLE templates ADD COLUMN deleted_at DATETIME;
CREATE TABLE stars (
  user_id INTEGER NOT NULL REFERENCES users(id),
  template_id INTEGER NOT NULL REFERENCES templates(id),
  PRIMARY KEY (user_id, template_id)
) WITHOUT ROWID;
-- What people search templates in, kept beside them by the store.
CREATE VIRTUAL TABLE templates_find USING fts5(name, when_to_use, subject, body, tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2 3');
CREATE INDEX letters_sender_template ON letters(sender_id, template_id, sent_at);

-- +goose Down
SELECT 1;
