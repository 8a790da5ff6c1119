-- +goose Up
-- Mail servers that letters go through, and mailboxes that answers are fetched from.
-- What is secret is sealed with a key that is not in this file.
CREATE TABLE sending_accounts (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  addresses TEXT NOT NULL DEFAULT '[]',
  user_id INTEGER REFERENCES users(id),
  audience TEXT NOT NULL DEFAULT '{}',
  server TEXT NOT NULL DEFAULT '{}',
  connections INTEGER NOT NULL DEFAULT 2,
  per_minute INTEGER NOT NULL DEFAULT 30,
  per_day INTEGER NOT NULL DEFAULT 500,
  return_to TEXT NOT NULL DEFAULT '',
  dkim_domain TEXT NOT NULL DEFAULT '',
  dkim_selector TEXT NOT NULL DEFAULT '',
  dkim_key BLOB,
  mailbox TEXT NOT NULL DEFAULT '{}',
  mailbox_at TEXT NOT NULL DEFAULT '',
  mailbox_said TEXT NOT NULL DEFAULT '',
  created_at DATETIME NOT NULL,
  deleted_at DATETIME
);
ALTER TABLE letters ADD COLUMN account_id INTEGER;
ALTER TABLE letters ADD COLUMN first_try_at DATETIME;
CREATE INDEX letters_handed ON letters(account_id, handed_over_at) WHERE handed_over_at IS NOT NULL;
CREATE INDEX letters_lease ON letters(lease_until) WHERE state = 'sending';
-- The way of a letter, step by step.
CREATE TABLE letter_steps (
  id INTEGER PRIMARY KEY,
  letter_id INTEGER NOT NULL REFERENCES letters(id) ON DELETE CASCADE,
  state TEXT NOT NULL,
  reason TEXT NOT NULL DEFAULT '',
  due_at DATETIME,
  at DATETIME NOT NULL
);
CREATE INDEX letter_steps_letter ON letter_steps(letter_id);

-- +goose Down
SELECT 1;
