package main

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"sync/atomic"
	"time"

	"lucidletter/bench/work"
)

// The other side of importing: the shell of SQLite reads the same file into one table with
// three indexes and a full-text table.
const shellImport = `PRAGMA journal_mode = WAL;
PRAGMA synchronous = NORMAL;
CREATE TABLE people (first TEXT, last TEXT, email TEXT, city TEXT);
CREATE INDEX people_email ON people(email);
CREATE INDEX people_last ON people(last, first);
CREATE INDEX people_city ON people(city);
CREATE VIRTUAL TABLE people_find USING fts5(words, tokenize = 'unicode61 remove_diacritics 2', prefix = '1 2 3', detail = none, columnsize = 0);
.mode csv
.import --skip 1 people.csv people
INSERT INTO people_find (rowid, words) SELECT rowid, first || ' ' || last || ' ' || email || ' ' || city FROM people;
`

// shellTakes gives how long the shell takes.
func shellTakes(csv []byte) time.Duration {
	folder, err := os.MkdirTemp("", "lucid-bench-")
	check(err)
	defer func() { check(os.RemoveAll(folder)) }()
	check(os.WriteFile(filepath.Join(folder, "people.csv"), csv, 0o600))
	shell := exec.Command("sqlite3", "-batch", "there.db")
	shell.Dir, shell.Stdin, shell.Stderr = folder, bytes.NewReader([]byte(shellImport)), os.Stderr
	began := time.Now()
	check(shell.Run())
	return time.Since(began)
}

// importTakes gives how long the program takes until the last row is written, and the most
// memory that it held besides what it held before.
func importTakes(rows int) (took time.Duration, held uint64) {
	w, err := work.New(0)
	check(err)
	defer func() { check(w.Close()) }()
	debug.FreeOSMemory()
	before := memory()
	var most atomic.Uint64
	done, stopped := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(stopped)
		for {
			select {
			case <-done:
				return
			case <-time.After(50 * time.Millisecond):
				most.Store(max(most.Load(), memory()))
			}
		}
	}()
	began := time.Now()
	check(w.Import(context.Background(), rows))
	took = time.Since(began)
	close(done)
	<-stopped
	return took, most.Load() - min(before, most.Load())
}

// memory is what the program holds of the system's.
func memory() uint64 {
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.Sys - m.HeapReleased
}

// imports measures the import of 100,000 rows beside the shell's, and ten times as many rows
// beside 100,000.
func imports() {
	if _, err := exec.LookPath("sqlite3"); err != nil {
		fmt.Println("import: there is no sqlite3 on this machine to measure beside")
		return
	}
	const rows, turns = 100_000, 3
	var file bytes.Buffer
	check(work.CSV(&file, rows))
	csv := file.Bytes()
	var by []float64
	var ours, theirs time.Duration
	var held uint64
	for range turns {
		theirs = shellTakes(csv)
		ours, held = importTakes(rows)
		fmt.Printf("  import of %d rows: %.1f s by the shell of SQLite, %.1f s here, %d MB besides\n", rows, theirs.Seconds(), ours.Seconds(), held>>20)
		by = append(by, ours.Seconds()/theirs.Seconds())
	}
	aim("import-by-shell", median(by), "<=", 4)
	long, more := importTakes(10 * rows)
	fmt.Printf("  import of %d rows: %.1f s, %d MB besides\n", 10*rows, long.Seconds(), more>>20)
	aim("import-ten-times-by-rows", long.Seconds()/ours.Seconds()/10, "<=", 1.3)
	aim("import-ten-times-memory", float64(more)/float64(max(held, 1)), "<=", 1.5)
}
