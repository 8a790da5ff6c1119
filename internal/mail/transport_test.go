package mail_test

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"io"
	"math/big"
	"net"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"

	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
)

// talk listens, and has every connection answered by do.
func talk(t *testing.T, do func(net.Conn)) (string, *atomic.Int32) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = l.Close() })
	var n atomic.Int32
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			n.Add(1)
			go func() { defer func() { _ = c.Close() }(); do(c) }()
		}
	}()
	return l.Addr().String(), &n
}

// says answers commands by their first word; "" closes the connection.
func says(c net.Conn, answers map[string]string) {
	write := func(s string) { _, _ = c.Write([]byte(s + "\r\n")) }
	write("220 server.example")
	in := bufio.NewScanner(c)
	in.Buffer(nil, 1<<20)
	data := false
	for in.Scan() {
		verb := strings.ToUpper(strings.Fields(in.Text() + " x")[0])
		switch {
		case data && in.Text() != ".":
			if answers["within"] == "close" {
				return
			}
			continue
		case data:
			verb, data = "DOT", false
		}
		answer, set := answers[verb]
		if !set {
			answer = map[string]string{"DATA": "354 go on", "QUIT": "221 bye"}[verb]
			if answer == "" {
				answer = "250 ok"
			}
		}
		if answer == "" {
			return
		}
		if answer == "hang" {
			time.Sleep(3 * time.Second)
			return
		}
		write(answer)
		if verb == "DOT" && answers["after"] == "close" {
			return
		}
		data = verb == "DATA"
	}
}

var content = []byte("Subject: x\r\n\r\nhello\r\n")

func send(tr *mail.Transport, by domain.Account) (string, *domain.SendError) {
	answer, err := tr.Send(context.Background(), by, "a@b.example", []string{"c@d.example"}, content)
	var failed *domain.SendError
	if err != nil && !errors.As(err, &failed) {
		failed = &domain.SendError{Stage: "?", Answer: err.Error()}
	}
	return answer, failed
}

// A server that dies, answers garbage or hangs: the letter is known not to have gone, or
// it is not known; nothing else.
func TestTransport_faults(t *testing.T) {
	for _, row := range []struct {
		name      string
		do        func(net.Conn)
		stage     string
		temporary bool
		unsure    bool
	}{
		{"closes at once", func(net.Conn) {}, "connect", true, false},
		{"garbage", func(c net.Conn) { _, _ = c.Write([]byte("\x00\xff<html>no mail here\r\n\r\n")) }, "connect", true, false},
		{"greets with a refusal", func(c net.Conn) { _, _ = c.Write([]byte("554 go away\r\n")) }, "connect", true, false},
		{"refuses the greeting", func(c net.Conn) { says(c, map[string]string{"EHLO": "550 not you", "HELO": "550 not you"}) }, "connect", true, false},
		{"hangs", func(net.Conn) { time.Sleep(3 * time.Second) }, "connect", true, false},
		{"hangs at the sender", func(c net.Conn) { says(c, map[string]string{"MAIL": "hang"}) }, "sender", true, false},
		{"closes at the recipient", func(c net.Conn) { says(c, map[string]string{"RCPT": ""}) }, "recipient", true, false},
		{"closes with a word", func(c net.Conn) { says(c, map[string]string{"MAIL": "421 shutting down"}) }, "sender", true, false},
		{"garbage at the recipient", func(c net.Conn) { says(c, map[string]string{"RCPT": "what?"}) }, "recipient", true, false},
		{"refuses the content at once", func(c net.Conn) { says(c, map[string]string{"DATA": "554 no"}) }, "content", false, false},
		{"hangs after the content", func(c net.Conn) { says(c, map[string]string{"DOT": "hang"}) }, "content", true, true},
		{"closes after the content", func(c net.Conn) { says(c, map[string]string{"DOT": ""}) }, "content", true, true},
		{"garbage after the content", func(c net.Conn) { says(c, map[string]string{"DOT": "?!"}) }, "content", true, true},
		{"refuses the content", func(c net.Conn) { says(c, map[string]string{"DOT": "550 no"}) }, "content", false, false},
		{"shuts down after the content", func(c net.Conn) { says(c, map[string]string{"DOT": "421 not now"}) }, "content", true, false},
	} {
		t.Run(row.name, func(t *testing.T) {
			t.Parallel()
			addr, _ := talk(t, row.do)
			tr := &mail.Transport{Addr: addr, Local: "test.example", AnswerWithin: 300 * time.Millisecond}
			defer tr.Close()
			answer, failed := send(tr, domain.Account{})
			if failed == nil || failed.Stage != row.stage || failed.Temporary != row.temporary || failed.Unsure != row.unsure {
				t.Errorf("%q %+v", answer, failed)
			}
		})
	}
	// It dies within the content, which is then too long for the buffers between.
	addr, _ := talk(t, func(c net.Conn) { says(c, map[string]string{"within": "close"}) })
	tr := &mail.Transport{Addr: addr, Local: "test.example", AnswerWithin: time.Second}
	long := []byte("Subject: x\r\n\r\n" + strings.Repeat(strings.Repeat("x", 70)+"\r\n", 400_000))
	_, err := tr.Send(context.Background(), domain.Account{}, "a@b.example", []string{"c@d.example"}, long)
	var failed *domain.SendError
	if !errors.As(err, &failed) || failed.Stage != "content" || !failed.Temporary || failed.Unsure {
		t.Errorf("within the content: %+v", err)
	}
}

