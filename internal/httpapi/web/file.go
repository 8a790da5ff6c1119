package web

import (
	"bytes"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"lucidletter/internal/domain"
)

// File is an answer that is a file of the workspace. Who has it already is told so by its ETag
// (RFC 9110 section 13.1.2), and gets it no second time.
type File struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	CacheControl       string `header:"Cache-Control"`
	Policy             string `header:"Content-Security-Policy"`
	ETag               string `header:"ETag"`
	Body               func(huma.Context)
}

// Shown gives a file with its bytes as an answer; release is called when it was read.
func Shown(f domain.File, disposition string, release func()) *File {
	return &File{
		ContentType: f.Type, ContentDisposition: disposition, CacheControl: "private, no-cache", Policy: "default-src 'none'; sandbox", ETag: `"` + f.SHA + `"`,
		Body: func(c huma.Context) {
			defer release()
			g := humagin.Unwrap(c)
			http.ServeContent(g.Writer, g.Request, "", time.Time{}, bytes.NewReader(f.Bytes))
		},
	}
}
