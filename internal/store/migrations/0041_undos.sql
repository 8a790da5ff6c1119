-- What takes an act back is kept here, and not by whoever asks for it.
-- +goose Up
CREATE TABLE undos (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  user_id INTEGER NOT NULL REFERENCES users(id),
  kind TEXT NOT NULL,
  data TEXT NOT NULL,
  at DATETIME NOT NULL
);
CREATE INDEX undos_at ON undos(at);

-- +goose Down
SELECT 1;
