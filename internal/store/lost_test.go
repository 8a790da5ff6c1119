package store

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// What was lost is told, and never filled anew.
func TestOpen_lost(t *testing.T) {
	ctx := context.Background()
	folder := t.TempDir()
	path := filepath.Join(folder, FileName)
	s, err := Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	if info, err := os.Stat(path); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("%v, %v", info.Mode(), err)
	}
	if _, err := s.DB().Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)`); err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	opened := func(want string) {
		t.Helper()
		s, err := Open(ctx, folder)
		if err == nil {
			_ = s.Close()
		}
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	opened("newer version")
	if err := os.WriteFile(filepath.Join(folder, JournalName), []byte("\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Truncate(path, 0); err != nil {
		t.Fatal(err)
	}
	opened("put back a copy")
	if err := os.Remove(path); err != nil {
		t.Fatal(err)
	}
	opened("put back a copy")
}
