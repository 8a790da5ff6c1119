-- The wordings of a template in other languages: each is a template of its own that
-- has the name, the note, the tags, the folder and the rights of another one.
-- +goose Up
ALTER TABLE templates ADD COLUMN sister_of INTEGER REFERENCES templates(id);
CREATE INDEX templates_sisters ON templates(sister_of) WHERE sister_of IS NOT NULL;

-- +goose Down
SELECT 1;
