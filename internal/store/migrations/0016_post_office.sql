-- +goose Up
-- How the recipients of the post office behave, where it was set by hand.
CREATE TABLE post_characters (
  mailbox TEXT PRIMARY KEY,
  character TEXT NOT NULL
);
-- What they are going to do about a letter, and did.
CREATE TABLE post_errands (
  id INTEGER PRIMARY KEY,
  post_letter_id INTEGER NOT NULL REFERENCES post_letters(id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  due_at DATETIME NOT NULL,
  done_at DATETIME,
  outcome TEXT NOT NULL DEFAULT ''
);
CREATE INDEX post_errands_due ON post_errands(due_at) WHERE done_at IS NULL;
CREATE INDEX post_errands_letter ON post_errands(post_letter_id);
-- How far the clock of the sample workspace was moved on, in seconds.
CREATE TABLE post_clock (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  ahead INTEGER NOT NULL
);

-- +goose Down
SELECT 1;
