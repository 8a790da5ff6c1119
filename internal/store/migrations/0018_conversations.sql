-- +goose Up
-- The first letter of the conversation that a letter belongs to; without one it begins its own.
ALTER TABLE letters ADD COLUMN thread_id INTEGER;
DROP INDEX history_back;
CREATE INDEX history_back ON history(letter_id, kind, machine, link_id, at);
DROP INDEX history_user;
DROP INDEX history_letter;

-- +goose Down
SELECT 1;
