package desk

import (
	"context"
	"errors"
	"slices"

	"lucidletter/core/field"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// Addressee says whose values fill a letter, who else it is addressed to, and which
// deal it is about; nil the person's only open one.
type Addressee struct {
	PersonID int64
	AlsoTo   []domain.Address
	DealID   *int64
}

// SetAddressee saves the wording for other records: words of fields that nobody
// touched are written anew, what the writer wrote stays. What may still speak of
// the old records is told.
func (a *Service) SetAddressee(ctx context.Context, u domain.User, id int64, w Wording, to Addressee) (LetterSheet, error) {
	if len(to.AlsoTo) > MaxCopies {
		return LetterSheet{}, domain.Invalid("alsoTo", "has more than %d addresses; remove some", MaxCopies)
	}
	if err := checkAddresses("alsoTo", to.AlsoTo); err != nil {
		return LetterSheet{}, err
	}
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.Internal {
		return LetterSheet{}, &domain.StateError{Why: "This letter goes to colleagues. To write to a person, start from their record."}
	}
	old, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	if len(l.Seen) > 0 { // what its words came from, also when the record has changed since
		old = old.AsSeen(l.Seen)
	}
	now, err := a.library.Setting(ctx, u, to.PersonID, to.DealID)
	if errors.Is(err, domain.ErrNotFound) {
		return LetterSheet{}, domain.Invalid("personId", "isn’t in your records; choose somebody else")
	}
	if err != nil {
		return LetterSheet{}, err
	}
	if err := a.notDeleted(ctx, &now.Person); err != nil {
		return LetterSheet{}, err
	}
	base, theirs, err := a.compose.MergedBoth(ctx, &l, old, now)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		compose.Keep(l, compose.Refill(l, base, theirs, old, now), now.Values.Label)
		if l.PersonID != now.Person.ID {
			l.Extras.Address = ""
			if field.EmailKey(l.ToEmail) != field.EmailKey(now.Person.Email) {
				// What somebody wrote is not quoted to another person, nor does their conversation go on.
				l.Extras.Quote, l.AnswersID, l.ThreadID, l.InReplyTo, l.References = nil, nil, nil, "", ""
			}
		}
		l.PersonID, l.CompanyID, l.DealID = now.Person.ID, now.Person.CompanyID, now.DealID
		l.ToEmail, l.ToName = now.Person.Email, now.ToName()
		if key := field.EmailKey(l.ToEmail); key != "" {
			same := func(one domain.Address) bool { return field.EmailKey(one.Email) == key }
			to.AlsoTo, l.Extras.Cc, l.Extras.Bcc = slices.DeleteFunc(to.AlsoTo, same), slices.DeleteFunc(l.Extras.Cc, same), slices.DeleteFunc(l.Extras.Bcc, same)
		}
		l.Extras.AlsoTo, l.Seen = to.AlsoTo, now.Snapshot()
		return nil
	})
}

// SettleKept saves the wording; what in it may have spoken of the records before fits.
func (a *Service) SettleKept(ctx context.Context, u domain.User, id int64, w Wording) (LetterSheet, error) {
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		l.Extras.Kept = nil
		return nil
	})
}

// WhoHas gives the people with an address: more than one where it is shared.
func (a *Service) WhoHas(ctx context.Context, email string) ([]KnownAddress, error) {
	people, err := a.store.PeopleByEmail(ctx, field.EmailKey(email))
	out := make([]KnownAddress, 0, len(people))
	for i := range people {
		p := &people[i]
		who := string(p.Kind)
		if p.CompanyID != nil {
			c, err := a.store.Company(ctx, *p.CompanyID)
			if err != nil {
				return nil, err
			}
			who += " at " + c.Name
		} else if p.CompanyName != "" {
			who += " at " + p.CompanyName
		}
		out = append(out, KnownAddress{domain.Address{Name: p.Name(), Email: p.Email}, who, p.ID})
	}
	return out, err
}
