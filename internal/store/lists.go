package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

const listColumns = `l.id, l.name, l.filter, l.sort, l.down, l.columns, l.owner_id, l.shared, l.created_at, l.deleted_at, u.first_name || ' ' || u.last_name AS owner`

// Lists gives the lists of a user and those that are shared, by name.
func (s *Store) Lists(ctx context.Context, userID int64) ([]domain.List, error) {
	list := []domain.List{}
	err := s.list(ctx, "list lists", &list, `SELECT `+listColumns+` FROM lists l JOIN users u ON u.id = l.owner_id
		WHERE l.deleted_at IS NULL AND (l.owner_id = ? OR l.shared) ORDER BY lower(l.name), l.id`, userID)
	return list, err
}

// List gives a list, also a deleted one.
func (s *Store) List(ctx context.Context, id int64) (l domain.List, err error) {
	err = s.get(ctx, "load list", &l, `SELECT `+listColumns+` FROM lists l JOIN users u ON u.id = l.owner_id WHERE l.id = ?`, id)
	return l, err
}

// AddList stores a list.
func (s *Store) AddList(ctx context.Context, l domain.List) (int64, error) {
	return s.add(ctx, "add list", `INSERT INTO lists (name, filter, sort, down, columns, owner_id, shared, created_at) VALUES (:name, :filter, :sort, :down, :columns, :owner_id, :shared, :created_at)`, l)
}

// UpdateList stores name, filter, order and who sees a list.
func (s *Store) UpdateList(ctx context.Context, l domain.List) error {
	_, err := s.change(ctx, "store list", `UPDATE lists SET name = :name, filter = :filter, sort = :sort, down = :down, columns = :columns, shared = :shared WHERE id = :id`, l)
	return err
}

// DeleteList marks a list as deleted or, with nil, puts it back; or ErrNotFound.
func (s *Store) DeleteList(ctx context.Context, id int64, at *time.Time) error {
	return s.mark(ctx, "lists", id, at)
}
