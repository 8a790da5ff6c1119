-- A long import: its rows are kept first and then written in steps.
-- +goose Up
CREATE TABLE imports (
	id INTEGER PRIMARY KEY AUTOINCREMENT,
	user_id INTEGER NOT NULL REFERENCES users(id),
	state TEXT NOT NULL,
	report TEXT NOT NULL,
	created_at DATETIME NOT NULL
);
CREATE INDEX imports_open ON imports(id) WHERE state <> 'done';
CREATE TABLE import_rows (
	import_id INTEGER NOT NULL REFERENCES imports(id) ON DELETE CASCADE,
	seq INTEGER NOT NULL,
	row TEXT NOT NULL,
	PRIMARY KEY (import_id, seq)
) WITHOUT ROWID;

-- +goose Down
SELECT 1;
