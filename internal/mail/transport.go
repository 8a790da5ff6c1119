package mail

import (
	"context"
	"errors"
	"fmt"
	"net"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/app"
)

// Transport implements app.Transport over SMTP to one server (host:port).
// Timeouts: 10 s to connect, 30 s for a command, 60 s for the content.
type Transport struct {
	Addr  string
	Local string // the name given in EHLO
}

const connectTimeout = 10 * time.Second

// Send hands the bytes over exactly as they are and gives the server's answer
// to the content. When the first recipient is refused nothing goes.
func (t *Transport) Send(ctx context.Context, from string, to []string, content []byte) (string, error) {
	dialer := net.Dialer{Timeout: connectTimeout}
	conn, err := dialer.DialContext(ctx, "tcp", t.Addr)
	if err != nil {
		return "", &app.SendError{Stage: "connect", Temporary: true, Answer: fmt.Sprintf("the mail server %s was not reached: %v", t.Addr, reason(err))}
	}
	c := smtp.NewClient(conn)
	c.CommandTimeout, c.SubmissionTimeout = 30*time.Second, 60*time.Second
	defer func() { _ = c.Close() }()
	stop := context.AfterFunc(ctx, func() { _ = conn.SetDeadline(time.Now()) })
	defer stop()
	if err := c.Hello(t.Local); err != nil {
		return "", failed("connect", err)
	}
	if err := c.Mail(from, nil); err != nil {
		return "", failed("sender", err)
	}
	refused := ""
	for i, one := range to {
		err := c.Rcpt(one, nil)
		var said *smtp.SMTPError
		switch {
		case err == nil:
		case i == 0 || !errors.As(err, &said):
			return "", failed("recipient", err)
		default:
			refused += fmt.Sprintf("; the copy to %s was refused: %d %s", one, said.Code, said.Message)
		}
	}
	w, err := c.Data()
	if err != nil {
		return "", failed("content", err)
	}
	if _, err := w.Write(content); err != nil {
		// The final dot was never sent, so the server cannot have taken it.
		return "", failed("content", err)
	}
	answer, err := w.CloseWithResponse()
	if err != nil {
		out := failed("content", err)
		var said *smtp.SMTPError
		out.Unsure = !errors.As(err, &said)
		return "", out
	}
	_ = c.Quit() // the letter is accepted; how the goodbye goes does not matter
	return fmt.Sprintf("250 %s%s", answer.StatusText, refused), nil
}

// failed sorts an error by RFC 5321 section 4.2.1: 4yz may be tried again, 5yz
// is final. A broken connection before the content was accepted is temporary.
func failed(stage string, err error) *app.SendError {
	var said *smtp.SMTPError
	if errors.As(err, &said) {
		return &app.SendError{Stage: stage, Temporary: said.Temporary(), Answer: fmt.Sprintf("%d %s", said.Code, said.Message)}
	}
	return &app.SendError{Stage: stage, Temporary: true, Answer: "the connection to the mail server broke: " + reason(err).Error()}
}

// reason is the innermost cause, without the addresses of this machine.
func reason(err error) error {
	var op *net.OpError
	if errors.As(err, &op) {
		return op.Err
	}
	return err
}
