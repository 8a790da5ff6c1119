// Package postoffice is the mail world that ships with the program: an SMTP
// server on this machine that takes every letter and keeps it, so that nothing
// leaves while people try things out. Limits: 26 MiB a letter, 100 recipients.
package postoffice

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/emersion/go-smtp"

	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/app/postbox"
	"lucidletter/internal/domain"
)

// notNow is the answer when the letter cannot be kept.
var notNow = &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "The post office could not keep the letter"}

const maxLetter = 26 << 20

// Store keeps what the recipients do and are going to do.
type Store interface {
	PostLetter(ctx context.Context, id int64) (domain.PostLetter, error)
	PostCharacter(ctx context.Context, mailbox string) (string, error) // or ErrNotFound
	AddScheduledJob(ctx context.Context, e domain.ScheduledJob) error
	NextScheduledJob(ctx context.Context) (domain.ScheduledJob, error) // or ErrNotFound
	ScheduledJobDone(ctx context.Context, id int64, outcome string, at time.Time) error
	SetPostClock(ctx context.Context, ahead int64) error // in seconds
	Due(ctx context.Context, now time.Time, limit int) ([]domain.DueLetter, *time.Time, error)
	// Busy tells whether a letter is due or in hand, or something that makes one.
	Busy(ctx context.Context, now time.Time) (bool, error)
	// NextStep gives when the next step of a plan comes or the next letter of a round goes, nil for never.
	NextStep(ctx context.Context, now time.Time) (*time.Time, error)
}

// Options say what the post office works with, and how the recipients live: without a
// seed they do nothing.
type Options struct {
	Store    Store
	Composer domain.Composer
	Reader   domain.MailReader

	Seed  uint64 // draws the characters of mailboxes; 0 makes everybody quiet
	Door  string // where the program takes mail in, host:port; "" nowhere
	Clock *Clock // that can be moved on; nil stands for one that cannot
	Log   *slog.Logger
}

// Server is the post office. Make it with Listen.
type Server struct {
	app      *app.App
	store    Store
	composer domain.Composer
	reader   domain.MailReader
	seed     uint64
	door     string
	clock    *Clock
	log      *slog.Logger
	http     *http.Client
	wake     chan struct{}
	doing    sync.Mutex // one errand at a time
	mu       sync.Mutex
	grey     map[string]time.Time // when somebody first wrote to a mailbox that greylists
	smtp     *smtp.Server
	listener net.Listener
	done     chan error
}

// Listen opens the post office on an address such as "127.0.0.1:0" and serves
// until Close. What the recipients do, Run does.
func Listen(addr string, a *app.App, o Options) (*Server, error) {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("open the post office: %w", err)
	}
	out := &Server{
		app: a, store: o.Store, composer: o.Composer, reader: o.Reader, seed: o.Seed, door: o.Door, clock: o.Clock, log: cmp.Or(o.Log, slog.New(slog.DiscardHandler)), listener: l, done: make(chan error, 1),
		wake: make(chan struct{}, 1), grey: map[string]time.Time{},
		// Where a link leads is not followed.
		http: &http.Client{Timeout: 10 * time.Second, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }},
	}
	s := smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{post: out}, nil }))
	s.Domain = "postoffice.example"
	s.MaxMessageBytes = maxLetter
	s.MaxRecipients = 100
	s.ReadTimeout, s.WriteTimeout = time.Minute, time.Minute
	out.smtp = s
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

// Characters lists how recipients can behave.
func (s *Server) Characters() []postbox.Character { return characters() }

// CharacterOf gives how a mailbox behaves: as it was set, or drawn by the seed.
func (s *Server) CharacterOf(ctx context.Context, mailbox string) (postbox.Character, error) {
	key, err := s.store.PostCharacter(ctx, mailbox)
	if errors.Is(err, domain.ErrNotFound) {
		key, err = drawn(s.seed, mailbox), nil
	}
	list := characters()
	i := slices.IndexFunc(list, func(c postbox.Character) bool { return c.Key == key })
	return list[max(0, i)], err
}

// tooSoon tells whether a server that greylists sends a letter away for now.
func (s *Server) tooSoon(from, mailbox string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	now := s.app.Now()
	first, there := s.grey[from+" "+mailbox]
	if !there {
		s.grey[from+" "+mailbox] = now
	}
	return !there || now.Sub(first) < time.Minute
}

type session struct {
	post *Server
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
	mailbox := field.EmailKey(to)
	c, err := s.post.CharacterOf(context.Background(), mailbox)
	switch {
	case err != nil:
		return notNow
	case c.Key == unknown:
		return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "No such mailbox here"}
	case c.Key == full:
		return &smtp.SMTPError{Code: 452, EnhancedCode: smtp.EnhancedCode{4, 2, 2}, Message: "The mailbox is full"}
	case c.Key == greylist && s.post.tooSoon(s.from, mailbox):
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 7, 1}, Message: "Greylisted, try again in a minute"}
	}
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	var content bytes.Buffer
	if _, err := content.ReadFrom(r); err != nil {
		return err
	}
	ctx := context.Background()
	ids, err := s.post.app.Postbox.Receive(ctx, s.from, s.to, content.Bytes())
	if err != nil {
		return notNow
	}
	m, _ := s.post.reader.Read(content.Bytes()) // of one that cannot be read nothing is known
	for i, id := range ids {
		// The letter is kept; that nobody does anything about it is no reason to send it again.
		if err := s.post.plan(ctx, field.EmailKey(s.to[i]), id, header(&m, "Message-Id")); err != nil {
			s.post.log.Error("plan errands", "error", err)
		}
	}
	select {
	case s.post.wake <- struct{}{}:
	default:
	}
	return nil
}
