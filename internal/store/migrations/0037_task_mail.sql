-- Users who are reminded of tasks by email.
-- +goose Up
ALTER TABLE users ADD COLUMN task_mail INTEGER NOT NULL DEFAULT 0;

-- +goose Down
SELECT 1;
