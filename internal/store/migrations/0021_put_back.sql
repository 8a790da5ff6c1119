-- What was taken away stays where it can be put back from: an address that may be
-- written to again, and a folder with what stood in it (as JSON of app.Held).
-- +goose Up
ALTER TABLE opt_outs ADD COLUMN deleted_at DATETIME;
ALTER TABLE bad_addresses ADD COLUMN deleted_at DATETIME;
ALTER TABLE folders ADD COLUMN held TEXT NOT NULL DEFAULT '{}';

-- +goose Down
SELECT 1;
