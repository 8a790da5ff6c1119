package web

import (
	"io"
	"net/http"
	"time"
)

// For how long one connection is waited for. A body has some seconds and then comes at least at
// a slow line's pace; of an answer each piece is taken within a while.
const (
	bodyWithin  = 15 * time.Second
	bodyPace    = 32 << 10 // bytes a second
	pieceWithin = 30 * time.Second
	restWithin  = 2 * time.Second
	piece       = 64 << 10
)

// Paced ends connections that send or read too slowly, and forgets what they sent: a form's
// files go with its request.
func Paced(next http.Handler) http.Handler {
	return pacedBy(next, limits{bodyWithin, pieceWithin, restWithin})
}

// limits are for how long a body has before it must keep pace, a piece of an answer has to be
// taken, and what is left of a body that nobody reads has to come.
type limits struct{ body, piece, rest time.Duration }

func pacedBy(next http.Handler, l limits) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c := http.NewResponseController(w)
		paced := &pacedWriter{w, c, l.piece}
		paced.soon()
		if r.Body == nil || r.Body == http.NoBody {
			next.ServeHTTP(paced, r)
			return
		}
		body := &pacedBody{ReadCloser: r.Body, c: c, within: l.body, began: time.Now()}
		r.Body = body
		next.ServeHTTP(paced, r)
		if !body.ended { // what nobody read is thrown away, and not waited for
			_ = c.SetReadDeadline(time.Now().Add(l.rest))
		}
	})
}

type pacedBody struct {
	io.ReadCloser
	c      *http.ResponseController
	within time.Duration
	began  time.Time
	read   int64
	ended  bool
}

func (b *pacedBody) Read(p []byte) (int, error) {
	// A connection without deadlines is one of a test.
	_ = b.c.SetReadDeadline(b.began.Add(b.within + time.Duration(b.read)*time.Second/bodyPace))
	n, err := b.ReadCloser.Read(p)
	b.read += int64(n)
	if err != nil { // it is read: what comes next is another request
		b.ended = true
		_ = b.c.SetReadDeadline(time.Time{})
	}
	return n, err
}

type pacedWriter struct {
	http.ResponseWriter
	c      *http.ResponseController
	within time.Duration
}

func (w *pacedWriter) soon() { _ = w.c.SetWriteDeadline(time.Now().Add(w.within)) }

// Unwrap lets others set deadlines.
func (w *pacedWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func (w *pacedWriter) WriteHeader(status int) {
	w.soon()
	w.ResponseWriter.WriteHeader(status)
}

func (w *pacedWriter) Write(p []byte) (int, error) {
	done := 0
	for {
		w.soon()
		n, err := w.ResponseWriter.Write(p[done:min(len(p), done+piece)])
		if done += n; err != nil || done >= len(p) {
			return done, err
		}
	}
}
