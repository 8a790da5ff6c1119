package plans

import (
	"context"
	"encoding/json"
	"fmt"

	"lucidletter/internal/domain"
)

// KnownParts gives what somebody knows of the wording of a plan or an order, nil where nothing
// was noted.
func (s *Table) KnownParts(ctx context.Context, userID int64, thing string) ([]domain.Part, error) {
	var list []string
	err := s.db.Select(ctx, "load known parts", &list, `SELECT parts FROM known_parts WHERE user_id = ? AND thing = ?`, userID, thing)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	out := []domain.Part{}
	if err := json.Unmarshal([]byte(list[0]), &out); err != nil {
		return nil, fmt.Errorf("known parts of %s: %w", thing, err)
	}
	return out, nil
}

// KnowParts notes it.
func (s *Table) KnowParts(ctx context.Context, userID int64, thing string, parts []domain.Part) error {
	said, err := json.Marshal(append([]domain.Part{}, parts...))
	if err != nil {
		return err
	}
	_, err = s.db.Exec(ctx, "note known parts", `INSERT INTO known_parts (user_id, thing, parts) VALUES (?, ?, ?) ON CONFLICT (user_id, thing) DO UPDATE SET parts = excluded.parts`, userID, thing, string(said))
	return err
}
