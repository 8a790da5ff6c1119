package domain

import "errors"

// Primary result codes of SQLite (sqlite.org, Result and Error Codes).
const (
	sqliteCorrupt = 11
	sqliteFull    = 13
	sqliteNotADB  = 26
)

// codeOf gives the primary result code of an error of the database, or 0.
func codeOf(err error) int {
	var coded interface{ Code() int }
	if errors.As(err, &coded) {
		return coded.Code() & 0xff
	}
	return 0
}

// DiskFull reports whether something could not be stored since the disk is full.
func DiskFull(err error) bool { return codeOf(err) == sqliteFull }

// Damaged reports whether the database is damaged.
func Damaged(err error) bool {
	code := codeOf(err)
	return code == sqliteCorrupt || code == sqliteNotADB
}