// Connections are kept; one that the server has closed meanwhile is made anew, and
// the letter goes once.
func TestTransport_keepsConnections(t *testing.T) {
	good := func(c net.Conn) { says(c, nil) }
	addr, n := talk(t, good)
	tr := &mail.Transport{Addr: addr, Local: "test.example"}
	defer tr.Close()
	for range 5 {
		if answer, failed := send(tr, domain.Account{Connections: 2}); failed != nil {
			t.Fatalf("%q %+v", answer, failed)
		}
	}
	if n.Load() != 1 {
		t.Errorf("%d connections for five letters", n.Load())
	}
	// Closes after each letter.
	addr, n = talk(t, func(c net.Conn) { says(c, map[string]string{"after": "close"}) })
	tr = &mail.Transport{Addr: addr, Local: "test.example"}
	defer tr.Close()
	for range 3 {
		if answer, failed := send(tr, domain.Account{Connections: 2}); failed != nil {
			t.Fatalf("%q %+v", answer, failed)
		}
	}
	if n.Load() != 3 {
		t.Errorf("%d connections for three letters", n.Load())
	}
}

// account is a server that wants a login, over STARTTLS or TLS, with a certificate of
// its own.
func account(t *testing.T, implicit bool) (domain.Account, *x509.CertPool) {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	form := x509.Certificate{SerialNumber: big.NewInt(1), DNSNames: []string{"localhost"}, NotBefore: time.Now().Add(-time.Hour), NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, &form, &form, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	cert, err := x509.ParseCertificate(der)
	if err != nil {
		t.Fatal(err)
	}
	pool := x509.NewCertPool()
	pool.AddCert(cert)
	config := &tls.Config{Certificates: []tls.Certificate{{Certificate: [][]byte{der}, PrivateKey: key}}}
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &guarded{}, nil }))
	s.Domain, s.TLSConfig = "localhost", config
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	by := domain.Account{ID: 1, Connections: 1, Server: domain.Login{Host: "localhost", Port: l.Addr().(*net.TCPAddr).Port, Security: "starttls", Method: "plain", User: "imre", Secret: "right"}}
	if implicit {
		l, by.Server.Security = tls.NewListener(l, config), "tls"
	}
	done := make(chan struct{})
	go func() { defer close(done); _ = s.Serve(l) }() // it ends with an error when it is closed
	t.Cleanup(func() { _ = s.Close(); _ = l.Close(); <-done })
	return by, pool
}

// guarded wants a login before anything.
type guarded struct{ in bool }

func (g *guarded) Reset()                               {}
func (g *guarded) Logout() error                        { return nil }
func (g *guarded) Rcpt(string, *smtp.RcptOptions) error { return nil }
func (g *guarded) Data(r io.Reader) error               { _, err := io.Copy(io.Discard, r); return err }
func (g *guarded) Mail(string, *smtp.MailOptions) error {
	if !g.in {
		return smtp.ErrAuthRequired
	}
	return nil
}

func (g *guarded) AuthMechanisms() []string { return []string{"PLAIN", "LOGIN", "XOAUTH2"} }
func (g *guarded) Auth(mech string) (sasl.Server, error) {
	check := func(user, pass string) error {
		if user == "imre" && pass == "right" {
			g.in = true
			return nil
		}
		return smtp.ErrAuthFailed
	}
	switch mech {
	case "PLAIN":
		return sasl.NewPlainServer(func(_, user, pass string) error { return check(user, pass) }), nil
	case "LOGIN":
		return &loginServer{check: check}, nil
	}
	return &tokenServer{check: check}, nil
}

