package postbox

import (
	"context"
	"slices"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// Character is how a recipient of the post office behaves.
type Character struct {
	Key  string `json:"key"`
	Name string `json:"name"`
	Does string `json:"does"`
}

// PostWorld is the mail world that ships with the program.
type PostWorld interface {
	Characters() []Character
	// CharacterOf gives how a mailbox behaves.
	CharacterOf(ctx context.Context, mailbox string) (Character, error)
	// Skip moves the clock on, and does on the way what is due; it gives the new time.
	Skip(ctx context.Context, by time.Duration) (time.Time, error)
}

// MaxSkip is how far the clock is moved on at once.
const MaxSkip = 31 * 24 * time.Hour

// WorldSheet is what the screen of the post office can set.
type WorldSheet struct {
	Open       bool        `json:"open" doc:"Letters go to the post office"`
	Now        time.Time   `json:"now"`
	Characters []Character `json:"characters"`
}

// WorldOf gives what can be set at the post office.
func (a *Service) WorldOf() WorldSheet {
	if a.world == nil {
		return WorldSheet{Now: a.now(), Characters: []Character{}}
	}
	return WorldSheet{true, a.now(), a.world.Characters()}
}

var errNoWorld = &domain.StateError{Why: "Letters go to a mail server of your own; the post office is closed."}

// SkipTime moves the clock of the program and its post office on.
func (a *Service) SkipTime(ctx context.Context, by time.Duration) (time.Time, error) {
	accounts, err := a.team.AllAccounts(ctx)
	switch {
	case err != nil:
		return time.Time{}, err
	case a.world == nil:
		return time.Time{}, errNoWorld
	case len(accounts) > 0:
		return time.Time{}, &domain.StateError{Why: "Letters go to people through a mail server now, whose clock cannot be moved on."}
	case by <= 0 || by > MaxSkip:
		return time.Time{}, domain.Invalid("hours", "must be more than 0 and at most %d days", MaxSkip/(24*time.Hour))
	}
	return a.world.Skip(ctx, by)
}

// SetCharacter says how a mailbox of the post office behaves from now on.
func (a *Service) SetCharacter(ctx context.Context, mailbox, key string) error {
	if a.world == nil {
		return errNoWorld
	}
	if !slices.ContainsFunc(a.world.Characters(), func(c Character) bool { return c.Key == key }) {
		return domain.Invalid("character", "%q is none; choose one of the list", key)
	}
	return a.store.SetPostCharacter(ctx, field.EmailKey(mailbox), key)
}

// CharacterOf tells how a mailbox of the post office behaves.
func (a *Service) CharacterOf(ctx context.Context, mailbox string) (Character, error) {
	if a.world == nil {
		return Character{}, errNoWorld
	}
	return a.world.CharacterOf(ctx, field.EmailKey(mailbox))
}

// Receive keeps a letter that arrived at the post office, once for each
// recipient, and gives the ids it is kept by.
func (a *Service) Receive(ctx context.Context, sender string, recipients []string, bytes []byte) (ids []int64, err error) {
	m, err := a.reader.Read(bytes)
	if err != nil {
		m = domain.ReadMail{Subject: "(cannot be read)"}
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		for _, to := range recipients {
			l := domain.PostLetter{Mailbox: field.EmailKey(to), Sender: sender, Subject: m.Subject, ArrivedAt: a.now(), Bytes: bytes}
			id, err := a.store.AddPostLetter(ctx, l)
			if err != nil {
				return err
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

// Mailboxes lists the recipients that got letters, the latest first.
func (a *Service) Mailboxes(ctx context.Context, search string) ([]domain.Mailbox, error) {
	return a.store.Mailboxes(ctx, strings.ToLower(strings.TrimSpace(search)), 200)
}

// Mailbox lists what one recipient got, the latest first.
func (a *Service) Mailbox(ctx context.Context, name string) ([]domain.PostLetter, error) {
	return a.store.PostLetters(ctx, field.EmailKey(name), 200)
}

// PostSheet is a letter as its recipient sees it.
type PostSheet struct {
	domain.PostLetter
	Mail    domain.ReadMail       `json:"mail"`
	Source  string                `json:"source"`
	Errands []domain.ScheduledJob `json:"errands" doc:"What the recipient does about it"`
}

// PostLetter gives one letter of the post office.
func (a *Service) PostLetter(ctx context.Context, id int64) (PostSheet, error) {
	l, err := a.store.PostLetter(ctx, id)
	if err != nil {
		return PostSheet{}, err
	}
	out := PostSheet{PostLetter: l, Source: strings.ToValidUTF8(string(l.Bytes), "\uFFFD")}
	if out.Errands, err = a.store.ScheduledJobsOf(ctx, id); err != nil {
		return out, err
	}
	out.Mail, err = a.reader.Read(l.Bytes)
	if err != nil {
		out.Mail = domain.ReadMail{Files: []domain.MailPart{}, Subject: l.Subject, Text: "This letter cannot be read: " + err.Error()}
	}
	out.Mail.HTML = letter.ShowSent(out.Mail.HTML, library.PicturePath)
	return out, nil
}
