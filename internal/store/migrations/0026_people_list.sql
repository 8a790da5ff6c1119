-- The list of people is read from its indexes, also by company.
-- +goose Up
ALTER TABLE people ADD COLUMN company_sort TEXT NOT NULL DEFAULT '';
UPDATE people SET company_sort = lower(CASE kind WHEN 'lead' THEN company_name ELSE coalesce((SELECT c.name FROM companies c WHERE c.id = people.company_id), '') END);
CREATE INDEX people_company_sort ON people(company_sort, id);
CREATE INDEX people_updated ON people(updated_at);

-- +goose Down
SELECT 1;
