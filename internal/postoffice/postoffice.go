// Package postoffice is the mail world that ships with the program: an SMTP
// server on this machine that takes every letter and keeps it, so that nothing
// leaves while people try things out. Limits: 26 MiB a letter, 100 recipients.
package postoffice

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/internal/app"
)

const maxLetter = 26 << 20

// Server is the post office. Make it with Listen.
type Server struct {
	smtp     *smtp.Server
	listener net.Listener
	done     chan error
}

// Listen opens the post office on an address such as "127.0.0.1:0" and serves
// until Close.
func Listen(addr string, a *app.App) (*Server, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("open the post office: %w", err)
	}
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{app: a}, nil }))
	s.Domain = "postoffice.example"
	s.MaxMessageBytes = maxLetter
	s.MaxRecipients = 100
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	out := &Server{smtp: s, listener: l, done: make(chan error, 1)}
	go func() { out.done <- s.Serve(l) }()
	return out, nil
}

// Addr is the address it listens on.
func (s *Server) Addr() string { return s.listener.Addr().String() }

// Close ends the server and waits for it.
func (s *Server) Close() error {
	err := s.smtp.Close()
	// The server knows the listener only once Serve has begun.
	_ = s.listener.Close() // closed already otherwise
	<-s.done               // Serve's own error says only that it was closed
	return err
}

type session struct {
	app  *app.App
	from string
	to   []string
}

func (s *session) Reset()        { s.from, s.to = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	var content bytes.Buffer
	if _, err := content.ReadFrom(r); err != nil {
		return err
	}
	if err := s.app.Receive(context.Background(), s.from, s.to, content.Bytes()); err != nil {
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "The post office could not keep the letter"}
	}
	return nil
}
