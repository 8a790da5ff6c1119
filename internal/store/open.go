// Package store keeps everything in one SQLite file through database/sql: one
// connection that writes, a pool that reads. Times are stored in UTC; own
// fields as JSON of canonical values; documents as the JSON of docs/format.md.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"sync"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"modernc.org/sqlite" // the driver "sqlite" too
	sqlite3 "modernc.org/sqlite/lib"

	"lucidletter/internal/domain"
	"lucidletter/internal/store/lists"
	"lucidletter/internal/store/plans"
	"lucidletter/internal/store/rounds"
	"lucidletter/internal/store/seal"
)

//go:embed migrations/*.sql
var migrations embed.FS

// FileName is the name of the database in the data folder.
const FileName = "lucidletter.db"

// planTables are the plans; a struct cannot embed two that are called alike.
type planTables = plans.Table

// listTables are the lists.
type listTables = lists.Table

// Store satisfies the ports of every service. Make it with Open.
type Store struct {
	*rounds.Table
	*planTables
	*listTables

	write, read *sqlx.DB
	ready       *statements
	asking      *asking
	group       groupCommit
	// Before is asked before every change when it is set; its error stands for one of the
	// database. Tests set it.
	Before func(what string) error
}

// statements are prepared once for each query: parsing it takes longer than most run.
// What is built at run time may have many forms; from most on they are not kept.
type statements struct {
	mu          sync.Mutex
	read, write map[string]*sqlx.Stmt
	wanted      []string
}

const mostStatements = 400

// of gives a query prepared for one of the two pools; nil when too many are kept.
func (c *statements) of(ctx context.Context, db *sqlx.DB, kept map[string]*sqlx.Stmt, query string) (*sqlx.Stmt, error) {
	c.mu.Lock()
	stmt, full := kept[query], len(kept) >= mostStatements
	c.mu.Unlock()
	if stmt != nil || full {
		return stmt, nil
	}
	// Not under the lock: the writer may be in use by whoever waits for it.
	stmt, err := db.PreparexContext(ctx, query)
	if err != nil {
		return nil, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	if other := kept[query]; other != nil {
		return other, stmt.Close()
	}
	kept[query] = stmt
	return stmt, nil
}

// Open opens the database in a data folder, made when it is not there, and
// brings it up to this program's form.
func Open(ctx context.Context, folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	settings := url.Values{
		"_pragma":      {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)", "synchronous(NORMAL)"},
		"_txlock":      {"immediate"},
		"_time_format": {"sqlite"},
	}
	if err := lookAt(folder); err != nil {
		return nil, err
	}
	path := (&url.URL{Scheme: "file", Opaque: filepath.ToSlash(filepath.Join(folder, FileName)), RawQuery: settings.Encode()}).String()
	// The writer goes through many indexes: what it touched is kept at hand, and the log is
	// put into the database when it has grown.
	write, err := sqlx.Open("sqlite", path+"&_pragma=cache_size(-65536)&_pragma=wal_autocheckpoint(8000)")
	if err != nil {
		return nil, fmt.Errorf("open the database: %w", err)
	}
	write.SetMaxOpenConns(1)
	if err := migrate(ctx, write.DB); err != nil {
		return nil, errors.Join(fmt.Errorf("bring the database up to date: %w", err), write.Close())
	}
	read, err := sqlx.Open("sqlite", path)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("open the database: %w", err), write.Close())
	}
	read.SetMaxOpenConns(4)
	// Long questions look at many rows, here and there.
	long, err := sqlx.Open("sqlite", path+"&_pragma=cache_size(-32768)")
	if err != nil {
		return nil, errors.Join(fmt.Errorf("open the database: %w", err), read.Close(), write.Close())
	}
	s := &Store{write: write, read: read, asking: newAsking(long), ready: &statements{read: map[string]*sqlx.Stmt{}, write: map[string]*sqlx.Stmt{}}}
	s.Table, s.planTables, s.listTables = rounds.New(database{s}), plans.New(database{s}), lists.New(database{s})
	if err := s.indexTemplates(ctx); err != nil {
		return nil, errors.Join(err, s.Close())
	}
	return s, nil
}

