package library

import (
	"context"
	"errors"
	"sync"
	"time"

	"lucidletter/internal/domain"
)

// maxHeld is how many bytes of files are in memory at once for those who read them.
const maxHeld = 128 << 20

// readWithin is for how long a file is read from the disk.
const readWithin = time.Minute

// errHeld is of a file that does not fit beside the others that are being read.
var errHeld = busyError{errors.New("too many files are being read at once")}

type busyError struct{ error }

func (busyError) Busy() bool { return true }

// holding has the bytes of each file that is being read in memory once, however many read it
// and however slowly.
type holding struct {
	mu   sync.Mutex
	open map[string]*heldFile
	size int
}

type heldFile struct {
	readers int
	size    int
	ready   chan struct{}
	file    domain.File
	err     error
}

// HoldFile gives a file with its bytes, which nobody may change, until release is called. When
// too much is being read already the error is busy.
func (a *Service) HoldFile(ctx context.Context, f domain.File) (held domain.File, release func(), err error) {
	h := &a.held
	h.mu.Lock()
	one := h.open[f.SHA]
	first := one == nil
	if first {
		if h.size > 0 && h.size+f.Size > maxHeld {
			h.mu.Unlock()
			return f, nil, errHeld
		}
		if h.open == nil {
			h.open = map[string]*heldFile{}
		}
		one = &heldFile{ready: make(chan struct{}), size: f.Size}
		h.open[f.SHA] = one
		h.size += f.Size
	}
	one.readers++
	h.mu.Unlock()
	release = sync.OnceFunc(func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		if one.readers--; one.readers == 0 {
			h.size -= one.size
			delete(h.open, f.SHA)
		}
	})
	if first {
		// Others wait for it too: it is read whoever goes away, and as long as the disk takes.
		patient, cancel := context.WithTimeout(context.Background(), readWithin)
		one.file, one.err = a.store.File(patient, f.SHA)
		cancel()
		close(one.ready)
	}
	select {
	case <-one.ready:
	case <-ctx.Done():
		release()
		return f, nil, ctx.Err()
	}
	if one.err != nil {
		release()
		return f, nil, one.err
	}
	return one.file, release, nil
}
