package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/gofrs/flock"
)

// lock keeps a second program from running on a data folder: both would send what
// waits. The lock ends with the program, however that ends.
func lock(folder string) (unlock func(), err error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	l := flock.New(filepath.Join(folder, "running.lock"))
	ours, err := l.TryLock()
	if err != nil {
		return nil, fmt.Errorf("lock the data folder: %w", err)
	}
	if !ours {
		return nil, fmt.Errorf("another Lucid Letter runs on the data folder %s already; stop it, or choose another folder with --data", folder)
	}
	return func() { _ = l.Unlock() }, nil // the end of the program unlocks it too
}
