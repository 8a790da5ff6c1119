package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// A second program on a data folder says so and does not start; after the first one
// ended it may.
func TestLock(t *testing.T) {
	folder := t.TempDir()
	unlock, err := lock(folder)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := lock(folder); err == nil || !strings.Contains(err.Error(), "runs on the data folder") || !strings.Contains(err.Error(), folder) {
		t.Errorf("%v", err)
	}
	if err := os.Remove(filepath.Join(folder, "running.lock")); err != nil {
		t.Fatal(err)
	}
	if _, err := lock(folder); err == nil || !strings.Contains(err.Error(), "runs on the data folder") {
		t.Errorf("the file was taken away: %v", err)
	}
	unlock()
	again, err := lock(folder)
	if err != nil {
		t.Fatal(err)
	}
	again()
}
