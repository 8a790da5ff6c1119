// Package httpapi carries the use cases over HTTP: a JSON API described by
// OpenAPI 3.1, errors as problem+json (RFC 9457), a session cookie, and the
// built front end. Rights and rules are not decided here.
package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"

	"lucidletter/internal/app"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi/guard"
	"lucidletter/internal/httpapi/pages"
	"lucidletter/internal/httpapi/web"
)

// Server answers HTTP requests. Make it with New.
type Server struct {
	app      *app.App
	log      *slog.Logger
	sessions *scs.SessionManager
	api      huma.API
	web      *web.API
	handler  http.Handler
	refused  guard.Tally // sign-ins that were not looked at
	once     guard.Once
	// Proxies are the networks of proxies whose word on where a request comes from counts.
	Proxies []netip.Prefix
	// Patience is for how long something is looked up; a list or a count has two and a half
	// times as long.
	Patience time.Duration
}

// Lists are never null in this API; the library's default is a package
// variable.
func init() { huma.DefaultArrayNullable = false }

// New makes the handler of the whole program. Front is the built front end, or
// nil when it was not built. The sessions are kept in db.
func New(a *app.App, db guard.Databases, front fs.FS, log *slog.Logger) *Server {
	gin.SetMode(gin.ReleaseMode)
	engine := gin.New()
	s := &Server{app: a, log: log, sessions: scs.New(), Proxies: guard.ThisMachine(), Patience: 2 * time.Second}
	engine.Use(s.recovered, secured, s.timed, forgetful, s.once.Handle)
	s.sessions.Lifetime = 14 * 24 * time.Hour
	s.sessions.Cookie.Name = "lucidletter"
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = strings.HasPrefix(a.PublicURL(), "https:")
	s.sessions.HashTokenInStore = true
	s.sessions.ErrorFunc = s.sessionFailed
	if db != nil {
		s.sessions.Store = guard.Sessions{DB: db}
		s.once.DB = db
	}
	s.api = humagin.New(engine, config())
	s.web = &web.API{API: s.api, User: s.user, Answer: s.answer, Patience: func() time.Duration { return s.Patience }}
	s.once.User = func(ctx context.Context) int64 { return s.sessions.GetInt64(ctx, userKey) }
	s.once.Makes, s.once.Log, s.once.Refuse = s.web.Makes, log, refuse
	s.once.Failed = func(c *gin.Context, err error) {
		refuse(c, http.StatusServiceUnavailable, s.answer("once", err).Error())
	}
	s.routes()
	pages.New(a, log).Routes(engine)
	engine.GET("/calendar/:file", s.calendar)
	engine.GET("/frame", func(c *gin.Context) {
		c.Header("Content-Security-Policy", framePolicy)
		c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(frame))
	})
	engine.NoRoute(frontend(front))
	s.handler = http.NewCrossOriginProtection().Handler(web.Paced(guard.WithCaller(guard.WithOneAnswer(s.sessions.LoadAndSave(engine)), func() []netip.Prefix { return s.Proxies })))
	return s
}

func config() huma.Config {
	c := huma.DefaultConfig("Lucid Letter", "0.1.0")
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "", "", ""
	c.CreateHooks = nil // no $schema links
	c.Info.Description = "Templates, letters and records of one workspace. Sign in with POST /api/session; the cookie it sets goes with every other call."
	return c
}

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// OpenAPI gives the description of the API as JSON, indented and with its keys in order, so
// that two of them can be compared line by line.
func (s *Server) OpenAPI() ([]byte, error) {
	var doc map[string]any // whose keys are written in their order
	compact, err := s.api.OpenAPI().MarshalJSON()
	if err == nil {
		err = json.Unmarshal(compact, &doc)
	}
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err = enc.Encode(doc)
	return bytes.TrimSpace(out.Bytes()), err
}

// refuse answers a request that no operation is asked about.
func refuse(c *gin.Context, status int, detail string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, problem(status, detail))
}

// recovered turns a panic into a logged 500.
func (s *Server) recovered(c *gin.Context) {
	defer func() {
		if r := recover(); r != nil {
			s.log.Error("panic", "path", c.Request.URL.Path, "panic", r)
			c.AbortWithStatusJSON(http.StatusInternalServerError, problem(http.StatusInternalServerError, unexpected))
		}
	}()
	c.Next()
}

// framePolicy is for the empty page that letters are shown in whose pictures may come from
// elsewhere: those that are written here, and those for which a reader asked.
const framePolicy = "default-src 'none'; img-src 'self' data: https: http:; style-src 'unsafe-inline'; frame-ancestors 'self'; base-uri 'none'; form-action 'none'"

const frame = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Letter</title></head><body></body></html>`

const policy = "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; font-src 'self'; " +
	"connect-src 'self'; frame-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'; object-src 'none'"

func secured(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		// Also what is not there: a browser may remember 404 and 410 (RFC 9110 section 15.1).
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// forgetful takes away what a form brought in on the disk: the form is known to this request
// alone.
func forgetful(c *gin.Context) {
	defer func() {
		if f := c.Request.MultipartForm; f != nil {
			_ = f.RemoveAll() // what is left is in the folder for what may go
		}
	}()
	c.Next()
}

// timed tells the program's time with every answer: screens go by it, also when it was moved.
func (s *Server) timed(c *gin.Context) {
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		c.Writer.Header().Set("X-Clock", s.app.Now().UTC().Format(time.RFC3339Nano))
	}
	c.Next()
}

const userKey = "user"

// user gives the one who is signed in, or errSignedOut.
func (s *Server) user(ctx context.Context) (domain.User, error) {
	id := s.sessions.GetInt64(ctx, userKey)
	if id == 0 {
		return domain.User{}, errSignedOut
	}
	u, err := s.app.Team.User(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		err = errSignedOut
	}
	return u, err
}

// handle registers an operation for those who are signed in; for others nothing
// of the request is read.
func handle[I, O any](s *Server, op huma.Operation, f func(context.Context, domain.User, *I) (*O, error)) {
	web.Handle(s.web, op, f)
}

// body is an answer of one JSON value.
type body[T any] = web.Body[T]

func ok[T any](v T) *body[T] { return web.OK(v) }

func op(id, method, path, summary string) huma.Operation { return web.Op(id, method, path, summary) }
