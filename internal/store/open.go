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

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver "sqlite"

	"lucidletter/internal/app"
)

//go:embed migrations/*.sql
var migrations embed.FS

// FileName is the name of the database in the data folder.
const FileName = "lucidletter.db"

// Store implements app.Store. Make it with Open.
type Store struct {
	write, read *sqlx.DB
	tx          *sqlx.Tx // set within Within
	prepared    map[string]*sqlx.Stmt
}

var _ app.Store = (*Store)(nil)

// Open opens the database in a data folder, made when it is not there, and
// brings it up to this program's form.
func Open(ctx context.Context, folder string) (*Store, error) {
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return nil, fmt.Errorf("make the data folder: %w", err)
	}
	query := url.Values{
		"_pragma":      {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)", "synchronous(NORMAL)"},
		"_txlock":      {"immediate"},
		"_time_format": {"sqlite"},
	}
	path := (&url.URL{Scheme: "file", Opaque: filepath.ToSlash(filepath.Join(folder, FileName)), RawQuery: query.Encode()}).String()
	write, err := sqlx.Open("sqlite", path)
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
	s := &Store{write: write, read: read}
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
	_, err = p.Up(ctx)
	return err
}

// Close closes the database.
func (s *Store) Close() error { return errors.Join(s.read.Close(), s.write.Close()) }

// DB is the writing connection, for the sessions of the HTTP layer.
func (s *Store) DB() *sql.DB { return s.write.DB }

// Within runs f in one transaction. Within another one it joins that.
func (s *Store) Within(ctx context.Context, f func(app.Store) error) error {
	if s.tx != nil {
		return f(s)
	}
	tx, err := s.write.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("begin: %w", err)
	}
	// After a commit this does nothing.
	defer func() { _ = tx.Rollback() }()
	if err := f(&Store{write: s.write, read: s.read, tx: tx, prepared: map[string]*sqlx.Stmt{}}); err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("commit: %w", err)
	}
	return nil
}

// statement gives a query prepared for the transaction, once for each query,
// so that an import does not prepare it for every row; nil outside of one.
func (s *Store) statement(ctx context.Context, query string) (*sqlx.Stmt, error) {
	if s.tx == nil {
		return nil, nil
	}
	if stmt, ok := s.prepared[query]; ok {
		return stmt, nil
	}
	// The transaction closes it.
	stmt, err := s.tx.PreparexContext(ctx, query)
	if err == nil {
		s.prepared[query] = stmt
	}
	return stmt, err
}

func (s *Store) get(ctx context.Context, what string, into any, query string, args ...any) error {
	stmt, err := s.statement(ctx, query)
	switch {
	case err != nil:
	case stmt != nil:
		err = stmt.GetContext(ctx, into, args...)
	default:
		err = s.read.GetContext(ctx, into, query, args...)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return fmt.Errorf("%s: %w", what, app.ErrNotFound)
	}
	return wrap(what, err)
}

func (s *Store) list(ctx context.Context, what string, into any, query string, args ...any) error {
	stmt, err := s.statement(ctx, query)
	switch {
	case err != nil:
	case stmt != nil:
		err = stmt.SelectContext(ctx, into, args...)
	default:
		err = s.read.SelectContext(ctx, into, query, args...)
	}
	return wrap(what, err)
}

func (s *Store) exec(ctx context.Context, what, query string, args ...any) (sql.Result, error) {
	var r sql.Result
	stmt, err := s.statement(ctx, query)
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

func wrap(what string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("%s: %w", what, err)
}
