-- Plans: timed series of letters and tasks; who goes through them; what changed on records.
-- +goose Up
CREATE TABLE plans (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  owner_id INTEGER NOT NULL REFERENCES users(id),
  name TEXT NOT NULL,
  when_to_use TEXT NOT NULL DEFAULT '',
  state TEXT NOT NULL DEFAULT 'draft', -- draft, ready, withdrawn
  rights TEXT NOT NULL DEFAULT '{}',
  said TEXT NOT NULL DEFAULT '{}',     -- JSON: the steps
  version INTEGER NOT NULL DEFAULT 1,
  created_at DATETIME NOT NULL,
  updated_at DATETIME NOT NULL,
  updated_by INTEGER NOT NULL REFERENCES users(id),
  deleted_at DATETIME
);

CREATE TABLE runs (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  plan_id INTEGER NOT NULL REFERENCES plans(id),
  person_id INTEGER NOT NULL REFERENCES people(id),
  deal_id INTEGER REFERENCES deals(id),
  owner_id INTEGER NOT NULL REFERENCES users(id),
  state TEXT NOT NULL DEFAULT 'going', -- going, waiting, paused, finished, stopped
  reason TEXT NOT NULL DEFAULT '',     -- why it waits, is paused, was stopped
  said TEXT NOT NULL DEFAULT '{}',     -- JSON: zone and hour of this run, answers to blanks, key values as they were
  step_key INTEGER NOT NULL DEFAULT 0, -- the step that comes next; 0 none
  step_at DATETIME,                    -- when it comes; null unless it is going
  from_at DATETIME NOT NULL,           -- when the step before it came
  not_before DATETIME,                 -- until when somebody is away
  letter_id INTEGER REFERENCES letters(id), -- the letter that waits to be proofread
  last_id INTEGER REFERENCES letters(id),   -- the letter before it
  thread_id INTEGER REFERENCES letters(id), -- the first letter of its conversation
  version INTEGER NOT NULL DEFAULT 1,
  started_at DATETIME NOT NULL,
  ended_at DATETIME,
  lease_until DATETIME                 -- until when a worker has it in hand
);
CREATE INDEX runs_due ON runs(step_at) WHERE state = 'going';
CREATE INDEX runs_plan ON runs(plan_id, state, id);
CREATE INDEX runs_person ON runs(person_id, state);
CREATE INDEX runs_owner ON runs(owner_id, state, step_at);
CREATE INDEX runs_waiting ON runs(letter_id) WHERE letter_id IS NOT NULL;

CREATE TABLE run_steps (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  run_id INTEGER NOT NULL REFERENCES runs(id),
  step_key INTEGER NOT NULL,
  what TEXT NOT NULL,                  -- letter, task, text, skipped
  name TEXT NOT NULL DEFAULT '',       -- of the step as it was
  letter_id INTEGER REFERENCES letters(id),
  task_id INTEGER REFERENCES tasks(id),
  at DATETIME NOT NULL,
  UNIQUE (run_id, step_key)
);

ALTER TABLE letters ADD COLUMN run_id INTEGER REFERENCES runs(id);
CREATE INDEX letters_run ON letters(run_id) WHERE run_id IS NOT NULL;

ALTER TABLE users ADD COLUMN time_zone TEXT NOT NULL DEFAULT '';
ALTER TABLE users ADD COLUMN country TEXT NOT NULL DEFAULT '';

ALTER TABLE tasks ADD COLUMN kind TEXT NOT NULL DEFAULT '';    -- call, visit, note, text, or nothing
ALTER TABLE tasks ADD COLUMN always INTEGER NOT NULL DEFAULT 0; -- one of a letter that stays when an answer comes
ALTER TABLE tasks ADD COLUMN run_id INTEGER REFERENCES runs(id);
ALTER TABLE tasks ADD COLUMN reminded_at DATETIME;
CREATE INDEX tasks_reminding ON tasks(due_at) WHERE done_at IS NULL AND reminded_at IS NULL;

-- What changed on records: runs stop by it, standing orders act on it.
CREATE TABLE record_events (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  kind TEXT NOT NULL, -- created, changed, deleted
  person_id INTEGER,
  deal_id INTEGER,
  path TEXT NOT NULL DEFAULT '',
  was TEXT NOT NULL DEFAULT '',
  value TEXT NOT NULL DEFAULT '',
  at DATETIME -- null until the program has looked
);
CREATE INDEX record_events_undated ON record_events(id) WHERE at IS NULL;
CREATE INDEX record_events_at ON record_events(at);

INSERT INTO record_events (kind, person_id, at) SELECT 'created', id, created_at FROM people ORDER BY created_at, id;
INSERT INTO record_events (kind, deal_id, at) SELECT 'created', id, created_at FROM deals ORDER BY created_at, id;

-- Up to where something was read.
CREATE TABLE read_marks (name TEXT PRIMARY KEY, at_id INTEGER NOT NULL);
INSERT INTO read_marks SELECT 'runs: history', coalesce(max(id), 0) FROM history;
INSERT INTO read_marks SELECT 'runs: records', coalesce(max(id), 0) FROM record_events;

