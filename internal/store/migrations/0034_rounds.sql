-- Rounds: one template to many people, one letter each. Why somebody may be written to.
-- +goose Up
ALTER TABLE people ADD COLUMN basis TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN basis_since TEXT NOT NULL DEFAULT '';
ALTER TABLE people ADD COLUMN basis_source TEXT NOT NULL DEFAULT '';

CREATE TABLE recipes (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  name TEXT NOT NULL,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  list_id INTEGER NOT NULL REFERENCES lists(id),
  said TEXT NOT NULL, -- JSON: templates, what to look at, answers, what happens afterwards
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  deleted_at DATETIME
);

CREATE TABLE rounds (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  name TEXT NOT NULL,
  state TEXT NOT NULL DEFAULT 'open', -- open, sending, paused, done, stopped
  reason TEXT NOT NULL DEFAULT '',    -- why it is paused
  list_id INTEGER REFERENCES lists(id),
  filter TEXT NOT NULL DEFAULT '',    -- of the list when the round began
  recipe_id INTEGER REFERENCES recipes(id),
  template_id INTEGER REFERENCES templates(id),
  template_version INTEGER NOT NULL DEFAULT 0,
  seen_version INTEGER NOT NULL DEFAULT 0, -- of the template, that the sender knows of
  said TEXT NOT NULL DEFAULT '{}',    -- JSON: wording, envelope, answers, when, what happens afterwards
  doubles INTEGER NOT NULL DEFAULT 0, -- how many were picked twice
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  began_at DATETIME,                  -- when it was sent
  ended_at DATETIME
);
CREATE INDEX rounds_owner ON rounds(owner_id, updated_at DESC);
CREATE INDEX rounds_state ON rounds(state);

CREATE TABLE round_people (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  round_id INTEGER NOT NULL REFERENCES rounds(id),
  position INTEGER NOT NULL,
  person_id INTEGER NOT NULL REFERENCES people(id),
  state TEXT NOT NULL DEFAULT 'unknown', -- unknown, ready, gap, changed, aside, skipped, released
  reasons TEXT NOT NULL DEFAULT '[]',
  missing TEXT NOT NULL DEFAULT '[]',
  allowed TEXT NOT NULL DEFAULT '[]',    -- reasons that were overruled
  hard INTEGER NOT NULL DEFAULT 0,
  sum TEXT NOT NULL DEFAULT '',          -- of the words of the letter
  good TEXT NOT NULL DEFAULT '',         -- the sum that was proofread
  template_id INTEGER REFERENCES templates(id), -- another one for this person
  template_version INTEGER NOT NULL DEFAULT 0,
  fills TEXT NOT NULL DEFAULT '{}',      -- what fills gaps and blanks of this letter alone
  letter_id INTEGER REFERENCES letters(id),
  email_key TEXT NOT NULL DEFAULT '',
  checked INTEGER NOT NULL DEFAULT 0,    -- the version of the round that it was checked for
  person_version INTEGER NOT NULL DEFAULT 0,
  go_at DATETIME,                        -- when it is to go
  told TEXT NOT NULL DEFAULT '',         -- why it did not go after all
  after_done INTEGER NOT NULL DEFAULT 0,
  UNIQUE (round_id, person_id)
);
CREATE INDEX round_people_position ON round_people(round_id, position);
CREATE INDEX round_people_state ON round_people(round_id, state, position);
CREATE INDEX round_people_hard ON round_people(round_id, hard DESC, position);
CREATE INDEX round_people_email ON round_people(round_id, email_key);
CREATE INDEX round_people_go ON round_people(round_id, go_at) WHERE go_at IS NOT NULL;
CREATE INDEX round_people_person ON round_people(person_id);
CREATE INDEX round_people_letter ON round_people(letter_id) WHERE letter_id IS NOT NULL;
CREATE INDEX round_people_follow ON round_people(letter_id) WHERE letter_id IS NOT NULL AND after_done = 0;

-- Who came to or went from the list since, and was decided about.
CREATE TABLE round_decided (
  round_id INTEGER NOT NULL REFERENCES rounds(id),
  person_id INTEGER NOT NULL REFERENCES people(id),
  PRIMARY KEY (round_id, person_id)
) WITHOUT ROWID;

ALTER TABLE letters ADD COLUMN round_id INTEGER REFERENCES rounds(id);
CREATE INDEX letters_round ON letters(round_id, state) WHERE round_id IS NOT NULL;

-- +goose Down
SELECT 1;
