package pages

import (
	"bytes"
	"io/fs"
	"net/http"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"

	"lucidletter/docs"
)

// The looks of the guide; colours as on the screens, light and dark.
const guideHead = `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Guide · Lucid Letter</title><link rel="icon" href="/icon.svg"><style>
:root{color-scheme:light dark;--ground:#f7f4ec;--ink:#22281f;--soft:#5a6154;--main:#1f4d3a;--rule:#ddd6c6}
@media(prefers-color-scheme:dark){:root{--ground:#161a16;--ink:#e6e6da;--soft:#a9b1a4;--main:#8fc4a8;--rule:#39423a}}
body{margin:0;background:var(--ground);color:var(--ink);font:17px/1.6 "Source Sans 3 Variable",system-ui,sans-serif}
main{max-width:46rem;margin:0 auto;padding:2rem 1.25rem 5rem}h1,h2{font-family:"Source Serif 4 Variable",Georgia,serif;line-height:1.25}
h1{font-size:2rem;color:var(--main)}h2{margin-top:3.5rem;padding-top:1rem;border-top:1px solid var(--rule)}
a{color:var(--main)}img{max-width:100%;height:auto;border:1px solid var(--rule);display:block;margin:1.25rem 0}
code{background:color-mix(in srgb,var(--main) 10%,transparent);border-radius:3px;padding:.1em .35em;font-size:.9em}
table{border-collapse:collapse;width:100%}th,td{text-align:left;vertical-align:top;padding:.4rem .75rem .4rem 0;border-bottom:1px solid var(--rule)}
thead{color:var(--soft)}</style><main><p><a href="/">Lucid Letter</a></p>
`

// guideRoutes serve the guide for users as a page, which needs no network and nobody
// signed in: it shows made-up people alone.
func (s *Pages) guideRoutes(engine *gin.Engine) {
	guide := docs.Guide()
	page := sync.OnceValues(func() ([]byte, error) {
		text, err := fs.ReadFile(guide, "guide.md")
		if err != nil {
			return nil, err
		}
		text = bytes.ReplaceAll(text, []byte("](screenshots/"), []byte("](/guide/screenshots/"))
		var out bytes.Buffer
		out.WriteString(guideHead)
		md := goldmark.New(goldmark.WithExtensions(extension.GFM), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
		err = md.Convert(text, &out)
		return out.Bytes(), err
	})
	engine.GET("/guide", func(c *gin.Context) {
		bytes, err := page()
		if err != nil {
			s.log.Error("read the guide", "err", err)
			c.String(http.StatusInternalServerError, "The guide cannot be read.")
			return
		}
		c.Data(http.StatusOK, "text/html; charset=utf-8", bytes)
	})
	engine.GET("/guide/screenshots/:name", func(c *gin.Context) {
		name := c.Param("name")
		if !fs.ValidPath("screenshots/"+name) || !strings.HasSuffix(name, ".png") {
			c.Status(http.StatusNotFound)
			return
		}
		c.FileFromFS("screenshots/"+name, http.FS(guide))
	})
}
