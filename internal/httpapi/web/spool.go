package web

import (
	"bufio"
	"fmt"
	"io"
	"mime"
	"net/http"
	"os"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
)

// Spooled is an answer that is a file. It was made on the disk, so that a slow reader holds
// none of it in memory, and is gone when it was read.
type Spooled struct {
	ContentType        string `header:"Content-Type"`
	ContentDisposition string `header:"Content-Disposition"`
	CacheControl       string `header:"Cache-Control"`
	Policy             string `header:"Content-Security-Policy"`
	MadeSafe           int    `header:"X-Made-Safe"`
	Body               func(huma.Context)
}

// Spool makes one. Write gives its content, and how many cells were made safe for a spreadsheet.
func Spool(name, kind string, write func(io.Writer) (safe int, err error)) (*Spooled, error) {
	f, err := os.CreateTemp("", "lucidletter-export-")
	if err != nil {
		return nil, fmt.Errorf("make a file: %w", err)
	}
	gone := func() {
		_ = f.Close()
		_ = os.Remove(f.Name())
	}
	buffered := bufio.NewWriterSize(f, 64<<10)
	safe, err := write(buffered)
	if err == nil {
		err = buffered.Flush()
	}
	var size int64
	if err == nil {
		size, err = f.Seek(0, io.SeekEnd)
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		gone()
		return nil, err
	}
	return &Spooled{
		ContentType: kind, ContentDisposition: mime.FormatMediaType("attachment", map[string]string{"filename": name}),
		CacheControl: "private, no-store", Policy: "default-src 'none'; sandbox", MadeSafe: safe,
		Body: func(c huma.Context) {
			defer gone()
			c.SetHeader("Content-Length", strconv.FormatInt(size, 10))
			c.SetStatus(http.StatusOK)
			_, _ = io.Copy(c.BodyWriter(), f) // who is gone does not hear it
		},
	}, nil
}
