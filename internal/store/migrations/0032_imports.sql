-- Every import is kept with what it did, so that it is found again and can be taken back; and
-- where somebody put a column is remembered.
-- +goose Up
ALTER TABLE imports ADD COLUMN file TEXT NOT NULL DEFAULT '';
CREATE TABLE import_writes (
	import_id INTEGER NOT NULL REFERENCES imports(id) ON DELETE CASCADE,
	seq INTEGER NOT NULL,
	kind TEXT NOT NULL,
	record_id INTEGER NOT NULL,
	made INTEGER NOT NULL,
	said TEXT NOT NULL DEFAULT '',
	PRIMARY KEY (import_id, seq)
) WITHOUT ROWID;
CREATE TABLE import_columns (
	user_id INTEGER NOT NULL REFERENCES users(id),
	header TEXT NOT NULL,
	path TEXT NOT NULL,
	PRIMARY KEY (user_id, header)
) WITHOUT ROWID;
CREATE INDEX deals_name ON deals(lower(name)) WHERE deleted_at IS NULL;
DROP INDEX imports_open;
CREATE INDEX imports_open ON imports(id) WHERE state IN ('writing', 'taking back', 'keeping');

-- +goose Down
SELECT 1;
