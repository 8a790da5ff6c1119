package guard

import "net/http"

// oneAnswer drops what comes behind an answer that was given in the place of another.
type oneAnswer struct {
	http.ResponseWriter
	given bool
}

// WithOneAnswer lets an answer be given in the place of another, by Given.
func WithOneAnswer(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { next.ServeHTTP(&oneAnswer{ResponseWriter: w}, r) })
}

// Unwrap lets others set deadlines.
func (w *oneAnswer) Unwrap() http.ResponseWriter { return w.ResponseWriter }

func (w *oneAnswer) WriteHeader(status int) {
	if !w.given {
		w.ResponseWriter.WriteHeader(status)
	}
}

func (w *oneAnswer) Write(p []byte) (int, error) {
	if w.given {
		return len(p), nil
	}
	return w.ResponseWriter.Write(p)
}

// Given says that the answer was given; what comes behind it is dropped.
func Given(w http.ResponseWriter) {
	if one, ok := w.(*oneAnswer); ok {
		one.given = true
	}
}
