package mail

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"

	"lucidletter/core/markup"
	"lucidletter/internal/domain"
)

// Transport implements app.Transport over SMTP (RFC 5321): to the server of an account,
// or to Addr (host:port) for the account 0. Connections are kept open for the next
// letter, each account's apart. Timeouts: 10 s to connect, 60 s for a command, 10 min
// for the answer to the content (RFC 5321 section 4.5.3.2.6).
type Transport struct {
	Addr     string
	Local    string         // the name given in EHLO
	Roots    *x509.CertPool // who vouches for servers; nil are those of this machine
	Networks Networks       // where servers of accounts may stand
	// AnswerWithin shortens the time for the answer to the content, for tests.
	AnswerWithin time.Duration

	mu   sync.Mutex
	idle map[string][]*line
}

const (
	connectTimeout = 10 * time.Second
	commandTimeout = 60 * time.Second
	answerTimeout  = 10 * time.Minute
	keepFor        = 30 * time.Second
	perConnection  = 100 // letters, then a new one; servers close long talks
)

// line is an open connection.
type line struct {
	*smtp.Client
	conn net.Conn
	sent int
	used time.Time
}

// Send hands the bytes over exactly as they are and gives the server's answer
// to the content. When the first recipient is refused nothing goes.
func (t *Transport) Send(ctx context.Context, by domain.Account, from string, to []string, content []byte) (string, error) {
	l, kept, err := t.line(ctx, &by)
	if err != nil {
		return "", err
	}
	answer, again, err := t.send(ctx, l, from, to, content)
	if err != nil && again && kept {
		// The server closed a connection that was kept; nothing of the letter was said.
		if l, err = t.dial(ctx, &by); err != nil {
			return "", err
		}
		answer, _, err = t.send(ctx, l, from, to, content)
	}
	var failed *domain.SendError
	if errors.As(err, &failed) && failed.Broken {
		_ = l.Close()
		return "", err
	}
	t.keep(ctx, &by, l)
	return answer, err
}

// send talks about one letter. Again tells that the connection broke before anything
// was said of it.
func (t *Transport) send(ctx context.Context, l *line, from string, to []string, content []byte) (answer string, again bool, err error) {
	// Closed, and not given a deadline: each command sets one of its own.
	stop := context.AfterFunc(ctx, func() { _ = l.conn.Close() })
	defer stop()
	if err := l.Mail(from, nil); err != nil {
		out := failed("sender", err)
		return "", out.Broken, out
	}
	refused := ""
	for i, one := range to {
		err := l.Rcpt(one, nil)
		var said *smtp.SMTPError
		switch {
		case err == nil:
		case i == 0 || !errors.As(err, &said):
			out := failed("recipient", err)
			if !out.Broken && l.Reset() != nil {
				out.Broken = true
			}
			return "", false, out
		default:
			refused += fmt.Sprintf("; the copy to %s was refused: %s", one, answerOf(said))
		}
	}
	w, err := l.Data()
	if err != nil {
		out := failed("content", err)
		if !out.Broken && l.Reset() != nil {
			out.Broken = true
		}
		return "", false, out
	}
	if _, err := w.Write(content); err != nil {
		// The final dot was never sent, so the server cannot have taken it.
		return "", false, failed("content", err)
	}
	said, err := w.CloseWithResponse()
	if err != nil {
		out := failed("content", err)
		var word *smtp.SMTPError
		out.Unsure = !errors.As(err, &word)
		return "", false, out
	}
	return fmt.Sprintf("250 %s%s", said.StatusText, refused), false, nil
}

func key(by *domain.Account) string {
	return fmt.Sprint(by.ID, " ", by.Server.Host, ":", by.Server.Port, " ", by.Server.User, " ", by.Server.Security)
}

// line takes a connection that was kept, or makes one.
func (t *Transport) line(ctx context.Context, by *domain.Account) (l *line, kept bool, err error) {
	for {
		t.mu.Lock()
		list := t.idle[key(by)]
		if len(list) == 0 {
			t.mu.Unlock()
			l, err := t.dial(ctx, by)
			return l, false, err
		}
		l := list[len(list)-1]
		t.idle[key(by)] = list[:len(list)-1]
		t.mu.Unlock()
		if time.Since(l.used) < keepFor {
			return l, true, nil
		}
		_ = l.Close() // it was to be closed anyway
	}
}

// keep puts a connection by for the next letter.
func (t *Transport) keep(ctx context.Context, by *domain.Account, l *line) {
	l.sent++
	l.used = time.Now()
	t.mu.Lock()
	defer t.mu.Unlock()
	if l.sent >= perConnection || len(t.idle[key(by)]) >= max(1, by.Connections) || ctx.Err() != nil {
		go func() { _ = l.Quit() }() // how the goodbye goes does not matter
		return
	}
	if t.idle == nil {
		t.idle = map[string][]*line{}
	}
	t.idle[key(by)] = append(t.idle[key(by)], l)
}

// Close closes the connections that are kept.
func (t *Transport) Close() {
	t.mu.Lock()
	defer t.mu.Unlock()
	for _, list := range t.idle {
		for _, l := range list {
			_ = l.Close() // nothing is under way on it
		}
	}
	t.idle = nil
}

