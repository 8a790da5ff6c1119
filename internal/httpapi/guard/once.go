// Package guard is what stands before the operations of the API: who asks and from where, how
// often, and that what is asked twice is made once.
package guard

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
)

// KeyHeader is the name of the key of an act (draft-ietf-httpapi-idempotency-key-header, section 2).
const KeyHeader = "Idempotency-Key"

// For how long what came of an act is kept, and up to what size.
const (
	keepActs = 24 * time.Hour
	mostAct  = 1 << 20
)

var actKey = regexp.MustCompile(`^[\x21-\x7E]{8,100}$`)

// Once has what is made by requests with one key made once: whoever asks again, at the same time
// or within a day, is told what came of it.
type Once struct {
	DB      Databases
	User    func(ctx context.Context) int64 // who is signed in, 0 nobody
	Makes   func(method, route string) bool // whether a route makes something
	Refuse  func(c *gin.Context, status int, why string)
	Failed  func(c *gin.Context, err error) // answers and logs an error of the database
	Log     *slog.Logger
	mu      sync.Mutex
	running map[string]chan struct{} // those of this program that are under way
}

// act is what is known of a key.
type act struct {
	what, kind string
	status     int
	body       []byte
}

func (o *Once) find(ctx context.Context, user int64, key string, now time.Time) (a act, known bool, err error) {
	err = o.DB.Readers().QueryRowContext(ctx, `SELECT what, type, status, body FROM acts WHERE user_id = ? AND key = ? AND at > ?`, user, key, Julian(now.Add(-keepActs))).Scan(&a.what, &a.kind, &a.status, &a.body)
	if errors.Is(err, sql.ErrNoRows) {
		return a, false, nil
	}
	return a, err == nil, err
}

// claim notes that an act begins; false when it has begun before.
func (o *Once) claim(ctx context.Context, user int64, key, what string, now time.Time) (bool, error) {
	if _, err := o.DB.DB().ExecContext(ctx, `DELETE FROM acts WHERE at <= ?`, Julian(now.Add(-keepActs))); err != nil {
		return false, err
	}
	r, err := o.DB.DB().ExecContext(ctx, `INSERT OR IGNORE INTO acts (user_id, key, what, at) VALUES (?, ?, ?, ?)`, user, key, what, Julian(now))
	if err != nil {
		return false, err
	}
	n, err := r.RowsAffected()
	return n == 1, err
}

func (o *Once) finish(ctx context.Context, user int64, key string, a act) error {
	_, err := o.DB.DB().ExecContext(ctx, `UPDATE acts SET status = ?, type = ?, body = ? WHERE user_id = ? AND key = ?`, a.status, a.kind, a.body, user, key)
	return err
}

func (o *Once) release(ctx context.Context, user int64, key string) error {
	_, err := o.DB.DB().ExecContext(ctx, `DELETE FROM acts WHERE user_id = ? AND key = ?`, user, key)
	return err
}

// enter takes an act in hand; false, and what to wait for, when it is in another one's.
func (o *Once) enter(name string) (mine bool, other chan struct{}) {
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

func (o *Once) leave(name string) {
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

// Handle is the part of every request that carries a key and makes something.
func (o *Once) Handle(c *gin.Context) {
	key := c.GetHeader(KeyHeader)
	if key == "" || o.DB == nil || !o.Makes(c.Request.Method, c.FullPath()) {
		c.Next()
		return
	}
	user := o.User(c.Request.Context())
	if user == 0 {
		c.Next()
		return
	}
	if !actKey.MatchString(key) {
		o.Refuse(c, http.StatusUnprocessableEntity, "The header "+KeyHeader+" is no key; write 8 to 100 letters, figures or signs.")
		return
	}
	what, err := whatOf(c)
	if err != nil {
		o.Refuse(c, http.StatusRequestEntityTooLarge, "The request is too large.")
		return
	}
	if err := o.act(c, user, key, what); err != nil {
		o.Failed(c, err)
	}
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

func (o *Once) act(c *gin.Context, user int64, key, what string) error {
	ctx, now := c.Request.Context(), time.Now()
	name := fmt.Sprint(user, " ", key)
	for {
		mine, other := o.enter(name)
		if mine {
			break
		}
		select {
		case <-other:
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	defer o.leave(name)
	was, known, err := o.find(ctx, user, key, now)
	switch {
	case err != nil:
		return err
	case known && was.what != what:
		o.Refuse(c, http.StatusUnprocessableEntity, "This "+KeyHeader+" was used for something else; take another one.")
		return nil
	case known && was.status == 0:
		o.Refuse(c, http.StatusConflict, "The program ended while it did this. Look whether it was done before you do it again.")
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
	if first, err := o.claim(ctx, user, key, what, now); err != nil || !first {
		return errors.Join(err, ctx.Err())
	}
	w := &written{ResponseWriter: c.Writer}
	c.Writer = w
	done := false
	after := context.WithoutCancel(ctx)
	defer func() {
		if !done { // it failed, or panicked: it may be tried again
			if err := o.release(after, user, key); err != nil {
				o.Log.Error("let go of an act", "error", err)
			}
		}
	}()
	c.Next()
	if status := w.Status(); status < 300 && !w.full {
		done = true
		if err := o.finish(after, user, key, act{what, w.Header().Get("Content-Type"), status, w.body.Bytes()}); err != nil {
			o.Log.Error("note what came of an act", "error", err)
		}
	}
	return nil
}
