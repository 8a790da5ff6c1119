package pages

import (
	"bytes"
	"errors"
	"html/template"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"lucidletter/core/result"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// trackingRoutes are what the letters of recipients fetch and lead to: a picture, the
// addresses of links, the pages of documents. Nobody signs in; the token in the
// address is what opens them, and a link leads only to what stood in its letter.
func (s *Pages) trackingRoutes(engine *gin.Engine) {
	engine.GET("/o/:token", s.openPicture)
	engine.HEAD("/o/:token", s.openPicture)
	engine.GET("/l/:token", s.follow)
	engine.HEAD("/l/:token", s.follow)
	engine.GET("/d/:token", s.documentPage)
	engine.GET("/d/:token/file", s.documentFile)
}

func visitOf(c *gin.Context) result.Visit {
	var purpose []string
	for _, name := range []string{"Sec-Purpose", "Purpose", "X-Purpose", "X-Moz"} {
		purpose = append(purpose, c.GetHeader(name))
	}
	return result.Visit{Method: c.Request.Method, Agent: c.Request.UserAgent(), Purpose: strings.Join(purpose, " ")}
}

// Pixel is a transparent picture of one point (GIF89a).
var Pixel = []byte("GIF89a\x01\x00\x01\x00\x80\x00\x00\x00\x00\x00\xff\xff\xff!\xf9\x04\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02D\x01\x00;")

// openPicture gives the same picture to everybody, so that nothing can be learnt by
// trying tokens.
func (s *Pages) openPicture(c *gin.Context) {
	if err := s.app.Desk.Opened(c.Request.Context(), c.Param("token"), visitOf(c)); err != nil && !errors.Is(err, domain.ErrNotFound) {
		s.log.Error("open not filed", "error", err)
	}
	c.Header("Cache-Control", "no-store, private")
	c.Header("Cross-Origin-Resource-Policy", "cross-origin")
	c.Data(http.StatusOK, "image/gif", Pixel)
}

func (s *Pages) follow(c *gin.Context) {
	url, err := s.app.Desk.Followed(c.Request.Context(), c.Param("token"), visitOf(c))
	if err != nil && url == "" {
		if !errors.Is(err, domain.ErrNotFound) {
			s.log.Error("link not followed", "error", err)
		}
		s.showDocument(c, http.StatusNotFound, documentShown{Gone: true})
		return
	}
	if err != nil { // the reader goes on all the same
		s.log.Error("click not filed", "error", err)
	}
	c.Header("Cache-Control", "no-store, private")
	c.Header("Referrer-Policy", "no-referrer")
	c.Redirect(http.StatusFound, url)
}

type documentShown struct {
	desk.DocumentPage
	Token   string
	Picture bool
	PDF     bool
	Gone    bool
}

func (s *Pages) documentPage(c *gin.Context) {
	v := visitOf(c)
	page, err := s.app.Desk.DocumentPage(c.Request.Context(), c.Param("token"), &v)
	if err != nil {
		if !errors.Is(err, domain.ErrNotFound) {
			s.log.Error("document not shown", "error", err)
		}
		s.showDocument(c, http.StatusNotFound, documentShown{Gone: true})
		return
	}
	s.showDocument(c, http.StatusOK, documentShown{
		DocumentPage: page, Token: c.Param("token"), Picture: shownInPage(page.File.Type), PDF: page.File.Type == pdf,
	})
}

const pdf = "application/pdf"

// shownInPage tells whether a browser shows a file as a picture.
func shownInPage(kind string) bool {
	return kind == "image/png" || kind == "image/jpeg" || kind == "image/gif" || kind == "image/webp"
}

func (s *Pages) documentFile(c *gin.Context) {
	page, err := s.app.Desk.DocumentPage(c.Request.Context(), c.Param("token"), nil)
	if err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	kind, disposition := page.File.Type, "attachment"
	if shownInPage(kind) || kind == pdf {
		disposition = "inline"
	} else {
		kind = "application/octet-stream"
	}
	publicPage(c, "")
	if kind == pdf { // it stands in its page
		allow(c, "frame-ancestors 'none'", "frame-ancestors 'self'")
	}
	f, release, err := s.app.Library.HoldFile(c.Request.Context(), page.File)
	if err != nil {
		s.log.Warn("document not given", "error", err)
		c.Header("Retry-After", "10")
		c.Status(http.StatusServiceUnavailable)
		return
	}
	defer release()
	c.Header("Content-Type", kind)
	c.Header("Content-Disposition", mime.FormatMediaType(disposition, map[string]string{"filename": page.FileName}))
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, bytes.NewReader(f.Bytes))
}

func (s *Pages) showDocument(c *gin.Context, status int, p documentShown) {
	var b bytes.Buffer
	if err := documentTemplate.Execute(&b, &p); err != nil {
		s.log.Error("document not shown", "error", err)
		c.Status(http.StatusInternalServerError)
		return
	}
	publicPage(c, "")
	const nothing = "default-src 'none'"
	switch {
	case p.Picture:
		allow(c, nothing, nothing+"; img-src 'self'")
	case p.PDF:
		allow(c, nothing, nothing+"; object-src 'self'; frame-src 'self'")
	}
	c.Data(status, "text/html; charset=utf-8", b.Bytes())
}

// allow puts a directive into the policy of a page in the place of another.
func allow(c *gin.Context, instead, directive string) {
	const header = "Content-Security-Policy"
	c.Header(header, strings.Replace(c.Writer.Header().Get(header), instead, directive, 1))
}

var documentTemplate = template.Must(template.New("page").Parse(pageHead + `<title>{{if .Gone}}Page not found{{else}}{{.Name}}{{end}}</title>
</head>
<body><main{{if .PDF}} class="wide"{{end}}>
{{if .Gone}}<h1>This page doesn’t exist</h1>
<p>The address may have been cut off. Copy all of it from the email, or reply to the email instead.</p>
{{else}}<h1>{{.Name}}</h1>
{{if .Picture}}<p><img src="/d/{{.Token}}/file" alt="{{.Name}}"></p>{{end}}
{{if .PDF}}<object data="/d/{{.Token}}/file" type="application/pdf" aria-label="{{.Name}}"><p>Your browser can’t show PDF files in a page.</p></object>{{end}}
<p><a href="/d/{{.Token}}/file">Open {{.FileName}}</a></p>
<p class="from">{{.Sender}}{{with .Team}}, {{.}}{{end}}</p>{{end}}
</main></body></html>
`))
