-- +goose Up
-- How many seconds sending can be taken back.
ALTER TABLE users ADD COLUMN hold_seconds INTEGER NOT NULL DEFAULT 10;

-- +goose Down
SELECT 1;
