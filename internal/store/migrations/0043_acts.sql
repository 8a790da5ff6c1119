-- What was made by a request that carries a key of its own is made once, however often it comes.
-- +goose Up
CREATE TABLE acts (
  user_id INTEGER NOT NULL REFERENCES users(id),
  key TEXT NOT NULL,
  what TEXT NOT NULL,
  status INTEGER NOT NULL DEFAULT 0, -- 0 while it is under way
  type TEXT NOT NULL DEFAULT '',
  body BLOB,
  at DATETIME NOT NULL,
  PRIMARY KEY (user_id, key)
);
CREATE INDEX acts_at ON acts(at);

-- +goose Down
SELECT 1;
