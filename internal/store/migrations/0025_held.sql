-- How many hand-overs the database knows of, and why nothing is sent.
-- +goose Up
CREATE TABLE outbox_state (
	id INTEGER PRIMARY KEY CHECK (id = 1),
	handed INTEGER NOT NULL DEFAULT 0,
	held TEXT NOT NULL DEFAULT '',
	held_at DATETIME
);
INSERT INTO outbox_state (id) VALUES (1);

-- +goose Down
SELECT 1;
