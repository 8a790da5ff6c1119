package plans

import (
	"context"
	"strings"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/database"
)

const orderColumns = `id, owner_id, name, is_on, said, from_event, from_entry, last_day, version, created_at, updated_at, deleted_at`

// AddOrder stores a standing order.
func (s *Table) AddOrder(ctx context.Context, o domain.Order) (int64, error) {
	return s.db.Add(ctx, "add order", `INSERT INTO orders (owner_id, name, said, version, created_at, updated_at) VALUES (:owner_id, :name, :said, :version, :created_at, :updated_at)`, o)
}

// Order gives a standing order, also a deleted one; or ErrNotFound.
func (s *Table) Order(ctx context.Context, id int64) (o domain.Order, err error) {
	err = s.db.Get(ctx, "load order", &o, `SELECT `+orderColumns+` FROM orders WHERE id = ?`, id)
	return o, err
}

// Orders gives the standing orders that are not deleted, by name; or only those that are on.
func (s *Table) Orders(ctx context.Context, on bool) ([]domain.Order, error) {
	list := []domain.Order{}
	err := s.db.Select(ctx, "list orders", &list, `SELECT `+orderColumns+` FROM orders WHERE deleted_at IS NULL AND (is_on OR NOT ?) ORDER BY name COLLATE NOCASE, id`, on)
	return list, err
}

// UpdateOrder stores a standing order as version o.Version+1, or gives ErrStale.
func (s *Table) UpdateOrder(ctx context.Context, o domain.Order) error {
	hit, err := s.db.Change(ctx, "store order", `UPDATE orders SET name = :name, is_on = :is_on, said = :said, from_event = :from_event, from_entry = :from_entry, last_day = :last_day,
		updated_at = :updated_at, deleted_at = :deleted_at, version = version + 1 WHERE id = :id AND version = :version`, o)
	if err == nil && !hit {
		return domain.ErrStale
	}
	return err
}

// SetOrderDay notes the day that the dates of an order were last looked at for.
func (s *Table) SetOrderDay(ctx context.Context, id int64, day int) error {
	_, err := s.db.Exec(ctx, "note day of order", `UPDATE orders SET last_day = ? WHERE id = ?`, day, id)
	return err
}

// LogOrder notes what came of an order; of one event only once.
func (s *Table) LogOrder(ctx context.Context, e domain.OrderEntry) error {
	_, err := s.db.Add(ctx, "note what an order did", `INSERT INTO order_log (order_id, event, person_id, deal_id, result, text, letter_id, at) VALUES (:order_id, :event, :person_id, :deal_id, :result, :text, :letter_id, :at)`, e)
	return err
}

// Acted tells whether an order acted on an event already, and how often on a record since a time.
func (s *Table) Acted(ctx context.Context, orderID int64, event string, personID, dealID *int64, since time.Time) (was bool, times int, err error) {
	if err = s.db.Get(ctx, "look what an order did", &was, `SELECT EXISTS (SELECT 1 FROM order_log WHERE order_id = ? AND event = ?)`, orderID, event); err != nil || was {
		return was, 0, err
	}
	err = s.db.Get(ctx, "look how often an order acted", &times, `SELECT count(*) FROM order_log WHERE order_id = ? AND person_id IS ? AND deal_id IS ? AND at > ? AND result IN ('done', 'waiting')`, orderID, personID, dealID, since)
	return false, times, err
}

const orderEntries = `SELECT g.id, g.order_id, g.event, g.person_id, g.deal_id, g.result, g.text, g.letter_id, g.at, o.name AS order_name,
	coalesce(nullif(trim(p.first_name || ' ' || p.last_name), ''), p.email, d.name, '') AS person
	FROM order_log g JOIN orders o ON o.id = g.order_id LEFT JOIN people p ON p.id = g.person_id LEFT JOIN deals d ON d.id = g.deal_id`

// OrderLog gives what an order did, the latest first.
func (s *Table) OrderLog(ctx context.Context, orderID int64, limit int) ([]domain.OrderEntry, error) {
	list := []domain.OrderEntry{}
	err := s.db.Select(ctx, "list what an order did", &list, orderEntries+` WHERE g.order_id = ? ORDER BY g.id DESC LIMIT ?`, orderID, limit)
	return list, err
}