func migrate(ctx context.Context, db *sql.DB) error {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	if err != nil {
		return err
	}
	sources := p.ListSources()
	known := sources[len(sources)-1].Version
	if there, err := p.GetDBVersion(ctx); err != nil {
		return err
	} else if there > known {
		return fmt.Errorf("the data folder was written by a newer version of Lucid Letter (its form is %d, this program knows %d); use that version, or put back a copy of before", there, known)
	}
	if _, err = p.Up(ctx); err != nil {
		return err
	}
	// What indexes hold, roughly, so that the better one is taken (sqlite.org, PRAGMA optimize); of
	// few people any will do.
	many := false
	if err := db.QueryRowContext(ctx, `SELECT EXISTS (SELECT 1 FROM people WHERE id > 1000)`).Scan(&many); err != nil || !many {
		return err
	}
	_, err = db.ExecContext(ctx, `PRAGMA analysis_limit = 400; PRAGMA optimize = 0x10002`)
	return err
}

// lookAt makes the file of the database for its owner's eyes alone. One that is empty or
// missing where there were data is not filled anew: it was lost.
func lookAt(folder string) error {
	path := filepath.Join(folder, FileName)
	info, err := os.Stat(path)
	switch {
	case err == nil && info.Size() > 0:
		return os.Chmod(path, 0o600)
	case err != nil && !errors.Is(err, fs.ErrNotExist):
		return fmt.Errorf("look at the database: %w", err)
	}
	for _, other := range []string{JournalName, FileName + "-wal", seal.KeyFile} {
		if left, err := os.Stat(filepath.Join(folder, other)); err == nil && left.Size() > 0 {
			return fmt.Errorf("%s is empty or missing, but %s beside it shows that there were data; put back a copy of the database, or take another folder", path, other)
		}
	}
	f, err := os.OpenFile(path, os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("make the database: %w", err)
	}
	return f.Close()
}

// Close closes the database.
func (s *Store) Close() error {
	return errors.Join(s.asking.db.Close(), s.read.Close(), s.write.Close())
}

// DB is the writing connection, for the sessions of the HTTP layer.
func (s *Store) DB() *sql.DB { return s.write.DB }

// Readers are the connections that only read.
func (s *Store) Readers() *sql.DB { return s.read.DB }

// transaction is one that a context carries.
type transaction struct {
	*sqlx.Tx
	statements map[string]*sqlx.Stmt
}

// ofStore is the key of the transaction of a store.
type ofStore struct{ *Store }

// within gives the transaction that a context carries, or nil.
func (s *Store) within(ctx context.Context) *transaction {
	t, _ := ctx.Value(ofStore{s}).(*transaction)
	return t
}

// Within runs f in one transaction: what is asked of the store with the context that f is
// given belongs to it. Within another one it joins that.
func (s *Store) Within(ctx context.Context, f func(context.Context) error) error {
	if s.within(ctx) != nil {
		return f(ctx)
	}
	tx, err := s.write.BeginTxx(ctx, nil)
	if err != nil {
		return wrap("begin", err)
	}
	// After a commit this does nothing.
	defer func() { _ = tx.Rollback() }()
	if err := f(context.WithValue(ctx, ofStore{s}, &transaction{tx, map[string]*sqlx.Stmt{}})); err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return wrap("commit", err)
	}
	s.prepareWanted(ctx)
	return nil
}

// statement gives a query prepared for the transaction or for one of the pools; nil
// where it is to be run as it is.
func (s *Store) statement(ctx context.Context, query string, writes bool) (*sqlx.Stmt, error) {
	t := s.within(ctx)
	switch {
	case t == nil && writes:
		return s.ready.of(ctx, s.write, s.ready.write, query)
	case t == nil:
		return s.ready.of(ctx, s.read, s.ready.read, query)
	}
	if stmt, ok := t.statements[query]; ok {
		return stmt, nil
	}
	s.ready.mu.Lock()
	kept := s.ready.write[query]
	s.ready.mu.Unlock()
	var stmt *sqlx.Stmt
	var err error
	if kept != nil {
		stmt = t.StmtxContext(ctx, kept)
	} else if stmt, err = t.PreparexContext(ctx, query); err != nil {
		return nil, err
	} else {
		s.wanted(query)
	}
	t.statements[query] = stmt // the transaction closes it
	return stmt, nil
}

// wanted has a query of a transaction prepared for the next ones, after this one: the
// writer has one connection.
func (s *Store) wanted(query string) {
	s.ready.mu.Lock()
	defer s.ready.mu.Unlock()
	if len(s.ready.wanted) < mostStatements {
		s.ready.wanted = append(s.ready.wanted, query)
	}
}

