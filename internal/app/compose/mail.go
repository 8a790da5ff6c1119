package compose

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/plan"
	"lucidletter/core/render"
	"lucidletter/core/template"
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

// SumOf is of everything in a mail that its reader sees, but of when it was written.
func SumOf(m *domain.ReadMail) string {
	h := sha256.New()
	for _, part := range []string{m.From, m.To, m.Subject, m.Text, m.HTML} {
		fmt.Fprintf(h, "%d %s\n", len(part), part)
	}
	for _, f := range m.Files {
		fmt.Fprintf(h, "%q %q %d\n", f.Name, f.Type, f.Size)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}

// Bytes makes the bytes of a letter as it goes out at a time, but for our addresses
// in its links.
func (a *Service) Bytes(ctx context.Context, l *domain.Letter, at time.Time) ([]byte, error) {
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
	OnDay(l, s, at)
	x, err := a.SheetOf(ctx, l, s)
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

// ProofOf shows a letter that is stored nowhere as it would go at a time.
func (a *Service) ProofOf(ctx context.Context, l domain.Letter, at time.Time) (Proof, error) {
	l.MessageID = "proof@" + domain.EmailDomain(l.FromEmail)
	bytes, err := a.Bytes(ctx, &l, at)
	if err != nil {
		return Proof{}, err
	}
	m, err := a.reader.Read(bytes)
	if err != nil {
		return Proof{}, err
	}
	m.HTML = letter.ShowSent(m.HTML, library.PicturePath)
	return Proof{Mail: m, Size: len(bytes)}, nil
}

// ZoneOf gives the time zone of a person and where it was found.
func ZoneOf(p *domain.Person) (*time.Location, string) {
	if p.TimeZone != "" {
		if z, err := time.LoadLocation(p.TimeZone); err == nil {
			return z, "record"
		}
	}
	if name := plan.ZoneOf(p.Country); name != "" {
		if z, err := time.LoadLocation(name); err == nil {
			return z, "country"
		}
	}
	return time.UTC, "unknown"
}

// OnDay has a letter say today's date, and how far dates are, as of a time on its
// reader's clock.
func OnDay(l *domain.Letter, s *library.Setting, at time.Time) {
	zone, _ := ZoneOf(&s.Person)
	day := at.In(zone)
	r := letter.Record{Values: s.Values, Reader: s.ReaderFor(&template.Template{Body: l.Body})}
	s.Values.Set("today", field.DateOf(day))
	first := l.CreatedAt.AddDate(0, 0, -1)
	l.Subject, l.Body = letter.OnDay(l.Subject, r, first, day), letter.OnDay(l.Body, r, first, day)
	if l.Extras.TextPart != nil {
		l.Extras.TextPart = new(letter.OnDay(*l.Extras.TextPart, r, first, day))
	}
}

// Zone gives the time zone of a person, from the record or the country; UTC when neither
// tells it.
func Zone(p *domain.Person) *time.Location {
	zone, _ := ZoneOf(p)
	return zone
}
