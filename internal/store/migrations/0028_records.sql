-- Records are deleted by a mark, so that they can be put back and what was written stays.
-- The lists are read from indexes that hold only what is there.
-- +goose Up
ALTER TABLE people ADD COLUMN deleted_at DATETIME;
ALTER TABLE companies ADD COLUMN deleted_at DATETIME;
ALTER TABLE deals ADD COLUMN deleted_at DATETIME;
DROP INDEX people_sort;
DROP INDEX people_kind_sort;
DROP INDEX people_last;
DROP INDEX people_created;
DROP INDEX people_company_sort;
CREATE INDEX people_sort ON people(sort_name, id) WHERE deleted_at IS NULL;
CREATE INDEX people_kind_sort ON people(kind, sort_name, id) WHERE deleted_at IS NULL;
CREATE INDEX people_last ON people(last_letter_at, id) WHERE deleted_at IS NULL;
CREATE INDEX people_created ON people(created_at, id) WHERE deleted_at IS NULL;
CREATE INDEX people_company_sort ON people(company_sort, id) WHERE deleted_at IS NULL;
CREATE INDEX companies_list ON companies(name_key, id) WHERE deleted_at IS NULL;
CREATE INDEX deals_company ON deals(company_id) WHERE deleted_at IS NULL;
CREATE INDEX deals_others ON deal_contacts(person_id);

-- +goose Down
SELECT 1;
