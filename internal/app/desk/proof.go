package desk

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/letter"
	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Proof is what the recipient will get, read back from the composed bytes. The
// date and the Message-ID are set anew when it goes.
type Proof struct {
	Mail  domain.ReadMail `json:"mail"`
	Size  int             `json:"size"`
	Sum   string          `json:"sum"` // of all that its reader sees; another one means that it says something else
	Stops []document.Note `json:"-"`
}

// ProofOf composes a letter as it would go then, or reads the bytes of one that
// went.
func (a *Service) ProofOf(ctx context.Context, u domain.User, id int64, when When) (Proof, error) {
	s, err := a.Letter(ctx, u, id)
	if err != nil {
		return Proof{}, err
	}
	bytes, err := a.store.Bytes(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		l := s.Letter
		l.MessageID = "proof@" + domain.EmailDomain(l.FromEmail)
		at, wrong := a.goes(&u, &s, when)
		if wrong != nil {
			return Proof{}, wrong
		}
		bytes, err = a.compose(ctx, &l, at)
	}
	if err != nil {
		return Proof{}, err
	}
	m, err := a.reader.Read(bytes)
	if err != nil {
		return Proof{}, err
	}
	if m.HTML, err = a.untracked(ctx, &s.Letter, m.HTML); err != nil {
		return Proof{}, err
	}
	m.HTML = letter.ShowSent(m.HTML, library.PicturePath)
	return Proof{Mail: m, Size: len(bytes), Sum: sumOf(&m), Stops: s.Stops}, nil
}

// sumOf is of everything in a mail that its reader sees, but of when it was written.
func sumOf(m *domain.ReadMail) string {
	h := sha256.New()
	for _, part := range []string{m.From, m.To, m.Subject, m.Text, m.HTML} {
		fmt.Fprintf(h, "%d %s\n", len(part), part)
	}
	for _, f := range m.Files {
		fmt.Fprintf(h, "%q %q %d\n", f.Name, f.Type, f.Size)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// Unproofread refuses a letter that would not go as the proof showed it that its writer looked at: the
// stationery, a signature or the foot was changed since.
func (a *Service) Unproofread(ctx context.Context, u domain.User, id int64, when When) error {
	if when.Proof == "" {
		return nil
	}
	p, err := a.ProofOf(ctx, u, id, when)
	if err == nil && p.Sum != when.Proof {
		err = &domain.StateError{Why: "What stands around your words was changed since you looked: the stationery, the signature or the footer. Here is how the letter would go now."}
	}
	return err
}

// Source gives the bytes of a letter that went out.
func (a *Service) Source(ctx context.Context, u domain.User, id int64) ([]byte, error) {
	if _, err := a.Letter(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.Bytes(ctx, id)
}

// compose makes the bytes of a letter as it goes out at a time, but for our addresses
// in its links.
func (a *Service) compose(ctx context.Context, l *domain.Letter, at time.Time) ([]byte, error) {
	m, _, err := a.MailOf(ctx, l, at)
	if err != nil {
		return nil, err
	}
	return a.composer.Compose(m)
}

// MailOf puts a letter together as it goes out at a time: in its stationery, with its
// pictures and attachments, and today's date that of the reader then.
func (a *Service) MailOf(ctx context.Context, l *domain.Letter, at time.Time) (domain.Mail, *domain.Person, error) {
	sender, err := a.store.User(ctx, l.SenderID)
	if err != nil {
		return domain.Mail{}, nil, err
	}
	s, err := a.library.SettingOf(ctx, sender, l.PersonID, l.DealID)
	if err != nil {
		return domain.Mail{}, nil, err
	}
	onDay(l, s, at)
	x, err := a.pageSheetOf(ctx, l, s)
	if err != nil {
		return domain.Mail{}, nil, err
	}
	foot, err := a.footOf(ctx, l, s)
	if err != nil {
		return domain.Mail{}, nil, err
	}
	subject := render.RenderText(l.Subject)
	l.SubjectLine = subject
	m := domain.Mail{
		FromName: l.FromName, FromEmail: l.FromEmail, ToName: l.ToName, ToEmail: l.ToEmail, Subject: subject, MessageID: l.MessageID, Date: a.now(),
		OptOut: a.optOutURL(l), AlsoTo: l.Extras.AlsoTo, Cc: l.Extras.Cc, ReplyTo: l.Extras.ReplyTo,
		InReplyTo: l.InReplyTo, References: strings.Fields(l.References),
	}
	m.HTML, m.Text = x.Wrap(l.Body, l.Extras.TextPart, subject)
	if q := l.Extras.Quote; q != nil {
		m.HTML, m.Text = letter.WithQuote(m.HTML, m.Text, q.Who, q.Words)
	}
	m.HTML, m.Text = letter.WithFoot(m.HTML, m.Text, foot)
	if err := a.library.Pack(ctx, &m, l); err != nil {
		return domain.Mail{}, nil, err
	}
	return m, &s.Person, nil
}
