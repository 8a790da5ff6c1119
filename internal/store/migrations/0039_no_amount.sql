-- An amount of 0 is one; a deal may also have none.
-- +goose Up
ALTER TABLE deals ADD COLUMN zero_given INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT 1;
