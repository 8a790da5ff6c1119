-- A list has its columns; whose somebody's people are is read from an index. Old names of
-- columns in lists are the paths of today. The words that people are found by can be listed.
-- +goose Up
ALTER TABLE lists ADD COLUMN columns TEXT NOT NULL DEFAULT '';
UPDATE lists SET sort = CASE sort WHEN 'name' THEN '' WHEN 'company' THEN 'company.name' WHEN 'last' THEN 'written' WHEN 'added' THEN 'created' ELSE sort END;
CREATE INDEX people_owner_sort ON people(owner_id, sort_name, id) WHERE deleted_at IS NULL;
CREATE INDEX deals_list ON deals(stage, close_date, id) WHERE deleted_at IS NULL;
CREATE VIRTUAL TABLE people_vocab USING fts5vocab(people_find, row);

-- +goose Down
SELECT 1;
