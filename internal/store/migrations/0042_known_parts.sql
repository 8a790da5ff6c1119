-- What somebody knows of the wording of a plan or an order that goes out in their name.
-- +goose Up
CREATE TABLE known_parts (
  user_id INTEGER NOT NULL REFERENCES users(id),
  thing TEXT NOT NULL, -- plan:12 or order:3
  parts TEXT NOT NULL,
  PRIMARY KEY (user_id, thing)
) WITHOUT ROWID;

-- +goose Down
SELECT 1;
