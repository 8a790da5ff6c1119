-- An amount of 0 is one; a deal may also have none.
-- +goose Up
ALTER TABLE deals ADD COLUMN zero_given INTEGER NOT NULL DEFAULT 0;

-- What becomes of an amount is told as before; one that there is not is told as nothing.
DROP TRIGGER deals_event_changed;
-- +goose StatementBegin
CREATE TRIGGER deals_event_changed AFTER UPDATE OF name, stage, amount_minor, zero_given, currency, close_date, owner_id, own, company_id, main_contact_id, deleted_at ON deals BEGIN
  INSERT INTO record_events (kind, deal_id, path, was, value)
    SELECT 'changed', NEW.id, x.path, coalesce(x.was, ''), coalesce(x.value, '') FROM (
      SELECT 'deal.name' AS path, OLD.name AS was, NEW.name AS value
      UNION ALL SELECT 'deal.stage', OLD.stage, NEW.stage
      UNION ALL SELECT 'deal.amount', CASE WHEN OLD.amount_minor <> 0 OR OLD.zero_given THEN OLD.amount_minor || ' ' || OLD.currency END, CASE WHEN NEW.amount_minor <> 0 OR NEW.zero_given THEN NEW.amount_minor || ' ' || NEW.currency END
      UNION ALL SELECT 'deal.close_date', OLD.close_date, NEW.close_date
      UNION ALL SELECT 'deal.owner', OLD.owner_id, NEW.owner_id
      UNION ALL SELECT 'deal.main_contact', OLD.main_contact_id, NEW.main_contact_id) x WHERE x.was IS NOT x.value;
  INSERT INTO record_events (kind, deal_id, path, was, value)
    SELECT 'changed', NEW.id, k.key, coalesce(o.value, ''), coalesce(n.value, '')
    FROM (SELECT key FROM json_each(OLD.own) UNION SELECT key FROM json_each(NEW.own)) k
    LEFT JOIN json_each(OLD.own) o ON o.key = k.key LEFT JOIN json_each(NEW.own) n ON n.key = k.key
    WHERE OLD.own IS NOT NEW.own AND o.value IS NOT n.value;
  INSERT INTO record_events (kind, deal_id) SELECT 'deleted', NEW.id WHERE OLD.deleted_at IS NULL AND NEW.deleted_at IS NOT NULL;
END;
-- +goose StatementEnd

-- +goose Down
SELECT 1;
