package inbox

import (
	"context"
	"errors"

	"lucidletter/core/access"
	"lucidletter/core/letter"
	"lucidletter/core/markup"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// IncomingSheet is an incoming letter as it is read, with what was said before.
type IncomingSheet struct {
	domain.Incoming
	Mail    domain.ReadMail `json:"mail"`
	Person  string          `json:"person"`
	Barred  []string        `json:"barred" doc:"The addresses that this report keeps letters from"`
	LeftOut int             `json:"leftOut" doc:"Pictures from elsewhere that are not shown unless they are asked for"`
	Said    string          `json:"said" doc:"What was written anew, without what is quoted"`
}

// incomingFor loads an incoming letter that the user may see: that of a letter they may
// see, or what came for them.
func (a *Service) incomingFor(ctx context.Context, u domain.User, id int64) (domain.Incoming, error) {
	in, err := a.store.Incoming(ctx, id)
	switch {
	case err != nil:
		return in, err
	case in.LetterID != nil:
		_, err := a.desk.Seen(ctx, u, *in.LetterID)
		return in, err
	case in.PersonID == nil && (in.UserID == nil || *in.UserID != u.ID):
		return in, domain.ErrNotFound
	}
	return in, nil
}

// Incoming gives a letter that came in, without the pictures that would be fetched from
// elsewhere unless they are asked for.
func (a *Service) Incoming(ctx context.Context, u domain.User, id int64, pictures bool) (IncomingSheet, error) {
	in, err := a.incomingFor(ctx, u, id)
	if err != nil {
		return IncomingSheet{}, err
	}
	out := IncomingSheet{Incoming: in, Said: letter.NewWords(in.Text)}
	bytes, err := a.store.IncomingBytes(ctx, id)
	if err != nil {
		return out, err
	}
	if in.PersonID != nil {
		p, err := a.store.Person(ctx, *in.PersonID)
		if err != nil {
			return out, err
		}
		out.Person = p.Name()
	}
	bad, optedOut, err := a.store.SuppressedBy(ctx, id)
	if err != nil {
		return out, err
	}
	out.Barred = append(bad, optedOut...)
	out.Mail = a.reader.ReadIncoming(bytes).ReadMail
	page, err := a.cleanedPage(ctx, id, out.Mail.HTML)
	if err != nil {
		return out, err
	}
	shown, leftOut := letter.ShowIncoming(page)
	if out.Mail.HTML = shown; pictures {
		out.Mail.HTML = page
	}
	out.LeftOut = leftOut
	return out, nil
}

// cleanedPage gives the page of a letter as it was cleaned when it came in, cleaned anew
// when the rules have changed since.
func (a *Service) cleanedPage(ctx context.Context, id int64, raw string) (string, error) {
	page, by, err := a.store.IncomingPage(ctx, id)
	if err == nil && by == letter.CleanedBy || err != nil && !errors.Is(err, domain.ErrNotFound) {
		return page, err
	}
	page = letter.CleanIncoming(raw)
	return page, a.store.PutIncomingPage(ctx, id, page, letter.CleanedBy)
}

// UndoReport lets all addresses be written to again that a report keeps letters from. It
// is for who may take addresses from the list.
func (a *Service) UndoReport(ctx context.Context, u domain.User, id int64) error {
	if _, err := a.incomingFor(ctx, u, id); err != nil {
		return err
	}
	return a.store.Within(ctx, func(ctx context.Context) error {
		bad, optedOut, err := a.store.SuppressedBy(ctx, id)
		if err != nil || len(bad)+len(optedOut) == 0 {
			return errors.Join(err, desk.OrNotFound(err == nil))
		}
		if len(optedOut) > 0 {
			if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
				return err
			}
		}
		for _, key := range bad {
			if err := a.store.DeleteBadAddress(ctx, key, a.now()); err != nil {
				return err
			}
			if err := a.noteWith(ctx, u, key, "The address works again: the report about it was wrong"); err != nil {
				return err
			}
		}
		for _, key := range optedOut {
			if err := a.optIn(ctx, u, key, "the report about it was wrong"); err != nil {
				return err
			}
		}
		return nil
	})
}

// noteWith notes words with everybody who has an address.
func (a *Service) noteWith(ctx context.Context, u domain.User, key, words string) error {
	people, err := a.store.PeopleByEmail(ctx, key)
	for _, p := range people {
		if err == nil {
			err = a.store.AddEntry(ctx, domain.Entry{PersonID: &p.ID, CompanyID: p.CompanyID, UserID: &u.ID, Kind: domain.EntryChanged, Text: words, At: a.now()})
		}
	}
	return err
}

// IncomingSource gives the bytes of a letter that came in.
func (a *Service) IncomingSource(ctx context.Context, u domain.User, id int64) ([]byte, error) {
	if _, err := a.incomingFor(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.IncomingBytes(ctx, id)
}

// IncomingFile gives a file that came with a letter.
func (a *Service) IncomingFile(ctx context.Context, u domain.User, id int64, at int) (domain.MailPart, []byte, error) {
	raw, err := a.IncomingSource(ctx, u, id)
	if err != nil {
		return domain.MailPart{}, nil, err
	}
	f, bytes, ok := a.reader.ReadFile(raw, at)
	if !ok {
		return f, nil, domain.ErrNotFound
	}
	if f.Name = library.CleanFileName(f.Name); f.Name == "" {
		f.Name = "file"
	}
	return f, bytes, nil
}

// SetIncomingRead takes an incoming letter from the list of what is to be answered.
func (a *Service) SetIncomingRead(ctx context.Context, u domain.User, id int64) error {
	in, err := a.incomingFor(ctx, u, id)
	if err != nil {
		return err
	}
	if in.UserID == nil || *in.UserID != u.ID {
		return domain.ErrDenied
	}
	return a.store.SettleIncoming(ctx, id, new(a.now()), nil)
}

// IncomingToAnswer lists what people wrote to a user and nobody has answered or laid by.
func (a *Service) IncomingToAnswer(ctx context.Context, u domain.User) ([]domain.IncomingRow, error) {
	return withSaid(a.store.IncomingFor(ctx, u.ID, true, 200))
}

// maxSaid is how many characters of a letter a list tells, in front of what is quoted.
const maxSaid = 2000

// withSaid gives the beginnings of what was written anew.
func withSaid(list []domain.IncomingRow, err error) ([]domain.IncomingRow, error) {
	for i := range list {
		list[i].Said = markup.Clip(letter.NewWords(list[i].Text), maxSaid)
		list[i].Text = markup.Clip(list[i].Text, maxSaid)
		list[i].References = ""
	}
	return list, err
}
