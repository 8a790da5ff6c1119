-- Lists of people that somebody saved: a filter in its text form, and an order.
-- +goose Up
CREATE TABLE lists (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL,
  filter TEXT NOT NULL,
  sort TEXT NOT NULL DEFAULT '',
  down INTEGER NOT NULL DEFAULT 0,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  shared INTEGER NOT NULL DEFAULT 0,
  created_at DATETIME NOT NULL,
  deleted_at DATETIME
);
CREATE INDEX lists_owner ON lists(owner_id) WHERE deleted_at IS NULL;

-- +goose Down
SELECT 1;
