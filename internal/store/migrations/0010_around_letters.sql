-- +goose Up
-- Addresses that a user may write from, with the signature of each as a document;
-- that of the user's own address may stand here too.
CREATE TABLE from_addresses (
  id INTEGER PRIMARY KEY,
  user_id INTEGER NOT NULL REFERENCES users(id),
  name TEXT NOT NULL,
  email TEXT NOT NULL,
  email_key TEXT NOT NULL,
  signature TEXT NOT NULL DEFAULT '',
  UNIQUE (user_id, email_key)
);
-- Letters to colleagues are outside of what is written to people.
ALTER TABLE letters ADD COLUMN internal INTEGER NOT NULL DEFAULT 0;
-- Questions asked in a letter, answered on a page whose address holds the token.
CREATE TABLE questions (
  id INTEGER PRIMARY KEY,
  letter_id INTEGER NOT NULL REFERENCES letters(id) ON DELETE CASCADE,
  token TEXT NOT NULL UNIQUE,
  asked TEXT NOT NULL,
  answers TEXT NOT NULL DEFAULT '',
  answered_at DATETIME,
  created_at DATETIME NOT NULL
);
CREATE INDEX questions_letter ON questions(letter_id);
-- What is to be done, by when. A reminder of a letter goes away with an answer.
CREATE TABLE tasks (
  id INTEGER PRIMARY KEY,
  user_id INTEGER NOT NULL REFERENCES users(id),
  person_id INTEGER REFERENCES people(id),
  deal_id INTEGER REFERENCES deals(id),
  letter_id INTEGER REFERENCES letters(id),
  text TEXT NOT NULL,
  due_at DATETIME NOT NULL,
  done_at DATETIME,
  created_at DATETIME NOT NULL
);
CREATE INDEX tasks_user ON tasks(user_id, due_at) WHERE done_at IS NULL;
CREATE INDEX tasks_person ON tasks(person_id);

-- +goose Down
SELECT 1;