// loginServer speaks LOGIN (draft-murchison-sasl-login).
type loginServer struct {
	check func(user, pass string) error
	user  *string
}

func (l *loginServer) Next(said []byte) ([]byte, bool, error) {
	switch {
	case said == nil:
		return []byte("Username:"), false, nil
	case l.user == nil:
		user := string(said)
		l.user = &user
		return []byte("Password:"), false, nil
	}
	return nil, true, l.check(*l.user, string(said))
}

type tokenServer struct{ check func(user, pass string) error }

func (s *tokenServer) Next(said []byte) ([]byte, bool, error) {
	parts := strings.Split(string(said), "\x01")
	if len(parts) != 4 || parts[2] != "" || parts[3] != "" {
		return nil, true, smtp.ErrAuthFailed
	}
	return nil, true, s.check(strings.TrimPrefix(parts[0], "user="), strings.TrimPrefix(parts[1], "auth=Bearer "))
}

func TestTransport_signsIn(t *testing.T) {
	for _, implicit := range []bool{false, true} {
		by, pool := account(t, implicit)
		for _, method := range []string{"plain", "login", "xoauth2"} {
			by.Server.Method = method
			tr := &mail.Transport{Local: "test.example", Roots: pool}
			if answer, failed := send(tr, by); failed != nil {
				t.Errorf("%s, TLS %t: %q %+v", method, implicit, answer, failed)
			}
			tr.Close()
		}
		tr := &mail.Transport{Local: "test.example", Roots: pool}
		wrong := by
		wrong.Server.Secret = "wrong"
		if _, failed := send(tr, wrong); failed == nil || failed.Stage != "sign in" || !failed.Temporary || !strings.Contains(failed.Answer, "535") {
			t.Errorf("a wrong password: %+v", failed)
		}
		if _, failed := send(&mail.Transport{Local: "test.example"}, by); failed == nil || failed.Stage != "connect" || !strings.Contains(failed.Answer, "not to be trusted") {
			t.Errorf("a certificate of nobody: %+v", failed)
		}
		other := by
		other.Server.Host = "127.0.0.1" // which the certificate does not name
		if _, failed := send(tr, other); failed == nil || failed.Stage != "connect" {
			t.Errorf("another host: %+v", failed)
		}
	}
}

// A program that ends waits for no server, whatever that does: at each word it may hang for ever.
func TestTransport_ends(t *testing.T) {
	for _, verb := range []string{"greeting", "EHLO", "AUTH", "MAIL", "RCPT", "DATA", "DOT"} {
		t.Run(verb, func(t *testing.T) {
			t.Parallel()
			reached, over := make(chan struct{}), make(chan struct{})
			defer close(over)
			addr, _ := talk(t, func(c net.Conn) {
				hang := func() { close(reached); <-over }
				if verb == "greeting" {
					hang()
					return
				}
				write := func(s string) { _, _ = c.Write([]byte(s + "\r\n")) }
				write("220 server.example")
				data := false
				for in := bufio.NewScanner(c); in.Scan(); {
					said := strings.ToUpper(strings.Fields(in.Text() + " x")[0])
					if data && in.Text() != "." {
						continue
					}
					if data {
						said, data = "DOT", false
					}
					if said == verb {
						hang()
						return
					}
					switch said {
					case "EHLO":
						write("250-server.example\r\n250 AUTH PLAIN")
					case "AUTH":
						write("235 in")
					case "DATA":
						data = true
						write("354 go on")
					default:
						write("250 ok")
					}
				}
			})
			host, port, err := net.SplitHostPort(addr)
			if err != nil {
				t.Fatal(err)
			}
			number, err := strconv.Atoi(port)
			if err != nil {
				t.Fatal(err)
			}
			tr := &mail.Transport{Local: "test.example", AnswerWithin: time.Hour}
			defer tr.Close()
			ctx, cancel := context.WithCancel(context.Background())
			go func() { <-reached; cancel() }()
			by := domain.Account{ID: 1, Server: domain.Login{Host: host, Port: number, Security: "none", Method: "plain", User: "u", Secret: "s"}}
			_, err = tr.Send(ctx, by, "a@b.example", []string{"c@d.example"}, content)
			var failed *domain.SendError
			if !errors.As(err, &failed) || failed.Unsure != (verb == "DOT") || !failed.Temporary {
				t.Errorf("%+v", err)
			}
		})
	}
}
