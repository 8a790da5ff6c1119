-- Standing orders: rules that act by themselves, and what they did.
-- +goose Up
CREATE TABLE orders (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  name TEXT NOT NULL,
  is_on INTEGER NOT NULL DEFAULT 0,
  said TEXT NOT NULL DEFAULT '{}',       -- JSON: what it acts on, whom it is for, what it does
  from_event INTEGER NOT NULL DEFAULT 0, -- changes of records up to here are not acted on
  from_entry INTEGER NOT NULL DEFAULT 0, -- nor entries of the history
  last_day INTEGER NOT NULL DEFAULT 0,   -- the day that dates were last looked at for
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  deleted_at DATETIME
);

CREATE TABLE order_log (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  order_id INTEGER NOT NULL REFERENCES orders(id),
  event TEXT NOT NULL,             -- which one it acted on, such as record:12
  person_id INTEGER REFERENCES people(id),
  deal_id INTEGER REFERENCES deals(id),
  result TEXT NOT NULL,            -- done, waiting, left, failed
  text TEXT NOT NULL DEFAULT '',   -- what it did, or why not
  letter_id INTEGER REFERENCES letters(id),
  at DATETIME NOT NULL,
  UNIQUE (order_id, event)
);
CREATE INDEX order_log_record ON order_log(order_id, person_id, at);
CREATE INDEX order_log_letter ON order_log(letter_id) WHERE letter_id IS NOT NULL;

ALTER TABLE letters ADD COLUMN order_id INTEGER REFERENCES orders(id);
CREATE INDEX letters_order ON letters(order_id, state) WHERE order_id IS NOT NULL;

-- A switch that stops all of them.
CREATE TABLE orders_stopped (id INTEGER PRIMARY KEY CHECK (id = 1), by_id INTEGER NOT NULL REFERENCES users(id), at DATETIME NOT NULL);

INSERT INTO read_marks SELECT 'orders: history', coalesce(max(id), 0) FROM history;
INSERT INTO read_marks SELECT 'orders: records', coalesce(max(id), 0) FROM record_events;
CREATE INDEX history_kind_at ON history(kind, at) WHERE kind IN ('replied', 'clicked', 'answered');

-- +goose Down
SELECT 1;
