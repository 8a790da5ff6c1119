-- +goose Up
-- Values that look like none (n/a, Test) and of which somebody said that they
-- are right, by field path.
ALTER TABLE people ADD COLUMN said_right TEXT NOT NULL DEFAULT '{}';

-- +goose Down
SELECT 1;
