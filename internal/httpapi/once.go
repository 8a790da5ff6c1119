package httpapi

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"io"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"lucidletter/internal/httpapi/web"
)

// keyHeader is the name of the key of an act (draft-ietf-httpapi-idempotency-key-header, section 2).
const keyHeader = "Idempotency-Key"

// For how long what came of an act is kept, and up to what size.
const (
	keepActs = 24 * time.Hour
	mostAct  = 1 << 20
)

var actKey = regexp.MustCompile(`^[\x21-\x7E]{8,100}$`)

// once has what is made by requests with one key made once: whoever asks again, at the same time
// or within a day, is told what came of it.
type once struct {
	db      Databases
	mu      sync.Mutex
	running map[string]chan struct{} // those of this program that are under way
}

// act is what is known of a key.
type act struct {
	what, kind string
	status     int
	body       []byte
}

func (o *once) find(ctx context.Context, user int64, key string, now time.Time) (a act, known bool, err error) {
	err = o.db.Readers().QueryRowContext(ctx, `SELECT what, type, status, body FROM acts WHERE user_id = ? AND key = ? AND at > ?`, user, key, julian(now.Add(-keepActs))).Scan(&a.what, &a.kind, &a.status, &a.body)
	if errors.Is(err, sql.ErrNoRows) {
		return a, false, nil
	}
	return a, err == nil, err
}

// claim notes that an act begins; false when it has begun before.
func (o *once) claim(ctx context.Context, user int64, key, what string, now time.Time) (bool, error) {
	if _, err := o.db.DB().ExecContext(ctx, `DELETE FROM acts WHERE at <= ?`, julian(now.Add(-keepActs))); err != nil {
		return false, err
	}
	r, err := o.db.DB().ExecContext(ctx, `INSERT OR IGNORE INTO acts (user_id, key, what, at) VALUES (?, ?, ?, ?)`, user, key, what, julian(now))
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, err
}

func (o *once) finish(ctx context.Context, user int64, key string, a act) error {
	_, err := o.db.DB().ExecContext(ctx, `UPDATE acts SET status = ?, type = ?, body = ? WHERE user_id = ? AND key = ?`, a.status, a.kind, a.body, user, key)
	return err
}

func (o *once) release(ctx context.Context, user int64, key string) error {
	_, err := o.db.DB().ExecContext(ctx, `DELETE FROM acts WHERE user_id = ? AND key = ?`, user, key)
	return err
}

// enter takes an act in hand; false, and what to wait for, when it is in another one's.
func (o *once) enter(name string) (mine bool, other chan struct{}) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if c := o.running[name]; c != nil {
		return false, c
	}
	if o.running == nil {
		o.running = map[string]chan struct{}{}
	}
	o.running[name] = make(chan struct{})
	return true, nil
}

func (o *once) leave(name string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	close(o.running[name])
	delete(o.running, name)
}

// written is what an answer says, beside sending it.
type written struct {
	gin.ResponseWriter
	body bytes.Buffer
	full bool
}

func (w *written) Write(p []byte) (int, error) {
	if w.full = w.full || w.body.Len()+len(p) > mostAct; !w.full {
		w.body.Write(p)
	}
	return w.ResponseWriter.Write(p)
}

func (w *written) WriteString(s string) (int, error) { return w.Write([]byte(s)) }

// doOnce is the part of every request that carries a key and makes something.
func (s *Server) doOnce(c *gin.Context) {
	key := c.GetHeader(keyHeader)
	if key == "" || s.once.db == nil || !s.web.Makes(c.Request.Method, c.FullPath()) {
		c.Next()
		return
	}
	user := s.sessions.GetInt64(c.Request.Context(), userKey)
	if user == 0 {
		c.Next()
		return
	}
	if !actKey.MatchString(key) {
		refuse(c, http.StatusUnprocessableEntity, "The header "+keyHeader+" is no key; write 8 to 100 letters, figures or signs.")
		return
	}
	what, err := whatOf(c)
	if err != nil {
		refuse(c, http.StatusRequestEntityTooLarge, "The request is too large.")
		return
	}
	if err := s.actOnce(c, user, key, what); err != nil {
		problem := s.answer("once", err)
		refuse(c, http.StatusServiceUnavailable, problem.Error())
	}
}

func refuse(c *gin.Context, status int, detail string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, problem(status, detail))
}

// whatOf says what a request asks for. The files of a form are not part of that.
func whatOf(c *gin.Context) (string, error) {
	sum := sha256.New()
	_, _ = io.WriteString(sum, c.Request.URL.RequestURI()) // never fails
	if !strings.HasPrefix(c.ContentType(), "multipart/") {
		all, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, 8<<20))
		if err != nil {
			return "", err
		}
		c.Request.Body = io.NopCloser(bytes.NewReader(all))
		_, _ = sum.Write(all)
	}
	return hex.EncodeToString(sum.Sum(nil)), nil
}

func (s *Server) actOnce(c *gin.Context, user int64, key, what string) error {
	ctx, now := c.Request.Context(), time.Now()
	name := web.Name(user, key)
	for {
		mine, other := s.once.enter(name)
		if mine {
			break
		}
		select {
		case <-other:
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	defer s.once.leave(name)
	was, known, err := s.once.find(ctx, user, key, now)
	switch {
	case err != nil:
		return err
	case known && was.what != what:
		refuse(c, http.StatusUnprocessableEntity, "This "+keyHeader+" was used for something else; take another one.")
		return nil
	case known && was.status == 0:
		refuse(c, http.StatusConflict, "The program ended while it did this. Look whether it was done before you do it again.")
		return nil
	case known:
		c.Abort()
		if was.status == http.StatusNoContent {
			c.Status(was.status)
			c.Writer.WriteHeaderNow()
		} else {
			c.Data(was.status, was.kind, was.body)
		}
		return nil
	}
	if first, err := s.once.claim(ctx, user, key, what, now); err != nil || !first {
		return errors.Join(err, ctx.Err())
	}
	w := &written{ResponseWriter: c.Writer}
	c.Writer = w
	done := false
	after := context.WithoutCancel(ctx)
	defer func() {
		if !done { // it failed, or panicked: it may be tried again
			if err := s.once.release(after, user, key); err != nil {
				s.log.Error("let go of an act", "error", err)
			}
		}
	}()
	c.Next()
	if status := w.Status(); status < 300 && !w.full {
		done = true
		if err := s.once.finish(after, user, key, act{what, w.Header().Get("Content-Type"), status, w.body.Bytes()}); err != nil {
			s.log.Error("note what came of an act", "error", err)
		}
	}
	return nil
}
