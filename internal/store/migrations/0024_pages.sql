-- The page of a letter that came in, cleaned once; cleaned_by is the edition of the rules.
-- +goose Up
CREATE TABLE incoming_pages (
	incoming_id INTEGER PRIMARY KEY REFERENCES incoming(id) ON DELETE CASCADE,
	page TEXT NOT NULL,
	cleaned_by INTEGER NOT NULL
);

-- +goose Down
SELECT 1;
