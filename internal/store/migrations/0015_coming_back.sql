-- +goose Up
-- Whether opens and clicks of a letter can be known: its pictures and links are ours.
ALTER TABLE letters ADD COLUMN tracked INTEGER NOT NULL DEFAULT 0;
-- The letter that came in which this one answers, with the ids of the conversation.
ALTER TABLE letters ADD COLUMN answers_id INTEGER REFERENCES incoming(id);
ALTER TABLE letters ADD COLUMN in_reply_to TEXT NOT NULL DEFAULT '';
ALTER TABLE letters ADD COLUMN refs TEXT NOT NULL DEFAULT '';
-- Until when a worker has the letter in hand.
ALTER TABLE letters ADD COLUMN lease_until DATETIME;
CREATE INDEX letters_message ON letters(message_id) WHERE message_id <> '';
CREATE INDEX letters_to ON letters(to_email COLLATE NOCASE, sent_at);
-- People of whom nobody looks what they open; and addresses that letters came back from.
ALTER TABLE people ADD COLUMN untracked INTEGER NOT NULL DEFAULT 0;
CREATE TABLE bad_addresses (
  email_key TEXT PRIMARY KEY,
  reason TEXT NOT NULL,
  at DATETIME NOT NULL,
  letter_id INTEGER REFERENCES letters(id)
);
-- Where the links of a letter lead: to an address, or to a document of the shelf.
CREATE TABLE letter_links (
  id INTEGER PRIMARY KEY,
  letter_id INTEGER NOT NULL REFERENCES letters(id) ON DELETE CASCADE,
  token TEXT NOT NULL UNIQUE,
  url TEXT NOT NULL DEFAULT '',
  document_id INTEGER REFERENCES documents(id),
  name TEXT NOT NULL DEFAULT '',
  sha TEXT NOT NULL DEFAULT '',
  created_at DATETIME NOT NULL
);
CREATE INDEX letter_links_letter ON letter_links(letter_id);
-- Mail that came in. Bytes that come twice are taken in once.
CREATE TABLE incoming (
  id INTEGER PRIMARY KEY,
  digest TEXT NOT NULL UNIQUE,
  kind TEXT NOT NULL,
  letter_id INTEGER REFERENCES letters(id),
  person_id INTEGER REFERENCES people(id),
  company_id INTEGER REFERENCES companies(id),
  deal_id INTEGER REFERENCES deals(id),
  user_id INTEGER REFERENCES users(id),
  matched TEXT NOT NULL DEFAULT '',
  from_name TEXT NOT NULL DEFAULT '',
  from_email TEXT NOT NULL DEFAULT '',
  to_email TEXT NOT NULL DEFAULT '',
  subject TEXT NOT NULL DEFAULT '',
  text TEXT NOT NULL DEFAULT '',
  message_id TEXT NOT NULL DEFAULT '',
  refs TEXT NOT NULL DEFAULT '',
  back_on TEXT NOT NULL DEFAULT '',
  at DATETIME NOT NULL,
  read_at DATETIME,
  answered_at DATETIME
);
CREATE INDEX incoming_message ON incoming(message_id) WHERE message_id <> '';
CREATE INDEX incoming_user ON incoming(user_id, at DESC);
CREATE INDEX incoming_letter ON incoming(letter_id);
CREATE TABLE incoming_bytes (
  incoming_id INTEGER PRIMARY KEY REFERENCES incoming(id) ON DELETE CASCADE,
  bytes BLOB NOT NULL
);
-- What a machine did, what link was followed, and what came in.
ALTER TABLE history ADD COLUMN machine INTEGER NOT NULL DEFAULT 0;
ALTER TABLE history ADD COLUMN link_id INTEGER REFERENCES letter_links(id);
ALTER TABLE history ADD COLUMN incoming_id INTEGER REFERENCES incoming(id);
CREATE INDEX history_back ON history(letter_id, kind, at);
CREATE INDEX history_company ON history(company_id, at DESC, id DESC) WHERE company_id IS NOT NULL;
CREATE INDEX history_deal ON history(deal_id, at DESC, id DESC) WHERE deal_id IS NOT NULL;
CREATE INDEX history_user ON history(user_id, id DESC) WHERE user_id IS NOT NULL;
-- What holds for the whole workspace, as JSON.
CREATE TABLE settings (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  value TEXT NOT NULL
);

-- +goose Down
SELECT 1;
