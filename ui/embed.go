// Package ui holds the built front end. Before it is built, dist is empty but
// for a placeholder, and the program says how to build it.
package ui

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Files gives the built files.
func Files() (fs.FS, error) { return fs.Sub(dist, "dist") }
