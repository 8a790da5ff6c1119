package mail

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/app"
	"lucidletter/internal/app/inbox"
)

// maxIncoming is the largest letter that the door takes, in bytes.
const maxIncoming = 30 << 20

// Inbound takes mail in over SMTP (RFC 5321) or LMTP (RFC 2033): for the addresses that
// somebody here writes from, and for those that returned letters go to. Limits: 30 MiB
// a letter, 50 recipients, and those of places.
type Inbound struct {
	server   *smtp.Server
	listener net.Listener
	done     chan error
}

// OpenInbound listens on an address such as "127.0.0.1:0" until Close.
func OpenInbound(addr string, lmtp bool, a *app.App, log *slog.Logger) (*Inbound, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("open the door for mail: %w", err)
	}
	s := smtp.NewServer(smtp.BackendFunc(func(c *smtp.Conn) (smtp.Session, error) { return &visit{app: a, log: log, place: c.Conn()}, nil }))
	s.Domain = "lucidletter.example"
	s.LMTP = lmtp
	s.MaxMessageBytes = maxIncoming
	s.MaxRecipients = 50
	s.MaxLineLength = 2 << 20
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	s.ErrorLog = slog.NewLogLogger(log.Handler(), slog.LevelDebug)
	d := &Inbound{server: s, listener: newPlaces(l), done: make(chan error, 1)}
	go func() { d.done <- s.Serve(d.listener) }()
	return d, nil
}

// Addr is the address it listens on.
func (d *Inbound) Addr() string { return d.listener.Addr().String() }

// Close ends the door and waits for it.
func (d *Inbound) Close() error {
	err := d.server.Close()
	_ = d.listener.Close() // closed already otherwise
	<-d.done               // Serve's own error says only that it was closed
	return err
}

type visit struct {
	app   *app.App
	log   *slog.Logger
	place net.Conn
	from  string
	to    []string
}

// at tells the place of a visit that it is being handed a letter, or no more.
func (v *visit) at(letter bool) {
	if p, ok := v.place.(*place); ok {
		p.progress(letter)
	}
}

// Reset begins anew. It also comes when a letter is over, with what was left of one that
// is too large.
func (v *visit) Reset() {
	v.from, v.to = "", nil
	v.at(false)
}

func (v *visit) Logout() error { return nil }

func (v *visit) Mail(from string, _ *smtp.MailOptions) error {
	v.from = from
	return nil
}

func (v *visit) Rcpt(to string, _ *smtp.RcptOptions) error {
	switch err := v.app.Inbox.Takes(context.Background(), to); {
	case errors.Is(err, inbox.ErrNotHere):
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "Nobody here has this address"}
	case err != nil:
		return v.later("look for recipient", err)
	}
	v.to = append(v.to, to)
	return nil
}

func (v *visit) Data(r io.Reader) error {
	v.at(true) // until Reset
	var content bytes.Buffer
	if _, err := content.ReadFrom(r); err != nil {
		return notWhole(err)
	}
	if err := v.app.Inbox.TakeIn(context.Background(), v.from, v.to, content.Bytes()); err != nil {
		return v.later("take letter in", err)
	}
	return nil
}

// notWhole answers who brought a letter that could not be read to its end, without words of this
// machine.
func notWhole(err error) error {
	var said *smtp.SMTPError
	switch {
	case errors.As(err, &said):
		return said
	case errors.Is(err, errLineEnd):
		return &smtp.SMTPError{Code: 554, EnhancedCode: smtp.EnhancedCode{5, 6, 0}, Message: "A line ends in CR CR LF; lines end in CR LF"}
	}
	return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "The letter did not come whole; try again later"}
}

// later asks the other side to try again.
func (v *visit) later(what string, err error) error {
	v.log.Error(what, "error", err)
	return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "The letter could not be kept; try again later"}
}
