package store

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"sync"
	"time"

	"lucidletter/internal/domain"
)

// JournalName is the name of the journal in the data folder.
const JournalName = "handed-over.jsonl"

// roomy is how long the file may grow, in bytes, before it is emptied at the next time
// when nothing in it is needed.
const roomy = 64 << 10

// Journal implements app.Journal with a file of JSON lines that grows at its end. It is
// safe from a crash of the program. That a letter is about to be handed over is on the disk
// before it is: after a power cut the database may have forgotten its last moments, and the
// journal tells that it did. What a server answered may be lost in one; the letter counts as
// unsure then.
type Journal struct {
	mu    sync.Mutex
	path  string // a file that takes its place was opened under another name
	file  *os.File
	size  int64
	noted map[string]domain.Noted // what the store may not have
	seq   int64
	lines int64 // written since it was opened

	made    bool // it was not there before
	missing bool

	syncing sync.Mutex // held by who waits for the disk, for all who come meanwhile
	onDisk  int64      // how many of the lines are on the disk
}

// line is one line of the file; a later one of a try takes the place of the former.
type line struct {
	Try string `json:"try"`
	domain.Noted
}

// OpenJournal opens the journal of a data folder, made when it is not there. A line that
// a crash broke off is taken out: what it was to announce did not happen.
func OpenJournal(folder string) (*Journal, error) {
	path := filepath.Join(folder, JournalName)
	if err := adopt(path); err != nil {
		return nil, fmt.Errorf("open the journal: %w", err)
	}
	_, there := os.Stat(path)
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR|os.O_APPEND, 0o600)
	if err != nil {
		return nil, fmt.Errorf("open the journal: %w", err)
	}
	j := &Journal{path: path, file: f, noted: map[string]domain.Noted{}, made: errors.Is(there, fs.ErrNotExist)}
	r := bufio.NewReader(f)
	for {
		text, err := r.ReadBytes('\n')
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, errors.Join(fmt.Errorf("read the journal: %w", err), f.Close())
		}
		j.size += int64(len(text))
		var l line
		if json.Unmarshal(text, &l) != nil {
			continue
		}
		if j.seq = max(j.seq, l.Seq); l.Try != "" { // else it says only how many there were
			j.noted[l.Try] = l.Noted
		}
	}
	if err := f.Truncate(j.size); err != nil {
		return nil, errors.Join(fmt.Errorf("mend the journal: %w", err), f.Close())
	}
	return j, nil
}

// adopt puts what stands in files that were not given the journal's name behind what it
// holds: an earlier version went on in those once it had emptied the journal twice.
func adopt(path string) error {
	for other := path + ".new"; ; other += ".new" {
		text, err := os.ReadFile(other)
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		if err != nil {
			return err
		}
		f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600)
		if err != nil {
			return err
		}
		_, err = f.Write(append([]byte("\n"), text...))
		if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
			return err
		}
		if err := os.Remove(other); err != nil {
			return err
		}
	}
}

// Expected says that the journal belongs to a database that is in use: one that was not there
// is missing.
func (j *Journal) Expected() { j.missing = j.made }

// Missing tells whether the journal was not there although the database was in use.
func (j *Journal) Missing() bool { return j.missing }

// Close closes the file.
func (j *Journal) Close() error { return j.file.Close() }

// Begin notes that a letter is about to be handed over, and waits until the disk has it.
func (j *Journal) Begin(key string, at time.Time) error {
	upTo, err := j.begin(key, at)
	if err != nil {
		return err
	}
	return j.sync(upTo)
}

func (j *Journal) begin(key string, at time.Time) (line int64, err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	// Counted and written in one: a file that is begun anew in between would tell of a try
	// that it does not name.
	if err := j.note(key, domain.Noted{At: at, Seq: j.seq + 1}); err != nil {
		return 0, err
	}
	j.seq++
	return j.lines, nil
}

// sync waits until a line is on the disk. Those who wait at once wait for the disk once.
func (j *Journal) sync(upTo int64) error {
	j.syncing.Lock()
	defer j.syncing.Unlock()
	if j.onDisk >= upTo {
		return nil
	}
	j.mu.Lock()
	file, lines := j.file, j.lines
	j.mu.Unlock()
	// One that is closed was emptied since: what stands in its place is on the disk.
	if err := file.Sync(); err != nil && !errors.Is(err, os.ErrClosed) {
		return fmt.Errorf("write the journal to the disk: %w", err)
	}
	j.onDisk = lines
	return nil
}

// Seq is how many tries were ever noted.
func (j *Journal) Seq() int64 {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.seq
}

// End notes how that went.
func (j *Journal) End(key string, c domain.Change) error {
	j.mu.Lock()
	defer j.mu.Unlock()
	n := j.noted[key]
	n.End = &c
	return j.note(key, n)
}

// Of gives what was noted of a try.
func (j *Journal) Of(key string) (domain.Noted, bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	n, ok := j.noted[key]
	return n, ok
}

// Settled says that the store has what was noted of some tries.
func (j *Journal) Settled(keys ...string) error {
	j.mu.Lock()
	defer j.mu.Unlock()
	for _, key := range keys {
		delete(j.noted, key)
	}
	if len(j.noted) > 0 || j.size < roomy {
		return nil
	}
	return j.empty()
}

// Clear forgets everything.
func (j *Journal) Clear() error {
	j.mu.Lock()
	defer j.mu.Unlock()
	clear(j.noted)
	return j.empty()
}

// empty begins a new file that tells how many tries there were, in the place of the old
// one: at no moment is there none that tells.
func (j *Journal) empty() error {
	if j.size == 0 {
		return nil
	}
	text, err := json.Marshal(line{"", domain.Noted{Seq: j.seq}})
	if err != nil {
		return fmt.Errorf("empty the journal: %w", err)
	}
	f, err := os.OpenFile(j.path+".new", os.O_CREATE|os.O_RDWR|os.O_APPEND|os.O_TRUNC, 0o600)
	if err != nil {
		return fmt.Errorf("empty the journal: %w", err)
	}
	wrote, err := fmt.Fprintf(f, "%s\n", text)
	if err == nil {
		err = f.Sync()
	}
	if err == nil {
		err = os.Rename(j.path+".new", j.path)
	}
	if err != nil {
		return errors.Join(fmt.Errorf("empty the journal: %w", err), f.Close())
	}
	old := j.file
	j.file, j.size = f, int64(wrote)
	return old.Close()
}

// note writes a line; the caller holds the lock.
func (j *Journal) note(key string, n domain.Noted) error {
	text, err := json.Marshal(line{key, n})
	if err != nil {
		return fmt.Errorf("write to the journal: %w", err)
	}
	// It begins on a line of its own, also behind one that a full disk broke off.
	wrote, err := fmt.Fprintf(j.file, "\n%s\n", text)
	j.size += int64(wrote)
	if err != nil {
		return fmt.Errorf("write to the journal: %w", err)
	}
	j.lines++
	j.noted[key] = n
	return nil
}
