-- +goose Up
-- Addresses that nobody may write to any more, whoever has them in a record.
CREATE TABLE opt_outs (
  email_key TEXT PRIMARY KEY,
  email TEXT NOT NULL,
  reason TEXT NOT NULL DEFAULT '',
  at DATETIME NOT NULL,
  letter_id INTEGER REFERENCES letters(id),
  user_id INTEGER REFERENCES users(id)
);
INSERT INTO opt_outs (email_key, email, at)
  SELECT email_key, min(email), min(opted_out_at) FROM people WHERE opted_out_at IS NOT NULL AND email_key <> '' GROUP BY email_key;
-- What stands in the addresses that recipients of a letter follow.
ALTER TABLE letters ADD COLUMN token TEXT NOT NULL DEFAULT '';
CREATE UNIQUE INDEX letters_token ON letters(token) WHERE token <> '';

-- +goose Down
SELECT 1;
