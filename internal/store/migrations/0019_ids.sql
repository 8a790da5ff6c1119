-- Ids are never used again: a window that still shows what was deleted must not
-- reach something else under its id. The declaration is all that differs; what is
-- stored stays as it is, so the tables need not be copied.
-- +goose Up
CREATE TABLE never_again (id INTEGER PRIMARY KEY AUTOINCREMENT);
DROP TABLE never_again;
INSERT INTO sqlite_sequence (name, seq) SELECT 'teams', coalesce(max(id), 0) FROM teams;
INSERT INTO sqlite_sequence (name, seq) SELECT 'users', coalesce(max(id), 0) FROM users;
INSERT INTO sqlite_sequence (name, seq) SELECT 'companies', coalesce(max(id), 0) FROM companies;
INSERT INTO sqlite_sequence (name, seq) SELECT 'people', coalesce(max(id), 0) FROM people;
INSERT INTO sqlite_sequence (name, seq) SELECT 'deals', coalesce(max(id), 0) FROM deals;
INSERT INTO sqlite_sequence (name, seq) SELECT 'templates', coalesce(max(id), 0) FROM templates;
-- Drafts were deleted before; their ids may be known to open windows.
INSERT INTO sqlite_sequence (name, seq) SELECT 'letters', coalesce(max(id), 0) + CASE WHEN EXISTS (SELECT 1 FROM users) THEN 1000 ELSE 0 END FROM letters;
INSERT INTO sqlite_sequence (name, seq) SELECT 'history', coalesce(max(id), 0) FROM history;
INSERT INTO sqlite_sequence (name, seq) SELECT 'post_letters', coalesce(max(id), 0) FROM post_letters;
INSERT INTO sqlite_sequence (name, seq) SELECT 'folders', coalesce(max(id), 0) + CASE WHEN EXISTS (SELECT 1 FROM users) THEN 1000 ELSE 0 END FROM folders;
INSERT INTO sqlite_sequence (name, seq) SELECT 'passages', coalesce(max(id), 0) FROM passages;
INSERT INTO sqlite_sequence (name, seq) SELECT 'stationery', coalesce(max(id), 0) FROM stationery;
INSERT INTO sqlite_sequence (name, seq) SELECT 'documents', coalesce(max(id), 0) FROM documents;
INSERT INTO sqlite_sequence (name, seq) SELECT 'from_addresses', coalesce(max(id), 0) FROM from_addresses;
INSERT INTO sqlite_sequence (name, seq) SELECT 'questions', coalesce(max(id), 0) + CASE WHEN EXISTS (SELECT 1 FROM users) THEN 1000 ELSE 0 END FROM questions;
INSERT INTO sqlite_sequence (name, seq) SELECT 'tasks', coalesce(max(id), 0) FROM tasks;
INSERT INTO sqlite_sequence (name, seq) SELECT 'letter_links', coalesce(max(id), 0) FROM letter_links;
INSERT INTO sqlite_sequence (name, seq) SELECT 'incoming', coalesce(max(id), 0) FROM incoming;
INSERT INTO sqlite_sequence (name, seq) SELECT 'post_errands', coalesce(max(id), 0) FROM post_errands;
INSERT INTO sqlite_sequence (name, seq) SELECT 'sending_accounts', coalesce(max(id), 0) FROM sending_accounts;
INSERT INTO sqlite_sequence (name, seq) SELECT 'letter_steps', coalesce(max(id), 0) FROM letter_steps;
PRAGMA writable_schema = ON;
UPDATE sqlite_schema SET sql = replace(sql, '
  id INTEGER PRIMARY KEY,', '
  id INTEGER PRIMARY KEY AUTOINCREMENT,') WHERE type = 'table' AND name IN (SELECT name FROM sqlite_sequence);
PRAGMA writable_schema = RESET;

-- A draft that was discarded can be restored.
ALTER TABLE letters ADD COLUMN deleted_at DATETIME;
-- The values of its records that a draft was written with, by path, as JSON.
ALTER TABLE letters ADD COLUMN seen TEXT NOT NULL DEFAULT '{}';
-- What came back and is no reply stands on Today until it is dealt with.
ALTER TABLE history ADD COLUMN settled_at DATETIME;
UPDATE history SET settled_at = at;
-- For bringing back an address to write from and a folder; nothing writes these yet.
ALTER TABLE from_addresses ADD COLUMN deleted_at DATETIME;
ALTER TABLE folders ADD COLUMN deleted_at DATETIME;

-- +goose Down
SELECT 1;
