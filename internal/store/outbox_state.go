package store

import (
	"context"
	"time"

	"lucidletter/internal/domain"
)

// Handed gives how many tries to hand letters over the database knows of.
func (s *Store) Handed(ctx context.Context) (n int64, err error) {
	err = s.get(ctx, "load state of outbox", &n, `SELECT handed FROM outbox_state WHERE id = 1`)
	return n, err
}

// SetHanded notes that it knows of so many.
func (s *Store) SetHanded(ctx context.Context, n int64) error {
	_, err := s.exec(ctx, "store state of outbox", `UPDATE outbox_state SET handed = ? WHERE id = 1 AND handed <> ?`, n, n)
	return err
}

// Begun tells whether any letter was ever put into the outbox, or a plan or a round would put
// one there.
func (s *Store) Begun(ctx context.Context) (begun bool, err error) {
	err = s.get(ctx, "look whether anything is sent", &begun, `SELECT EXISTS (SELECT 1 FROM letters WHERE state <> 'draft') OR EXISTS (SELECT 1 FROM runs) OR EXISTS (SELECT 1 FROM rounds)`)
	return begun, err
}

// OutboxHold tells why nothing is sent.
func (s *Store) OutboxHold(ctx context.Context) (h domain.OutboxHold, err error) {
	err = s.get(ctx, "load state of outbox", &h, `SELECT held, held_at FROM outbox_state WHERE id = 1`)
	return h, err
}

// HoldOutbox has nothing sent for a reason, or for "" lets letters go again.
func (s *Store) HoldOutbox(ctx context.Context, why string, at *time.Time) error {
	_, err := s.exec(ctx, "store state of outbox", `UPDATE outbox_state SET held = ?, held_at = ? WHERE id = 1`, why, at)
	return err
}
