package inbox

import (
	"context"
	"strings"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// OptOutPage is what the page of a letter shows on which its recipient opts out.
type OptOutPage struct {
	Email  string
	Sender string
	Team   string
	Out    bool // already
}

// OptOutPage gives the page of a letter's token, for whoever has it.
func (a *Service) OptOutPage(ctx context.Context, token string) (OptOutPage, error) {
	l, err := a.store.LetterByToken(ctx, token)
	if err != nil {
		return OptOutPage{}, err
	}
	out := OptOutPage{Email: l.ToEmail}
	b, err := a.records.Suppression(ctx, l.ToEmail)
	if err != nil {
		return out, err
	}
	out.Out = b.OptedOutAt != nil
	out.Sender, out.Team, err = a.desk.SenderOf(ctx, &l)
	return out, err
}

// OptOutBy has the recipient of a letter opt out: from now on nobody writes to the
// address, also not with what waits in the outbox.
func (a *Service) OptOutBy(ctx context.Context, token string) error {
	l, err := a.store.LetterByToken(ctx, token)
	if err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		return a.addOptOut(ctx, domain.OptOut{Email: l.ToEmail, Reason: "by the letter “" + l.SubjectLine + "”", LetterID: &l.ID})
	})
}

// addOptOut puts an address on the list and notes it with everybody who has it.
func (a *Service) addOptOut(ctx context.Context, o domain.OptOut) error {
	o.Key, o.At = field.EmailKey(o.Email), a.now()
	if err := a.store.AddOptOut(ctx, o); err != nil {
		return err
	}
	people, err := a.store.PeopleByEmail(ctx, o.Key)
	if err != nil {
		return err
	}
	for _, p := range people {
		if p.OptedOutAt != nil {
			continue
		}
		p.OptedOutAt, p.UpdatedAt = &o.At, o.At
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		if err := a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, LetterID: o.LetterID, UserID: o.UserID, Kind: domain.EntryOptedOut, Text: o.Reason, At: o.At}); err != nil {
			return err
		}
	}
	return nil
}

// OptOuts lists the addresses that hold a text, the latest first.
func (a *Service) OptOuts(ctx context.Context, search string) ([]domain.OptOut, error) {
	return a.store.OptOuts(ctx, strings.ToLower(strings.TrimSpace(search)), 500)
}

// MaxOptOuts is how many addresses are written down at once.
const MaxOptOuts = 20_000

// AddOptOuts writes addresses down, as people paste them, with a reason; it tells how
// many, and gives back what has no address in it.
func (a *Service) AddOptOuts(ctx context.Context, u domain.User, text, reason string) (added int, rest []string, err error) {
	if err := domain.May(u, access.EditRecord, access.Thing{}); err != nil {
		return 0, nil, err
	}
	if reason = strings.Join(strings.Fields(reason), " "); reason == "" {
		return 0, nil, domain.Invalid("reason", "is missing; write why, such as: asked by telephone")
	}
	found, rest := records.ReadAddresses(text)
	switch {
	case len(found) == 0:
		return 0, rest, domain.Invalid("text", "holds no email address; write one to a line")
	case len(found) > MaxOptOuts:
		return 0, nil, domain.Invalid("text", "holds more than %d addresses; bring them in several times", MaxOptOuts)
	}
	err = a.store.Within(ctx, func(ctx context.Context) error {
		for _, one := range found {
			if err := a.addOptOut(ctx, domain.OptOut{Email: one.Email, Reason: reason, UserID: &u.ID}); err != nil {
				return err
			}
		}
		return nil
	})
	return len(found), rest, err
}

// OptInAgain takes an address from the list because its owner asked for it: a lead
// says why, and it is noted with everybody who has the address.
func (a *Service) OptInAgain(ctx context.Context, u domain.User, email, reason string) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	if reason = strings.Join(strings.Fields(reason), " "); reason == "" {
		return domain.Invalid("reason", "is missing; write how the person asked for it")
	}
	return a.store.Within(ctx, func(ctx context.Context) error { return a.optIn(ctx, u, email, reason) })
}

// optIn takes an address from the list and notes why with everybody who has it.
func (a *Service) optIn(ctx context.Context, u domain.User, email, reason string) error {
	key := field.EmailKey(email)
	people, err := a.store.PeopleByEmail(ctx, key)
	if err != nil {
		return err
	}
	for _, p := range people {
		if p.OptedOutAt == nil {
			continue
		}
		// Its record alone may have said so; the list keeps it for putting it back.
		if err := a.store.AddOptOut(ctx, domain.OptOut{Key: key, Email: email, Reason: "as the record said", At: *p.OptedOutAt}); err != nil {
			return err
		}
		p.OptedOutAt, p.UpdatedAt = nil, a.now()
		if err := a.store.UpdatePerson(ctx, p); err != nil {
			return err
		}
		if err := a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: "May be written to again: " + reason, At: p.UpdatedAt}); err != nil {
			return err
		}
	}
	return a.store.DeleteOptOut(ctx, key, a.now())
}
