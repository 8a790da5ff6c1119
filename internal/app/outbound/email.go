package outbound

import (
	"cmp"
	"context"
	"errors"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/result"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Email is the channel of letters by email.
type Email struct {
	Compositions *compose.Service
	Composer     domain.Composer
	Transport    Transport
	Team         *team.Service
	NewID        func() string // gives a fresh random id of at least 128 bits, in letters and digits
	ReturnTo     string        // where mail servers return letters, "" the sender’s own address
	Now          func() time.Time
}

// Compose makes the bytes of a letter: MIME, signed by its account, with our links where they are
// measured.
func (e *Email) Compose(ctx context.Context, l *domain.Letter, by *domain.Account) (Composed, error) {
	var out Composed
	if notes := l.WordingStops(); document.Stopping(notes) {
		return out, &UnfitError{errors.New(notes[0].Message)}
	}
	l.MessageID, l.Token = e.NewID()+"@"+domain.EmailDomain(l.FromEmail), e.NewID()
	m, p, err := e.Compositions.MailOf(ctx, l, e.Now())
	if why := lastingWhy(err); why != "" {
		return out, &UnfitError{errors.New(why)}
	}
	if err != nil {
		return out, err
	}
	tracking, err := e.Compositions.Tracking(ctx, l, p)
	if err != nil {
		return out, err
	}
	if l.Tracked = tracking.On; l.Tracked {
		out.Links = e.Compositions.Track(&m, l)
	}
	if m.DKIM, err = e.Team.DKIMOf(by); err != nil {
		return out, &UnfitError{err}
	}
	if out.Bytes, err = e.Composer.Compose(m); err != nil {
		return out, &UnfitError{err}
	}
	return out, nil
}

// HandOver gives a letter to the mail server of its account.
func (e *Email) HandOver(ctx context.Context, l *domain.Letter, by *domain.Account, bytes []byte) (string, error) {
	return e.Transport.Send(ctx, *by, e.returnAddress(l, by), l.Recipients(), bytes)
}

// Gone reports whether a mail server said that the address does not exist.
func (e *Email) Gone(err *domain.SendError) bool {
	return err.Stage == "recipient" && result.AddressGone(err.Status, err.Answer)
}

// returnAddress is where a letter is returned to that cannot be delivered.
func (e *Email) returnAddress(l *domain.Letter, by *domain.Account) string {
	local, domain, ok := strings.Cut(cmp.Or(by.ReturnTo, e.ReturnTo), "@")
	if !ok {
		return l.FromEmail
	}
	return local + "+" + l.Token + "@" + domain
}

// ToOneself hands a letter over that a user gets from this program, unfiled.
func (e *Email) ToOneself(ctx context.Context, u *domain.User, m domain.Mail) error {
	bytes, err := e.Composer.Compose(m)
	if err != nil {
		return err
	}
	acc, err := e.Team.AccountFor(ctx, u.ID, u.Email)
	if err != nil {
		return err
	}
	if acc, err = e.Team.OpenAccount(acc); err != nil {
		return err
	}
	_, err = e.Transport.Send(ctx, acc, u.Email, []string{u.Email}, bytes)
	return err
}
