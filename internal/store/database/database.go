// Package database is what the parts of the store need of the database.
package database

import (
	"context"
	"database/sql"
	"encoding/json"
)

// DB is the database, with the transaction that a context carries. What says what was being
// done when something fails.
type DB interface {
	Get(ctx context.Context, what string, into any, query string, args ...any) error // ErrNotFound without a row
	Select(ctx context.Context, what string, into any, query string, args ...any) error
	// Ask reads into a number or a list by a query that was put together for this one time. It may
	// take long: it has connections of its own, and a limit where somebody waits for it.
	Ask(ctx context.Context, into any, query string, args ...any) error
	InTransaction(ctx context.Context) bool
	Exec(ctx context.Context, what, query string, args ...any) (sql.Result, error)
	// Add inserts a row of named values and gives its id; Change tells whether it hit one.
	Add(ctx context.Context, what, query string, row any) (int64, error)
	Change(ctx context.Context, what, query string, row any) (bool, error)
	Within(ctx context.Context, f func(context.Context) error) error
}

// Hits tells whether a change hit a row.
func Hits(res sql.Result, err error) (bool, error) {
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}

// Packed is a list as a query takes it, for json_each.
func Packed(list any) (string, error) {
	text, err := json.Marshal(list)
	return string(text), err
}
