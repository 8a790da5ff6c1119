-- Runs that were begun while the clock was ahead are looked for whenever plans work.
-- +goose Up
CREATE INDEX runs_from ON runs(from_at) WHERE state = 'going';

-- +goose Down
SELECT 1;