-- +goose StatementBegin
CREATE TRIGGER people_event_created AFTER INSERT ON people BEGIN
  INSERT INTO record_events (kind, person_id, at) VALUES ('created', NEW.id, NEW.created_at);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER people_event_changed AFTER UPDATE OF kind, honorific, first_name, last_name, email, phone, job_title, city, country, language, time_zone, company_id, company_name,
  lead_status, lead_source, department, contact_since, owner_id, own, basis, deleted_at ON people BEGIN
  INSERT INTO record_events (kind, person_id, path, was, value)
    SELECT 'changed', NEW.id, x.path, coalesce(x.was, ''), coalesce(x.value, '') FROM (
      SELECT 'person.kind' AS path, OLD.kind AS was, NEW.kind AS value
      UNION ALL SELECT 'person.honorific', OLD.honorific, NEW.honorific
      UNION ALL SELECT 'person.first_name', OLD.first_name, NEW.first_name
      UNION ALL SELECT 'person.last_name', OLD.last_name, NEW.last_name
      UNION ALL SELECT 'person.email', OLD.email, NEW.email
      UNION ALL SELECT 'person.phone', OLD.phone, NEW.phone
      UNION ALL SELECT 'person.job_title', OLD.job_title, NEW.job_title
      UNION ALL SELECT 'person.city', OLD.city, NEW.city
      UNION ALL SELECT 'person.country', OLD.country, NEW.country
      UNION ALL SELECT 'person.language', OLD.language, NEW.language
      UNION ALL SELECT 'person.time_zone', OLD.time_zone, NEW.time_zone
      UNION ALL SELECT 'person.company', OLD.company_id, NEW.company_id
      UNION ALL SELECT 'lead.company_name', OLD.company_name, NEW.company_name
      UNION ALL SELECT 'lead.status', OLD.lead_status, NEW.lead_status
      UNION ALL SELECT 'lead.source', OLD.lead_source, NEW.lead_source
      UNION ALL SELECT 'contact.department', OLD.department, NEW.department
      UNION ALL SELECT 'contact.since', OLD.contact_since, NEW.contact_since
      UNION ALL SELECT 'person.owner', OLD.owner_id, NEW.owner_id
      UNION ALL SELECT 'person.basis', OLD.basis, NEW.basis) x WHERE x.was IS NOT x.value;
  INSERT INTO record_events (kind, person_id, path, was, value)
    SELECT 'changed', NEW.id, k.key, coalesce(o.value, ''), coalesce(n.value, '')
    FROM (SELECT key FROM json_each(OLD.own) UNION SELECT key FROM json_each(NEW.own)) k
    LEFT JOIN json_each(OLD.own) o ON o.key = k.key LEFT JOIN json_each(NEW.own) n ON n.key = k.key
    WHERE OLD.own IS NOT NEW.own AND o.value IS NOT n.value;
  INSERT INTO record_events (kind, person_id) SELECT 'deleted', NEW.id WHERE OLD.deleted_at IS NULL AND NEW.deleted_at IS NOT NULL;
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER deals_event_created AFTER INSERT ON deals BEGIN
  INSERT INTO record_events (kind, deal_id, at) VALUES ('created', NEW.id, NEW.created_at);
END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER deals_event_changed AFTER UPDATE OF name, stage, amount_minor, currency, close_date, owner_id, own, company_id, main_contact_id, deleted_at ON deals BEGIN
  INSERT INTO record_events (kind, deal_id, path, was, value)
    SELECT 'changed', NEW.id, x.path, coalesce(x.was, ''), coalesce(x.value, '') FROM (
      SELECT 'deal.name' AS path, OLD.name AS was, NEW.name AS value
      UNION ALL SELECT 'deal.stage', OLD.stage, NEW.stage
      UNION ALL SELECT 'deal.amount', OLD.amount_minor || ' ' || OLD.currency, NEW.amount_minor || ' ' || NEW.currency
      UNION ALL SELECT 'deal.close_date', OLD.close_date, NEW.close_date
      UNION ALL SELECT 'deal.owner', OLD.owner_id, NEW.owner_id
      UNION ALL SELECT 'deal.main_contact', OLD.main_contact_id, NEW.main_contact_id) x WHERE x.was IS NOT x.value;
  INSERT INTO record_events (kind, deal_id, path, was, value)
    SELECT 'changed', NEW.id, k.key, coalesce(o.value, ''), coalesce(n.value, '')
    FROM (SELECT key FROM json_each(OLD.own) UNION SELECT key FROM json_each(NEW.own)) k
    LEFT JOIN json_each(OLD.own) o ON o.key = k.key LEFT JOIN json_each(NEW.own) n ON n.key = k.key
    WHERE OLD.own IS NOT NEW.own AND o.value IS NOT n.value;
  INSERT INTO record_events (kind, deal_id) SELECT 'deleted', NEW.id WHERE OLD.deleted_at IS NULL AND NEW.deleted_at IS NOT NULL;
END;
-- +goose StatementEnd

-- +goose Down
SELECT 1;