// dial connects and signs in.
func (t *Transport) dial(ctx context.Context, by *domain.Account) (*line, error) {
	login := by.Server
	if by.ID == 0 {
		login = domain.Login{Method: "none", Security: "none"}
	}
	l, err := t.open(ctx, &login)
	if err != nil {
		return nil, err
	}
	stop := context.AfterFunc(ctx, func() { _ = l.conn.Close() })
	defer stop()
	if err := signIn(l.Client, &login); err != nil {
		_ = l.Close()
		return nil, failed(domain.StageSignIn, err)
	}
	return l, nil
}

// open connects, protected as the login says.
func (t *Transport) open(ctx context.Context, login *domain.Login) (*line, error) {
	addr, networks := t.Addr, Networks(nil) // of whoever runs the program
	if login.Host != "" {
		addr, networks = net.JoinHostPort(login.Host, strconv.Itoa(login.Port)), t.Networks
	}
	conn, err := networks.dial(ctx, addr)
	if err != nil {
		return nil, &domain.SendError{Stage: domain.StageConnect, Temporary: true, Broken: true, Answer: fmt.Sprintf("the mail server %s was not reached: %v", addr, reason(err))}
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	_ = conn.SetDeadline(time.Now().Add(commandTimeout)) // for the greeting; the client sets its own later
	protected := &tls.Config{ServerName: login.Host, RootCAs: t.Roots, MinVersion: tls.VersionTLS12}
	var c *smtp.Client
	switch login.Security {
	case "tls":
		c = smtp.NewClient(tls.Client(conn, protected))
	case "starttls":
		if c, err = smtp.NewClientStartTLS(conn, protected); err != nil {
			_ = conn.Close()
			return nil, protection(err)
		}
	default:
		c = smtp.NewClient(conn)
	}
	c.CommandTimeout, c.SubmissionTimeout = commandTimeout, answerTimeout
	if t.AnswerWithin > 0 {
		c.CommandTimeout, c.SubmissionTimeout = t.AnswerWithin, t.AnswerWithin
	}
	if err := c.Hello(t.Local); err != nil {
		_ = c.Close()
		return nil, protection(err)
	}
	return &line{Client: c, conn: conn}, nil
}

// protection tells a certificate that is not trusted from other trouble.
func protection(err error) *domain.SendError {
	out := failed(domain.StageConnect, err)
	var bad *tls.CertificateVerificationError
	if errors.As(err, &bad) {
		out.Answer = "the certificate of the mail server is not to be trusted: " + bad.Err.Error()
	}
	return out
}

func signIn(c *smtp.Client, l *domain.Login) error {
	switch l.Method {
	case "plain":
		return c.Auth(sasl.NewPlainClient("", l.User, l.Secret))
	case "login":
		return c.Auth(sasl.NewLoginClient(l.User, l.Secret))
	case "xoauth2":
		return c.Auth(&xoauth2{l.User, l.Secret})
	}
	return nil
}

// xoauth2 signs in with a token, in the form that mail providers document under this
// name (common practice, no standard).
type xoauth2 struct{ user, token string }

func (x *xoauth2) Start() (string, []byte, error) {
	return "XOAUTH2", []byte("user=" + x.user + "\x01auth=Bearer " + x.token + "\x01\x01"), nil
}

// Next answers the server's word of why it refuses with nothing, so that it ends.
func (x *xoauth2) Next([]byte) ([]byte, error) { return []byte{}, nil }

// failed sorts an error by RFC 5321 section 4.2.1: 4yz may be tried again, 5yz
// is final. A broken connection before the content was accepted is temporary.
func failed(stage string, err error) *domain.SendError {
	var said *smtp.SMTPError
	if errors.As(err, &said) {
		// 421 says that the server closes the connection.
		// What a server says before a letter is spoken of is no word on the letter.
		return &domain.SendError{Stage: stage, Temporary: said.Temporary() || stage == domain.StageConnect || stage == domain.StageSignIn, Broken: said.Code == 421 || stage == domain.StageConnect, Answer: answerOf(said), Status: statusOf(said)}
	}
	return &domain.SendError{Stage: stage, Temporary: true, Broken: true, Answer: "the connection to the mail server broke: " + reason(err).Error()}
}

// reason is the innermost cause, without the addresses of this machine.
func reason(err error) error {
	var name *net.DNSError
	if errors.As(err, &name) {
		return errors.New(name.Err) // without the server that was asked
	}
	var op *net.OpError
	if errors.As(err, &op) {
		return op.Err
	}
	return err
}

// statusOf gives the enhanced status code of an answer (RFC 2034), or "".
func statusOf(e *smtp.SMTPError) string {
	if c := e.EnhancedCode; c[0] > 0 {
		return fmt.Sprintf("%d.%d.%d", c[0], c[1], c[2])
	}
	return ""
}

// maxAnswer is how many characters of the answer of a server are kept (RFC 5321, section 4.5.3.1.5, allows
// 512 a line; some write more).
const maxAnswer = 1000

// answerOf gives what a server said, on one line and without control characters.
func answerOf(e *smtp.SMTPError) string {
	words := []string{strconv.Itoa(e.Code)}
	if status := statusOf(e); status != "" {
		words = append(words, status)
	}
	message := e.Message
	if len(message) > 4*maxAnswer {
		message = message[:4*maxAnswer]
	}
	message = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) && !unicode.IsSpace(r) {
			return -1
		}
		return r
	}, strings.ToValidUTF8(message, ""))
	return markup.Clip(strings.Join(append(words, strings.Fields(message)...), " "), maxAnswer)
}
