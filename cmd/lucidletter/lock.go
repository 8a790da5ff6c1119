package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/gofrs/flock"
)

// lock keeps a second program from running on a data folder: both would send what
// waits. The lock ends with the program, however that ends. It is on the folder itself too,
// where the system can lock one: a file can be taken away.
func lock(folder string) (unlock func(), err error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	whole := flock.New(folder, flock.SetFlag(os.O_RDONLY))
	ours, err := whole.TryLock()
	if err == nil && !ours {
		return nil, inUse(folder)
	}
	// An error says that folders cannot be locked here: the file is all there is.
	file := flock.New(filepath.Join(folder, "running.lock"))
	ours, err = file.TryLock()
	if err == nil && !ours {
		err = inUse(folder)
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("lock the data folder: %w", err), whole.Unlock())
	}
	return func() { _, _ = file.Unlock(), whole.Unlock() }, nil // the end of the program unlocks them too
}

func inUse(folder string) error {
	return fmt.Errorf("another Lucid Letter runs on the data folder %s already; stop it, or choose another folder with --data", folder)
}
