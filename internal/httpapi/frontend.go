package httpapi

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

const notBuilt = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Lucid Letter</title>
<body style="font:16px/1.5 sans-serif;max-width:40em;margin:4em auto">
<h1>The screens are not built yet</h1>
<p>The program runs, but this copy holds no front end. Build it with <code>make build</code> and start the program again.</p>`

// frontend serves the built files; every other address outside /api gets the
// page, which finds its own way.
func frontend(front fs.FS) gin.HandlerFunc {
	var page []byte
	if front != nil {
		page, _ = fs.ReadFile(front, "index.html") // none: it was not built
	}
	return func(c *gin.Context) {
		if strings.HasPrefix(c.Request.URL.Path, "/api/") {
			c.Header("Content-Type", "application/problem+json")
			c.JSON(http.StatusNotFound, problem(http.StatusNotFound, "There is no such address in the API."))
			return
		}
		if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			c.Status(http.StatusMethodNotAllowed)
			return
		}
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if front != nil && name != "" && name != "index.html" {
			if info, err := fs.Stat(front, name); err == nil && !info.IsDir() {
				if strings.HasPrefix(name, "assets/") {
					c.Header("Cache-Control", "public, max-age=31536000, immutable")
				}
				c.FileFromFS(name, http.FS(front))
				return
			}
		}
		c.Header("Cache-Control", "no-cache")
		switch {
		case page == nil:
			c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(notBuilt))
		case strings.HasPrefix(name, "assets/"):
			c.String(http.StatusNotFound, "not found")
		default:
			c.Data(http.StatusOK, "text/html; charset=utf-8", page)
		}
	}
}
