-- A file is attached by whoever brought it in: knowing its sum is no right to it.
-- +goose Up
CREATE TABLE uploads (
  sha TEXT NOT NULL REFERENCES files(sha),
  user_id INTEGER NOT NULL REFERENCES users(id),
  at DATETIME NOT NULL,
  PRIMARY KEY (sha, user_id)
) WITHOUT ROWID;
INSERT OR IGNORE INTO uploads (sha, user_id, at)
  SELECT x.value ->> 'sha', l.sender_id, l.created_at FROM letters l, json_each(l.extras, '$.attachments') x
  WHERE json_valid(l.extras) AND coalesce(x.value ->> 'documentId', 0) = 0 AND EXISTS (SELECT 1 FROM files f WHERE f.sha = x.value ->> 'sha');

-- +goose Down
SELECT 1;
