// Package lists answers questions about people, companies and deals: what fits a filter or a
// search, sorted, window by window, and how many that are.
package lists

import (
	"fmt"

	"lucidletter/internal/store/database"
	"lucidletter/internal/store/query"
)

// Table satisfies the ports of lists. Make it with New.
type Table struct {
	db     database.DB
	Places *query.Places // where people stand in the whole list
	found  *query.FoundLists
}

// New gives the lists of a database.
func New(db database.DB) *Table { return &Table{db, &query.Places{}, &query.FoundLists{}} }

// wrap says what was being done.
func wrap(what string, err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("%s: %w", what, err)
}
