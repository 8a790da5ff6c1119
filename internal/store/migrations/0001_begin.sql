-- +goose Up
CREATE TABLE teams (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  postal_address TEXT NOT NULL DEFAULT '',
  website TEXT NOT NULL DEFAULT '',
  own TEXT NOT NULL DEFAULT '{}'
);
CREATE TABLE users (
  id INTEGER PRIMARY KEY,
  email TEXT NOT NULL,
  email_key TEXT NOT NULL UNIQUE,
  password_hash TEXT NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('representative', 'lead', 'administrator')),
  team_id INTEGER REFERENCES teams(id),
  first_name TEXT NOT NULL,
  last_name TEXT NOT NULL,
  phone TEXT NOT NULL DEFAULT '',
  job_title TEXT NOT NULL DEFAULT '',
  booking_link TEXT NOT NULL DEFAULT '',
  signature TEXT NOT NULL DEFAULT '',
  own TEXT NOT NULL DEFAULT '{}'
);
CREATE TABLE own_fields (
  path TEXT PRIMARY KEY,
  record TEXT NOT NULL,
  label TEXT NOT NULL,
  type TEXT NOT NULL,
  choices TEXT NOT NULL DEFAULT '[]',
  position INTEGER NOT NULL DEFAULT 0
);
CREATE TABLE companies (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  name_key TEXT NOT NULL,
  website TEXT NOT NULL DEFAULT '',
  industry TEXT NOT NULL DEFAULT '',
  employees TEXT NOT NULL DEFAULT '',
  phone TEXT NOT NULL DEFAULT '',
  street TEXT NOT NULL DEFAULT '',
  postal_code TEXT NOT NULL DEFAULT '',
  city TEXT NOT NULL DEFAULT '',
  country TEXT NOT NULL DEFAULT '',
  owner_id INTEGER REFERENCES users(id),
  own TEXT NOT NULL DEFAULT '{}',
  created_at DATETIME NOT NULL
);
CREATE INDEX companies_name ON companies(name_key);
CREATE TABLE people (
  id INTEGER PRIMARY KEY,
  kind TEXT NOT NULL CHECK (kind IN ('lead', 'contact')),
  honorific TEXT NOT NULL DEFAULT '',
  first_name TEXT NOT NULL DEFAULT '',
  last_name TEXT NOT NULL DEFAULT '',
  email TEXT NOT NULL DEFAULT '',
  email_key TEXT NOT NULL DEFAULT '',
  phone TEXT NOT NULL DEFAULT '',
  job_title TEXT NOT NULL DEFAULT '',
  city TEXT NOT NULL DEFAULT '',
  country TEXT NOT NULL DEFAULT '',
  language TEXT NOT NULL DEFAULT '',
  time_zone TEXT NOT NULL DEFAULT '',
  company_id INTEGER REFERENCES companies(id),
  company_name TEXT NOT NULL DEFAULT '',
  lead_status TEXT NOT NULL DEFAULT '',
  lead_source TEXT NOT NULL DEFAULT '',
  department TEXT NOT NULL DEFAULT '',
  contact_since TEXT NOT NULL DEFAULT '',
  owner_id INTEGER REFERENCES users(id),
  own TEXT NOT NULL DEFAULT '{}',
  opted_out_at DATETIME,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  version INTEGER NOT NULL DEFAULT 1,
  sort_name TEXT NOT NULL DEFAULT '',
  -- of the latest letter that was sent, kept up by the store
  last_letter_at DATETIME,
  last_subject TEXT NOT NULL DEFAULT ''
);
CREATE INDEX people_email ON people(email_key);
CREATE INDEX people_sort ON people(sort_name, id);
CREATE INDEX people_kind_sort ON people(kind, sort_name, id);
CREATE INDEX people_last ON people(last_letter_at, id);
CREATE INDEX people_created ON people(created_at, id);
CREATE INDEX people_company ON people(company_id);
-- What people search in, kept beside the record by the store.
CREATE VIRTUAL TABLE people_find USING fts5(words, tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2 3', detail = none, columnsize = 0);
CREATE TABLE deals (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  company_id INTEGER REFERENCES companies(id),
  main_contact_id INTEGER REFERENCES people(id),
  stage TEXT NOT NULL,
  amount_minor INTEGER NOT NULL DEFAULT 0,
  currency TEXT NOT NULL DEFAULT 'EUR',
  close_date TEXT NOT NULL DEFAULT '',
  owner_id INTEGER REFERENCES users(id),
  own TEXT NOT NULL DEFAULT '{}',
  created_at DATETIME NOT NULL
);
CREATE INDEX deals_contact ON deals(main_contact_id);
CREATE TABLE deal_contacts (
  deal_id INTEGER NOT NULL REFERENCES deals(id),
  person_id INTEGER NOT NULL REFERENCES people(id),
  PRIMARY KEY (deal_id, person_id)
) WITHOUT ROWID;
CREATE TABLE templates (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL,
  when_to_use TEXT NOT NULL DEFAULT '',
  subject TEXT NOT NULL,
  body TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('draft', 'ready', 'withdrawn')),
  owner_id INTEGER NOT NULL REFERENCES users(id),
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  updated_by INTEGER NOT NULL REFERENCES users(id)
);
CREATE TABLE letters (
  id INTEGER PRIMARY KEY,
  person_id INTEGER NOT NULL REFERENCES people(id),
  company_id INTEGER REFERENCES companies(id),
  deal_id INTEGER REFERENCES deals(id),
  template_id INTEGER REFERENCES templates(id),
  template_version INTEGER,
  sender_id INTEGER NOT NULL REFERENCES users(id),
  state TEXT NOT NULL CHECK (state IN ('draft', 'waiting', 'sending', 'sent', 'refused', 'unsure', 'cancelled')),
  reason TEXT NOT NULL DEFAULT '',
  to_name TEXT NOT NULL,
  to_email TEXT NOT NULL,
  from_name TEXT NOT NULL,
  from_email TEXT NOT NULL,
  subject TEXT NOT NULL,
  body TEXT NOT NULL,
  subject_line TEXT NOT NULL DEFAULT '',
  version INTEGER NOT NULL DEFAULT 1,
  attempts INTEGER NOT NULL DEFAULT 0,
  message_id TEXT NOT NULL DEFAULT '',
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  queued_at DATETIME,
  due_at DATETIME,
  handed_over_at DATETIME,
  sent_at DATETIME
);
CREATE INDEX letters_due ON letters(state, due_at);
CREATE INDEX letters_template ON letters(template_id, sent_at);
CREATE INDEX letters_person ON letters(person_id);
CREATE INDEX letters_sender ON letters(sender_id, state, updated_at);
-- The bytes as they were handed over, composed once.
CREATE TABLE letter_bytes (
  letter_id INTEGER PRIMARY KEY REFERENCES letters(id) ON DELETE CASCADE,
  bytes BLOB NOT NULL
);
CREATE TABLE history (
  id INTEGER PRIMARY KEY,
  person_id INTEGER REFERENCES people(id),
  company_id INTEGER REFERENCES companies(id),
  deal_id INTEGER REFERENCES deals(id),
  letter_id INTEGER REFERENCES letters(id) ON DELETE CASCADE,
  user_id INTEGER REFERENCES users(id),
  kind TEXT NOT NULL,
  text TEXT NOT NULL DEFAULT '',
  at DATETIME NOT NULL
);
CREATE INDEX history_person ON history(person_id, at DESC, id DESC);
CREATE INDEX history_letter ON history(letter_id);
-- What arrived at the post office that ships with the program.
CREATE TABLE post_letters (
  id INTEGER PRIMARY KEY,
  mailbox TEXT NOT NULL,
  sender TEXT NOT NULL,
  subject TEXT NOT NULL,
  arrived_at DATETIME NOT NULL,
  bytes BLOB NOT NULL
);
CREATE INDEX post_letters_mailbox ON post_letters(mailbox, arrived_at DESC);
CREATE TABLE sessions (
  token TEXT PRIMARY KEY,
  data BLOB NOT NULL,
  expiry REAL NOT NULL
);
CREATE INDEX sessions_expiry ON sessions(expiry);

-- +goose Down
SELECT 1;
