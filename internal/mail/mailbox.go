package mail

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"
	"github.com/emersion/go-sasl"

	"lucidletter/internal/app"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// pollEvery is how often mailboxes are looked into.
const pollEvery = time.Minute

// fetchAtOnce is how many letters are fetched from a mailbox at one look.
const fetchAtOnce = 200

// Poller fetches what came to the mailboxes of accounts over IMAP (RFC 9051). Letters
// stay there as they are: nothing is marked or deleted. Up to where a mailbox was read
// is known by the UIDVALIDITY and UID of the last letter.
type Poller struct {
	App   *app.App
	Log   *slog.Logger
	Roots *x509.CertPool

	Networks Networks // where mailboxes may stand
}

// Run looks into the mailboxes until ctx ends.
func (p *Poller) Run(ctx context.Context) {
	timer := time.NewTimer(0)
	defer timer.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-timer.C:
		}
		if err := worker.Guard(func() error { return p.Look(ctx) }); err != nil && ctx.Err() == nil {
			p.Log.Error("look into mailboxes", "error", err)
		}
		timer.Reset(pollEvery)
	}
}

// Look looks into every mailbox once. Why one cannot be read is kept with its account.
func (p *Poller) Look(ctx context.Context) error {
	list, err := p.App.Team.WithMailbox(ctx)
	if err != nil {
		return err
	}
	for _, acc := range list {
		at, said := acc.MailboxAt, ""
		opened, err := p.App.Team.OpenAccount(acc)
		if err == nil {
			at, err = p.fetch(ctx, &opened)
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil {
			said = wordsOf(err)
		}
		if at == acc.MailboxAt && said == acc.MailboxSaid {
			continue
		}
		if err := p.App.Team.MailboxRead(ctx, acc.ID, at, said); err != nil {
			return err
		}
	}
	return nil
}

// fetch takes in what is new in a mailbox, and tells up to where it was read.
func (p *Poller) fetch(ctx context.Context, acc *domain.Account) (at string, err error) {
	at = acc.MailboxAt
	c, err := openMailbox(ctx, &acc.Mailbox, p.Roots, p.Networks)
	if err != nil {
		return at, err
	}
	defer func() { _ = c.Close() }() // nothing is under way on it
	stop := context.AfterFunc(ctx, func() { _ = c.Close() })
	defer stop()
	if err := enterMailbox(c, &acc.Mailbox); err != nil {
		return at, fmt.Errorf("sign in at the mailbox: %w", err)
	}
	box, err := c.Select("INBOX", &imap.SelectOptions{ReadOnly: true}).Wait()
	if err != nil {
		return at, fmt.Errorf("open the mailbox: %w", err)
	}
	from := imap.UID(1)
	validity, last, _ := strings.Cut(at, ":")
	switch uid, err := strconv.ParseUint(last, 10, 32); {
	case at == "":
		// What lay there before is nobody's answer to a letter of ours.
		return fmt.Sprintf("%d:%d", box.UIDValidity, uint32(box.UIDNext)-1), nil
	case err == nil && validity == fmt.Sprint(box.UIDValidity):
		from = imap.UID(uid) + 1
	}
	if box.NumMessages == 0 || box.UIDNext != 0 && from >= box.UIDNext {
		return at, nil
	}
	return p.take(ctx, c, acc, box.UIDValidity, from)
}

func (p *Poller) take(ctx context.Context, c *imapclient.Client, acc *domain.Account, validity uint32, from imap.UID) (string, error) {
	at := acc.MailboxAt
	found, err := c.UIDSearch(&imap.SearchCriteria{UID: []imap.UIDSet{{{Start: from, Stop: 0}}}}, nil).Wait()
	if err != nil {
		return at, fmt.Errorf("look for new letters: %w", err)
	}
	n := 0
	for _, uid := range found.AllUIDs() {
		if uid < from { // QUIRK: a range to * always holds the last letter (RFC 9051 section 9, seq-range)
			continue
		}
		if n++; n > fetchAtOnce || ctx.Err() != nil {
			break
		}
		whole := &imap.FetchItemBodySection{Peek: true, Partial: &imap.SectionPartial{Offset: 0, Size: maxIncoming}}
		list, err := c.Fetch(imap.UIDSetNum(uid), &imap.FetchOptions{UID: true, BodySection: []*imap.FetchItemBodySection{whole}}).Collect()
		if err != nil {
			return at, fmt.Errorf("fetch a letter: %w", err)
		}
		if len(list) > 0 && len(list[0].BodySection) > 0 {
			err := worker.Guard(func() error { return p.App.Inbox.TakeInFetched(ctx, acc.MailOf(), list[0].BodySection[0].Bytes) })
			if worker.Panicked(err) { // it stays in the mailbox, and holds up no other
				p.Log.Error("take letter in", "account", acc.ID, "uid", uid, "error", err)
			} else if err != nil {
				return at, err
			}
		}
		at = fmt.Sprintf("%d:%d", validity, uid)
	}
	return at, nil
}

// openMailbox connects, protected as the login says.
func openMailbox(ctx context.Context, l *domain.Login, roots *x509.CertPool, networks Networks) (*imapclient.Client, error) {
	addr := net.JoinHostPort(l.Host, strconv.Itoa(l.Port))
	conn, err := networks.dial(ctx, addr)
	if err != nil {
		return nil, &domain.SendError{Stage: "connect", Temporary: true, Answer: fmt.Sprintf("the mailbox at %s was not reached: %v", addr, reason(err))}
	}
	_ = conn.SetDeadline(time.Now().Add(2 * time.Minute)) // for the whole look
	options := &imapclient.Options{TLSConfig: &tls.Config{ServerName: l.Host, RootCAs: roots, MinVersion: tls.VersionTLS12}}
	switch l.Security {
	case "tls":
		side := tls.Client(conn, options.TLSConfig)
		if err := side.HandshakeContext(ctx); err != nil {
			return nil, errors.Join(protection(err), conn.Close())
		}
		return imapclient.New(side, options), nil
	case "starttls":
		c, err := imapclient.NewStartTLS(conn, options)
		if err != nil {
			return nil, errors.Join(protection(err), conn.Close())
		}
		return c, nil
	}
	c := imapclient.New(conn, options)
	if err := c.WaitGreeting(); err != nil {
		return nil, errors.Join(protection(err), c.Close())
	}
	return c, nil
}

func enterMailbox(c *imapclient.Client, l *domain.Login) error {
	switch l.Method {
	case "none":
		return errors.New("a mailbox wants a login; choose how to sign in")
	case "plain":
		return c.Authenticate(sasl.NewPlainClient("", l.User, l.Secret))
	case "xoauth2":
		return c.Authenticate(&xoauth2{l.User, l.Secret})
	}
	return c.Login(l.User, l.Secret).Wait()
}