// OrderDrafts gives the letters of a user's orders that wait to be proofread, the latest first.
func (s *Table) OrderDrafts(ctx context.Context, userID int64, limit int) ([]domain.OrderEntry, error) {
	list := []domain.OrderEntry{}
	err := s.db.Select(ctx, "list letters of orders", &list, orderEntries+` JOIN letters l ON l.id = g.letter_id
		WHERE g.result = 'waiting' AND l.sender_id = ? AND l.state = 'draft' AND l.deleted_at IS NULL ORDER BY g.id DESC LIMIT ?`, userID, limit)
	return list, err
}

// OrderCounts tells how often each order acted since a time.
func (s *Table) OrderCounts(ctx context.Context, since time.Time) (map[int64]int, error) {
	var rows []struct {
		OrderID int64 `db:"order_id"`
		N       int   `db:"n"`
	}
	err := s.db.Select(ctx, "count what orders did", &rows, `SELECT order_id, count(*) AS n FROM order_log WHERE at > ? AND result IN ('done', 'waiting') GROUP BY order_id`, since)
	out := map[int64]int{}
	for _, r := range rows {
		out[r.OrderID] = r.N
	}
	return out, err
}

// OrderLetters counts the letters of standing orders that wait in the outbox.
func (s *Table) OrderLetters(ctx context.Context) (n int, err error) {
	err = s.db.Get(ctx, "count letters of orders", &n, `SELECT count(*) FROM letters WHERE order_id IS NOT NULL AND state = 'waiting'`)
	return n, err
}

// StopOrders stops all standing orders, or with nil lets them act again.
func (s *Table) StopOrders(ctx context.Context, by *domain.OrdersStopped) error {
	if by == nil {
		_, err := s.db.Exec(ctx, "let orders act", `DELETE FROM orders_stopped`)
		return err
	}
	_, err := s.db.Exec(ctx, "stop orders", `INSERT OR IGNORE INTO orders_stopped (id, by_id, at) VALUES (1, ?, ?)`, by.ByID, by.At)
	return err
}

// OrdersStopped tells who stopped all orders, nil when nobody did.
func (s *Table) OrdersStopped(ctx context.Context) (*domain.OrdersStopped, error) {
	var list []domain.OrdersStopped
	err := s.db.Select(ctx, "look whether orders are stopped", &list, `SELECT s.by_id, s.at, u.first_name || ' ' || u.last_name AS by_name FROM orders_stopped s JOIN users u ON u.id = s.by_id`)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	return &list[0], nil
}

// LastEvents gives the number of the last change of a record, and of the last entry of the history.
func (s *Table) LastEvents(ctx context.Context) (event, entry int64, err error) {
	if err = s.db.Get(ctx, "last change", &event, `SELECT coalesce(max(id), 0) FROM record_events`); err == nil {
		err = s.db.Get(ctx, "last entry", &entry, `SELECT coalesce(max(id), 0) FROM history`)
	}
	return event, entry, err
}

// RecordEventsSince gives what changed on records since a time, the latest first: of a kind, and
// with a path only of that field.
func (s *Table) RecordEventsSince(ctx context.Context, kind, path string, deals bool, since time.Time, limit int) ([]domain.RecordEvent, error) {
	list := []domain.RecordEvent{}
	err := s.db.Select(ctx, "list changes", &list, `SELECT id, kind, person_id, deal_id, path, was, value, at FROM record_events
		WHERE at >= ? AND kind = ? AND (? = '' OR path = ? OR path LIKE ?) AND (deal_id IS NOT NULL) = ? ORDER BY id DESC LIMIT ?`, since, kind, path, path, "%."+afterDot(path), deals, limit)
	return list, err
}

func afterDot(path string) string {
	_, key, _ := strings.Cut(path, ".")
	return key
}

// ChangesKnownSince tells from when on changes of records are known, nil when none are.
func (s *Table) ChangesKnownSince(ctx context.Context) (*time.Time, error) {
	var list []time.Time
	err := s.db.Select(ctx, "look for the first change", &list, `SELECT at FROM record_events WHERE kind = 'changed' AND at IS NOT NULL ORDER BY id LIMIT 1`)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	return &list[0], nil
}

