-- Indexes hold only the rows that somebody looks for by them.
-- +goose Up
DROP INDEX history_back;
CREATE INDEX history_back ON history(letter_id, kind, machine, link_id, at) WHERE letter_id IS NOT NULL;
DROP INDEX people_company;
CREATE INDEX people_company ON people(company_id) WHERE company_id IS NOT NULL;
-- Who adds people says so once for all of them.
DROP TRIGGER people_added;

-- +goose Down
SELECT 1;
