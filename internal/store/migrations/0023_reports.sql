-- What keeps letters from an address names the report that said so.
-- +goose Up
ALTER TABLE bad_addresses ADD COLUMN incoming_id INTEGER REFERENCES incoming(id);
ALTER TABLE opt_outs ADD COLUMN incoming_id INTEGER REFERENCES incoming(id);
CREATE INDEX bad_addresses_report ON bad_addresses(incoming_id) WHERE incoming_id IS NOT NULL;
CREATE INDEX opt_outs_report ON opt_outs(incoming_id) WHERE incoming_id IS NOT NULL;

-- +goose Down
SELECT 1;
