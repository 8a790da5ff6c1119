-- +goose Up
-- What the list of the library is made of, without the wordings beside it.
CREATE INDEX templates_list ON templates(name COLLATE NOCASE, id, owner_id, state, folder_id, version, rights) WHERE deleted_at IS NULL;

-- +goose Down
SELECT 1;
