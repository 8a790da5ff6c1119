package web

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"
)

// A body may come slowly, but not as slowly as that; what came in time is read.
func TestPaced_body(t *testing.T) {
	read := make(chan error, 2)
	server := httptest.NewServer(Paced(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		all, err := io.ReadAll(r.Body)
		read <- err
		_, _ = fmt.Fprint(w, len(all))
	})))
	defer server.Close()
	answer, err := http.Post(server.URL, "text/plain", strings.NewReader(strings.Repeat("x", 3<<20)))
	if err != nil {
		t.Fatal(err)
	}
	said, err := io.ReadAll(answer.Body)
	if err != nil || string(said) != fmt.Sprint(3<<20) || <-read != nil {
		t.Errorf("%s, %v", said, err)
	}
	_ = answer.Body.Close()
}

// A reader who takes nothing is let go: the handler comes to its end.
func TestPaced_reader(t *testing.T) {
	ended := make(chan error, 1)
	server := httptest.NewServer(quick(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		chunk := make([]byte, 1<<20)
		for {
			if _, err := w.Write(chunk); err != nil {
				ended <- err
				return
			}
		}
	})))
	defer server.Close()
	c, err := net.Dial("tcp", server.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Close() }()
	if _, err := fmt.Fprint(c, "GET / HTTP/1.1\r\nHost: x\r\n\r\n"); err != nil {
		t.Fatal(err)
	}
	var slow net.Error
	if err := <-ended; !errors.As(err, &slow) || !slow.Timeout() {
		t.Error(err)
	}
}

// quick is Paced with a hundredth of a second for a piece.
func quick(next http.Handler) http.Handler {
	return pacedBy(next, limits{body: bodyWithin, piece: pieceWithin / 3000, rest: restWithin})
}

// A sender who stops in the middle of a body is let go.
func TestPaced_sender(t *testing.T) {
	ended := make(chan error, 1)
	server := httptest.NewServer(pacedBy(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		_, err := io.ReadAll(r.Body)
		ended <- err
	}), limits{body: bodyWithin / 1000, piece: pieceWithin, rest: restWithin / 100}))
	defer server.Close()
	c, err := net.Dial("tcp", server.Listener.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Close() }()
	if _, err := fmt.Fprint(c, "POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\nabc"); err != nil {
		t.Fatal(err)
	}
	if err := <-ended; err == nil {
		t.Error("a body that never came was read")
	}
}

// Beyond the limit of one address connections are closed at once; those of a proxy are not, and
// who goes makes room.
func TestLimited(t *testing.T) {
	for _, trusted := range []bool{false, true} {
		inner, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			t.Fatal(err)
		}
		var list []netip.Prefix
		if trusted {
			list = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}
		}
		l := &limited{Listener: inner, trusted: list, from: map[string]int{"127.0.0.1": MostFromOne - 2}, all: MostFromOne - 2}
		accepted := make(chan net.Conn, 10)
		go func() {
			for {
				c, err := l.Accept()
				if err != nil {
					return
				}
				_, _ = fmt.Fprint(c, "hello\n")
				accepted <- c
			}
		}()
		greeted := func() bool {
			c, err := net.Dial("tcp", inner.Addr().String())
			if err != nil {
				t.Fatal(err)
			}
			defer func() { _ = c.Close() }()
			line, _ := bufio.NewReader(c).ReadString('\n')
			return line == "hello\n"
		}
		for range 2 {
			if !greeted() {
				t.Error("a connection within the limit is closed")
			}
		}
		if greeted() != trusted {
			t.Errorf("trusted %v: the connection beyond the limit", trusted)
		}
		if err := (<-accepted).Close(); err != nil {
			t.Error(err)
		}
		if !greeted() {
			t.Error("no room after one has gone")
		}
		_ = l.Close()
	}
}
