// Package docs holds the guide for users with its pictures, so that it can be read
// where the program runs.
package docs

import (
	"embed"
	"io/fs"
)

//go:embed guide.md screenshots/*.png
var files embed.FS

// Guide gives guide.md and the pictures in screenshots/.
func Guide() fs.FS { return files }
