-- Lists are filtered and sorted by what people filter and sort by most. Values of other letters
-- than ASCII are compared as people do, one by one; they have an index of their own.
-- +goose Up
CREATE INDEX people_by_city ON people(lower(trim(city)), sort_name, id) WHERE deleted_at IS NULL AND trim(city) <> '';
CREATE INDEX people_by_country ON people(lower(trim(country)), sort_name, id) WHERE deleted_at IS NULL AND trim(country) <> '';
CREATE INDEX people_by_first_name ON people(lower(trim(first_name)), sort_name, id) WHERE deleted_at IS NULL AND trim(first_name) <> '';
CREATE INDEX people_by_job_title ON people(lower(trim(job_title)), sort_name, id) WHERE deleted_at IS NULL AND trim(job_title) <> '';
CREATE INDEX people_odd_city ON people(city) WHERE deleted_at IS NULL AND city GLOB '*[^ -~]*';
CREATE INDEX people_odd_country ON people(country) WHERE deleted_at IS NULL AND country GLOB '*[^ -~]*';
CREATE INDEX people_odd_first_name ON people(first_name) WHERE deleted_at IS NULL AND first_name GLOB '*[^ -~]*';
CREATE INDEX people_odd_job_title ON people(job_title) WHERE deleted_at IS NULL AND job_title GLOB '*[^ -~]*';

-- +goose Down
SELECT 1;
