package records

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"lucidletter/internal/domain"
)

// undoFor is for how long an act can be taken back.
const undoFor = 24 * time.Hour

// The acts that are taken back by a number.
const (
	undoContact = "contact"
	undoChange  = "change"
)

// keepUndo keeps what takes an act of a user back, and gives the number by which they do so: what
// is undone is what was done, and nothing that anybody sends.
func (a *Service) keepUndo(ctx context.Context, u domain.User, kind string, what any) (int64, error) {
	data, err := json.Marshal(what)
	if err != nil {
		return 0, err
	}
	return a.store.AddUndo(ctx, u.ID, kind, string(data), a.now(), a.now().Add(-undoFor))
}

// takeUndo reads what was kept, once.
func (a *Service) takeUndo(ctx context.Context, u domain.User, kind string, id int64, into any) error {
	data, err := a.store.TakeUndo(ctx, id, u.ID, kind, a.now().Add(-undoFor))
	if errors.Is(err, domain.ErrNotFound) {
		return &domain.StateError{Why: "This can’t be undone any more: it was undone already, or more than a day has passed."}
	}
	if err != nil {
		return err
	}
	return json.Unmarshal([]byte(data), into)
}
