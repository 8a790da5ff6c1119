-- +goose Up
-- The wording of a letter that its writer may not change, as it was merged.
ALTER TABLE letters ADD COLUMN fixed TEXT NOT NULL DEFAULT '[]';

-- +goose Down
SELECT 1;
