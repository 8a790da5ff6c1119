-- +goose Up
-- The language of a team's letters to people of whom none is known.
ALTER TABLE teams ADD COLUMN language TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
