-- A number that rises whenever what is told of people may have changed: neither a clock
-- that is set back nor another program can hide a change from it.
-- +goose Up
CREATE TABLE people_edition (id INTEGER PRIMARY KEY CHECK (id = 1), n INTEGER NOT NULL);
INSERT INTO people_edition VALUES (1, 1);
-- +goose StatementBegin
CREATE TRIGGER people_added AFTER INSERT ON people BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER people_changed AFTER UPDATE OF version, kind, sort_name, company_sort ON people BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER people_gone AFTER DELETE ON people BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER companies_changed AFTER UPDATE ON companies BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER deals_added AFTER INSERT ON deals BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER deals_changed AFTER UPDATE ON deals BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
-- +goose StatementBegin
CREATE TRIGGER deals_gone AFTER DELETE ON deals BEGIN UPDATE people_edition SET n = n + 1; END;
-- +goose StatementEnd
DROP INDEX people_updated;

-- +goose Down
SELECT 1;
