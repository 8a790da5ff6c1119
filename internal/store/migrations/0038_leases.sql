-- Steps of plans that are in hand are found at once.
-- +goose Up
CREATE INDEX runs_leased ON runs(lease_until) WHERE lease_until IS NOT NULL;

-- +goose Down
SELECT 1;
