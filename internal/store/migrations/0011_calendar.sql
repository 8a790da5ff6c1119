-- +goose Up
-- The token of a user's private calendar address.
ALTER TABLE users ADD COLUMN calendar_token TEXT NOT NULL DEFAULT '';

-- +goose Down
SELECT 1;
