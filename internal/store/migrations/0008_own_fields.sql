-- +goose Up
-- Own fields that were deleted stay for the values that records have.
ALTER TABLE own_fields ADD COLUMN deleted_at DATETIME;

-- +goose Down
SELECT 1;