// prepareWanted prepares what transactions wanted.
func (s *Store) prepareWanted(ctx context.Context) {
	s.ready.mu.Lock()
	list := s.ready.wanted
	s.ready.wanted = nil
	s.ready.mu.Unlock()
	for _, query := range list {
		// One that cannot be prepared is prepared by the transaction, which says why.
		_, _ = s.ready.of(ctx, s.write, s.ready.write, query)
	}
}

func (s *Store) get(ctx context.Context, what string, into any, query string, args ...any) error {
	err := s.promptly(ctx, func(ctx context.Context) error {
		stmt, err := s.statement(ctx, query, false)
		switch {
		case err != nil:
			return err
		case stmt != nil:
			return stmt.GetContext(ctx, into, args...)
		}
		return s.read.GetContext(ctx, into, query, args...)
	})
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("%s: %w", what, domain.ErrNotFound)
	}
	return wrap(what, err)
}

func (s *Store) list(ctx context.Context, what string, into any, query string, args ...any) error {
	return wrap(what, s.promptly(ctx, func(ctx context.Context) error {
		stmt, err := s.statement(ctx, query, false)
		switch {
		case err != nil:
			return err
		case stmt != nil:
			return stmt.SelectContext(ctx, into, args...)
		}
		return s.read.SelectContext(ctx, into, query, args...)
	}))
}

func (s *Store) exec(ctx context.Context, what, query string, args ...any) (sql.Result, error) {
	var r sql.Result
	if s.Before != nil {
		if err := s.Before(what); err != nil {
			return nil, wrap(what, err)
		}
	}
	stmt, err := s.statement(ctx, query, true)
	switch {
	case err != nil:
	case stmt != nil:
		r, err = stmt.ExecContext(ctx, args...)
	default:
		r, err = s.write.ExecContext(ctx, query, args...)
	}
	return r, wrap(what, err)
}

// add inserts a row of named values and gives its id.
func (s *Store) add(ctx context.Context, what, query string, row any) (int64, error) {
	bound, args, err := sqlx.Named(query, row)
	if err != nil {
		return 0, wrap(what, err)
	}
	r, err := s.exec(ctx, what, bound, args...)
	if err != nil {
		return 0, err
	}
	id, err := r.LastInsertId()
	return id, wrap(what, err)
}

// one runs a guarded change and tells whether it hit its row.
func (s *Store) one(ctx context.Context, what, query string, args ...any) (bool, error) {
	r, err := s.exec(ctx, what, query, args...)
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, wrap(what, err)
}

// change runs a guarded change of named values and tells whether it hit its row.
func (s *Store) change(ctx context.Context, what, query string, row any) (bool, error) {
	bound, args, err := sqlx.Named(query, row)
	if err != nil {
		return false, wrap(what, err)
	}
	return s.one(ctx, what, bound, args...)
}

// database is the store as its parts use it.
type database struct{ *Store }

func (d database) Get(ctx context.Context, what string, into any, query string, args ...any) error {
	return d.get(ctx, what, into, query, args...)
}

func (d database) Select(ctx context.Context, what string, into any, query string, args ...any) error {
	return d.list(ctx, what, into, query, args...)
}

func (d database) Exec(ctx context.Context, what, query string, args ...any) (sql.Result, error) {
	return d.exec(ctx, what, query, args...)
}

func (d database) Add(ctx context.Context, what, query string, row any) (int64, error) {
	return d.add(ctx, what, query, row)
}

func (d database) Change(ctx context.Context, what, query string, row any) (bool, error) {
	return d.change(ctx, what, query, row)
}

// busyError is a wait for the database that took too long (SQLITE_BUSY and its kin).
type busyError struct{ error }

func (busyError) Busy() bool      { return true }
func (b busyError) Unwrap() error { return b.error }

func wrap(what string, err error) error {
	if err == nil {
		return nil
	}
	var lite *sqlite.Error
	if errors.As(err, &lite) && (lite.Code()&0xff == sqlite3.SQLITE_BUSY || lite.Code()&0xff == sqlite3.SQLITE_LOCKED) {
		err = busyError{err}
	}
	return fmt.Errorf("%s: %w", what, err)
}
