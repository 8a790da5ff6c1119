package store

import (
	"context"
	"encoding/json"

	"lucidletter/internal/domain"
)

// Settings gives what holds for the workspace, or ErrNotFound before anybody said.
func (s *Store) Settings(ctx context.Context) (out domain.Settings, err error) {
	var text string
	if err := s.get(ctx, "load settings", &text, `SELECT value FROM settings WHERE id = 1`); err != nil {
		return out, err
	}
	out = domain.UsualSettings() // what an earlier version did not know
	return out, readJSON("settings", text, &out)
}

// PutSettings stores what holds for the workspace.
func (s *Store) PutSettings(ctx context.Context, set domain.Settings) error {
	text, err := json.Marshal(set)
	if err != nil {
		return wrap("store settings", err)
	}
	_, err = s.exec(ctx, "store settings", `INSERT INTO settings (id, value) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET value = excluded.value`, string(text))
	return err
}
