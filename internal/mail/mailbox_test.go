package mail_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"strings"
	"testing"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapserver"
	"github.com/emersion/go-imap/v2/imapserver/imapmemserver"

	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
	"lucidletter/internal/testbed"
)

// mailbox is an IMAP server with one user (the library's own in memory).
func mailbox(t *testing.T) (*imapmemserver.User, domain.Login) {
	t.Helper()
	user := imapmemserver.NewUser("imre@fernhollow.example", "right")
	if err := user.Create("INBOX", nil); err != nil {
		t.Fatal(err)
	}
	all := imapmemserver.New()
	all.AddUser(user)
	s := imapserver.New(&imapserver.Options{
		NewSession: func(*imapserver.Conn) (imapserver.Session, *imapserver.GreetingData, error) {
			return all.NewSession(), nil, nil
		},
		Caps: imap.CapSet{imap.CapIMAP4rev1: {}}, InsecureAuth: true,
	})
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	done := make(chan struct{})
	go func() { defer close(done); _ = s.Serve(l) }() // it ends with an error when it is closed
	t.Cleanup(func() { _ = s.Close(); <-done })
	return user, domain.Login{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: "none", Method: "login", User: "imre@fernhollow.example"}
}

func TestPoller(t *testing.T) {
	ctx := context.Background()
	b := testbed.New(t)
	user, login := mailbox(t)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	from := "ada@quill.example"
	put := func(subject string) {
		t.Helper()
		raw := "From: " + from + "\r\nTo: imre@fernhollow.example\r\nSubject: " + subject + "\r\n\r\nhello\r\n"
		if _, err := user.Append("INBOX", literal{Reader: strings.NewReader(raw)}, &imap.AppendOptions{}); err != nil {
			t.Fatal(err)
		}
	}
	boss := b.Lead
	boss.Role = "administrator"
	secret, wrong := "right", "wrong"
	in := team.AccountInput{Name: "M", Connections: 1, Server: domain.Login{Host: "mail.x.example", Port: 587, Security: "starttls", Method: "none"}, Mailbox: login, MailboxSecret: &wrong}
	sheet, err := b.App.Team.PutAccount(ctx, boss, 0, in)
	if err != nil {
		t.Fatal(err)
	}
	p := &mail.Poller{App: b.App, Log: slog.New(slog.NewTextHandler(io.Discard, nil))}
	look := func() domain.Account {
		t.Helper()
		if err := p.Look(ctx); err != nil {
			t.Fatal(err)
		}
		acc, err := b.Store.Account(ctx, sheet.ID)
		if err != nil {
			t.Fatal(err)
		}
		return acc
	}
	put("from before")
	if acc := look(); !strings.Contains(acc.MailboxSaid, "sign in") || acc.MailboxAt != "" {
		t.Errorf("a wrong password: %+v", acc)
	}
	in.MailboxSecret = &secret
	if _, err := b.App.Team.PutAccount(ctx, boss, sheet.ID, in); err != nil {
		t.Fatal(err)
	}
	if acc := look(); acc.MailboxSaid != "" || acc.MailboxAt == "" {
		t.Errorf("the first look: %q %q", acc.MailboxSaid, acc.MailboxAt)
	}
	for i := range 5 {
		put(fmt.Sprint("new ", i))
	}
	from = "aunt@family.example" // whose letters are nobody's business here
	put("Sunday")
	look()
	look()
	list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
	if err != nil || len(list) != 5 {
		t.Fatalf("%d came in, %v", len(list), err)
	}
	opened, err := b.App.Team.OpenAccount(look())
	if err != nil {
		t.Fatal(err)
	}
	for _, step := range (&mail.Transport{}).TestMailbox(ctx, opened.Mailbox) {
		if !step.OK {
			t.Errorf("%+v", step)
		}
	}
	opened.Mailbox.Secret = "wrong"
	if steps := (&mail.Transport{}).TestMailbox(ctx, opened.Mailbox); steps[len(steps)-1].OK || steps[len(steps)-1].Remedy == "" {
		t.Errorf("%+v", steps)
	}
}

type literal struct{ *strings.Reader }

func (l literal) Size() int64 { return l.Reader.Size() }

// Trying an account out says where it ends and what to do.
func TestTestServer(t *testing.T) {
	ctx := context.Background()
	by, pool := account(t, false)
	tr := &mail.Transport{Local: "test.example", Roots: pool}
	quiet, _ := talk(t, func(c net.Conn) { says(c, nil) })
	_, port, _ := net.SplitHostPort(quiet)
	n := 0
	_, _ = fmt.Sscan(port, &n)
	for _, row := range []struct {
		name   string
		change func(*domain.Login)
		steps  int
		remedy string
	}{
		{"right", func(*domain.Login) {}, 4, ""},
		{"no such host", func(l *domain.Login) { l.Host = "nobody.invalid" }, 1, "name of the server"},
		{"where it was looked for is left out", func(l *domain.Login) { l.Host = "nobody.invalid" }, 1, "on the network.no such host"},
		{"nobody there", func(l *domain.Login) { l.Port = 1 }, 2, "Check the port"},
		{"another name", func(l *domain.Login) { l.Host = "127.0.0.1" }, 3, "certificate"},
		{"TLS at once", func(l *domain.Login) { l.Security = "tls" }, 3, "STARTTLS with port 587"},
		{"no STARTTLS", func(l *domain.Login) { l.Host, l.Port = "127.0.0.1", n }, 3, "TLS with port 465"},
		{"a wrong password", func(l *domain.Login) { l.Secret = "wrong" }, 4, "not right"},
		{"no login offered", func(l *domain.Login) { l.Host, l.Port, l.Security = "127.0.0.1", n, "none" }, 4, "offers no"},
	} {
		l := by.Server
		row.change(&l)
		steps := tr.TestServer(ctx, l)
		last := steps[len(steps)-1]
		if len(steps) != row.steps || last.OK != (row.remedy == "") || !strings.Contains(last.Remedy+last.Said, row.remedy) {
			t.Errorf("%s: %+v", row.name, steps)
		}
	}
}