const eventColumns = `SELECT h.id, h.kind, h.person_id, h.deal_id, h.at FROM history h WHERE h.person_id IS NOT NULL AND NOT h.machine`

// EventsAfter gives replies, clicks and answers behind an entry of the history, and the last
// entry that was looked at.
func (s *Table) EventsAfter(ctx context.Context, after int64, limit int) (list []domain.HistoryEvent, last int64, err error) {
	if err = s.db.Get(ctx, "last entry", &last, `SELECT coalesce(max(id), 0) FROM history`); err != nil || last <= after {
		return nil, last, err
	}
	err = s.db.Select(ctx, "list what people did", &list, eventColumns+` AND h.id > ? AND h.id <= ? AND h.kind IN ('replied', 'clicked', 'answered') ORDER BY h.id LIMIT ?`, after, last, limit)
	if len(list) == limit {
		last = list[limit-1].ID
	}
	return list, last, err
}

// EventsSince gives those of a kind since a time, the latest first.
func (s *Table) EventsSince(ctx context.Context, kind string, since time.Time, limit int) ([]domain.HistoryEvent, error) {
	list := []domain.HistoryEvent{}
	err := s.db.Select(ctx, "list what people did", &list, eventColumns+` AND h.kind = ? AND h.at >= ? ORDER BY h.id DESC LIMIT ?`, kind, since, limit)
	return list, err
}

// dateColumns are where dates of records stand, beside those of own fields.
var dateColumns = map[string]string{
	"contact.since": "contact_since", "person.basis_since": "basis_since", "lead.created": "substr(created_at, 1, 10)",
	"deal.close_date": "close_date", "deal.created": "substr(created_at, 1, 10)",
}

// Dated gives the records, people or deals, of which a date is like one of some, such as
// 2026-12-01 or of every year ____-12-01.
func (s *Table) Dated(ctx context.Context, deals bool, path string, like []string) ([]int64, error) {
	table, column, key := "people", dateColumns[path], any(nil)
	if deals {
		table = "deals"
	}
	if column == "" {
		column, key = `json_extract(own, ?)`, `$."`+strings.ReplaceAll(path, `"`, "")+`"`
	} else {
		column = `coalesce(` + column + `, ?)`
	}
	packed, err := database.Packed(like)
	if err != nil {
		return nil, err
	}
	var ids []int64
	err = s.db.Select(ctx, "look for dates", &ids, `SELECT id FROM `+table+` WHERE deleted_at IS NULL AND EXISTS (SELECT 1 FROM json_each(?) WHERE `+column+` LIKE value) ORDER BY id`, packed, key)
	return ids, err
}

// onTheirWay are the states of letters that went, or are about to.
const onTheirWay = `l.state IN ('waiting', 'sending', 'sent', 'unsure') AND NOT l.internal AND l.deleted_at IS NULL`

// OrderLettersTo counts the letters that standing orders sent to somebody since a time.
func (s *Table) OrderLettersTo(ctx context.Context, personID int64, since time.Time) (int, error) {
	n := 0
	err := s.db.Get(ctx, "count letters of orders", &n, `SELECT count(*) FROM letters l WHERE l.person_id = ? AND l.order_id IS NOT NULL AND `+onTheirWay+` AND coalesce(l.sent_at, l.updated_at) >= ?`, personID, since)
	return n, err
}

// HadTemplate tells when somebody last had a letter of a template since a time, nil never.
func (s *Table) HadTemplate(ctx context.Context, personID, templateID int64, since time.Time) (*time.Time, error) {
	var list []struct {
		SentAt    *time.Time `db:"sent_at"`
		UpdatedAt time.Time  `db:"updated_at"`
	}
	err := s.db.Select(ctx, "look for letters of a template", &list, `SELECT l.sent_at, l.updated_at FROM letters l WHERE l.person_id = ? AND l.template_id = ? AND `+onTheirWay+` AND coalesce(l.sent_at, l.updated_at) >= ?
		ORDER BY l.id DESC LIMIT 1`, personID, templateID, since)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	if at := list[0].SentAt; at != nil {
		return at, nil
	}
	return &list[0].UpdatedAt, nil
}
