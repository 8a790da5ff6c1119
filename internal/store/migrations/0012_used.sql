-- +goose Up
-- How often templates were used is counted without letters to colleagues.
CREATE INDEX letters_used ON letters(template_id, sent_at) WHERE internal = 0;

-- +goose Down
SELECT 1;
