package desk

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/core/template"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// MaxSignature is the bytes of a signature in its text form.
const MaxSignature = 20_000

// SetSignature stores the signature of one of the user's addresses; a document
// without words takes it away.
func (a *Service) SetSignature(ctx context.Context, u domain.User, email string, d document.Document) error {
	f, err := a.team.FromAddress(ctx, u, email)
	if err != nil {
		return err
	}
	read, _, _, err := library.Input{Subject: "s", Doc: &d}.Read()
	if err != nil {
		return err
	}
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	text := markup.Print(read.Body)
	switch {
	case len(text) > MaxSignature:
		return domain.Invalid("signature", "is longer than %d bytes; shorten it", MaxSignature)
	case strings.Contains(text, "{{sender.signature"):
		return domain.Invalid("signature", "holds the signature itself; take the field out")
	}
	if err := library.CheckSheetPart(cat, "signature", read.Body); err != nil {
		return err
	}
	f.Signature = read.Body
	return a.store.PutFromAddress(ctx, f)
}

// AllowFrom lets a user write from another address.
func (a *Service) AllowFrom(ctx context.Context, u domain.User, userID int64, name, email string) error {
	if err := domain.May(u, access.EditSenders, access.Thing{}); err != nil {
		return err
	}
	one := []domain.Address{{Name: name, Email: email}}
	if err := checkAddresses("email", one); err != nil {
		return err
	}
	if one[0].Name == "" {
		return domain.Invalid("name", "is missing; letters carry it in From")
	}
	to, err := a.store.User(ctx, userID)
	if err != nil {
		return err
	}
	if _, err := a.team.FromAddress(ctx, to, one[0].Email); err == nil {
		return domain.Invalid("email", "is an address of %s already", to.Name())
	}
	return a.store.PutFromAddress(ctx, domain.FromAddress{UserID: userID, Name: one[0].Name, Email: one[0].Email})
}

// ForbidFrom takes an address from a user; letters from it that wait do not go.
func (a *Service) ForbidFrom(ctx context.Context, u domain.User, userID int64, email string) error {
	if err := domain.May(u, access.EditSenders, access.Thing{}); err != nil {
		return err
	}
	return a.store.DeleteFromAddress(ctx, userID, field.EmailKey(email), a.now())
}

// SenderLine is a user with what they may write from.
type SenderLine struct {
	User  domain.User
	Froms []domain.FromAddress
}

// Senders lists everybody with their addresses, for who may set them.
func (a *Service) Senders(ctx context.Context, u domain.User) ([]SenderLine, error) {
	if err := domain.May(u, access.EditSenders, access.Thing{}); err != nil {
		return nil, err
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	var out []SenderLine
	for _, one := range users {
		froms, err := a.team.FromAddresses(ctx, one)
		if err != nil {
			return nil, err
		}
		out = append(out, SenderLine{one, froms})
	}
	return out, nil
}

// SetFrom saves the wording from another of the user's addresses, whose signature
// takes the place of the one before where that stands as it came.
func (a *Service) SetFrom(ctx context.Context, u domain.User, id int64, w Wording, email string) (LetterSheet, error) {
	f, err := a.team.FromAddress(ctx, u, email)
	if errors.Is(err, domain.ErrNotFound) {
		return LetterSheet{}, domain.Invalid("from", "%s is not one of your From addresses; choose another", email)
	}
	if err != nil {
		return LetterSheet{}, err
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
		if err != nil {
			return err
		}
		sig, err := a.library.Signature(ctx, u, f.Email, l.Body.Attrs.Body, s.ReaderFor(&template.Template{Body: l.Body}))
		if err != nil {
			return err
		}
		had := l.Extras.Signature
		switch {
		case had != nil:
			without, out, _ := letter.TakeOut(l.Body, *had, document.Document{})
			with, _, _ := letter.TakeOut(l.Body, *had, sig)
			if l.Extras.Signature = nil; out > 0 {
				if l.Body = without; !letter.IsBlank(sig) {
					l.Body, l.Extras.Signature = with, &sig
				}
			}
		case !letter.IsBlank(sig):
			l.Body, l.Extras.Signature = letter.AppendSignature(l.Body, sig), &sig
		}
		l.FromName, l.FromEmail, l.Extras.TextPart = f.Name, f.Email, nil
		return nil
	})
}

// Profile is what a user says of themselves in letters. Own holds own fields of
// the sender in canonical form, such as links to kinds of meetings.
type Profile struct {
	Phone       string
	JobTitle    string
	BookingLink string
	TimeZone    string // of the tz database; "" not known
	Country     string // whose holidays they keep
	TaskMail    bool   // they are reminded of tasks by email
	Own         domain.Own
}

// SetProfile stores a user's own facts.
func (a *Service) SetProfile(ctx context.Context, u domain.User, p Profile) error {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return err
	}
	var bad domain.InvalidError
	set := func(path, value string) string {
		ref, ok := cat.Find(path)
		if !ok {
			return value
		}
		v, err := field.ParseGiven(ref.Def, value, "")
		if err != nil {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: err.Error()})
		}
		return v.String()
	}
	p.Phone, p.JobTitle, p.BookingLink = set("sender.phone", p.Phone), set("sender.job_title", p.JobTitle), set("sender.booking_link", p.BookingLink)
	own := domain.Own{}
	for path, value := range p.Own {
		if ref, ok := cat.Find(path); !ok || ref.Def.Record != field.Sender || !ref.Def.Own {
			bad.Fields = append(bad.Fields, domain.FieldError{Where: path, Why: "is no own field of senders"})
			continue
		}
		if value = set(path, value); value != "" {
			own[path] = value
		}
	}
	if _, err := time.LoadLocation(p.TimeZone); err != nil || p.TimeZone == "Local" {
		bad.Fields = append(bad.Fields, domain.FieldError{Where: "timeZone", Why: fmt.Sprintf("%q is no time zone; choose one such as Europe/London", p.TimeZone)})
	}
	if p.Country != "" && field.CountryCode(p.Country) == "" {
		bad.Fields = append(bad.Fields, domain.FieldError{Where: "country", Why: fmt.Sprintf("%q is no country; use its name or its code, such as Denmark or DK", p.Country)})
	}
	if len(bad.Fields) > 0 {
		return &bad
	}
	u.Phone, u.JobTitle, u.BookingLink, u.Own, u.TimeZone, u.Country, u.TaskMail = p.Phone, p.JobTitle, p.BookingLink, own, p.TimeZone, field.CountryCode(p.Country), p.TaskMail
	return a.store.UpdateProfile(ctx, u)
}
