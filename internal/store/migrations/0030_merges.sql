-- Two records of one person were made one; what went over is noted, so that it can go back.
-- +goose Up
CREATE TABLE merges (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  kept_id INTEGER NOT NULL REFERENCES people(id),
  gone_id INTEGER NOT NULL REFERENCES people(id),
  moved TEXT NOT NULL,
  before TEXT NOT NULL,
  kept_version INTEGER NOT NULL,
  user_id INTEGER NOT NULL REFERENCES users(id),
  at DATETIME NOT NULL,
  undone_at DATETIME
);
CREATE INDEX merges_gone ON merges(gone_id);

-- +goose Down
SELECT 1;
