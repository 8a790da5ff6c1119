package app

import (
	"context"

	"lucidletter/core/letter"
)

// IncomingSheet is an incoming letter as it is read, with what was said before.
type IncomingSheet struct {
	Incoming
	Mail   ReadMail `json:"mail"`
	Person string   `json:"person"`
	Said   string   `json:"said" doc:"What was written anew, without what is quoted"`
}

// incomingFor loads an incoming letter that the user may see: that of a letter they may
// see, or what came for them.
func (a *App) incomingFor(ctx context.Context, u User, id int64) (Incoming, error) {
	in, err := a.Store.Incoming(ctx, id)
	switch {
	case err != nil:
		return in, err
	case in.LetterID != nil:
		_, err := a.seen(ctx, u, *in.LetterID)
		return in, err
	case in.PersonID == nil && (in.UserID == nil || *in.UserID != u.ID):
		return in, ErrNotFound
	}
	return in, nil
}

// Incoming gives a letter that came in, which its owner then has read.
func (a *App) Incoming(ctx context.Context, u User, id int64) (IncomingSheet, error) {
	in, err := a.incomingFor(ctx, u, id)
	if err != nil {
		return IncomingSheet{}, err
	}
	out := IncomingSheet{Incoming: in, Said: letter.NewWords(in.Text)}
	bytes, err := a.Store.IncomingBytes(ctx, id)
	if err != nil {
		return out, err
	}
	if in.PersonID != nil {
		p, err := a.Store.Person(ctx, *in.PersonID)
		if err != nil {
			return out, err
		}
		out.Person = p.Name()
	}
	out.Mail = a.Reader.ReadIncoming(bytes).ReadMail
	out.Mail.HTML = letter.ShowIncoming(out.Mail.HTML)
	return out, nil
}

// IncomingSource gives the bytes of a letter that came in.
func (a *App) IncomingSource(ctx context.Context, u User, id int64) ([]byte, error) {
	if _, err := a.incomingFor(ctx, u, id); err != nil {
		return nil, err
	}
	return a.Store.IncomingBytes(ctx, id)
}

// IncomingFile gives a file that came with a letter.
func (a *App) IncomingFile(ctx context.Context, u User, id int64, at int) (MailPart, []byte, error) {
	raw, err := a.IncomingSource(ctx, u, id)
	if err != nil {
		return MailPart{}, nil, err
	}
	f, bytes, ok := a.Reader.ReadFile(raw, at)
	if !ok {
		return f, nil, ErrNotFound
	}
	if f.Name = cleanFileName(f.Name); f.Name == "" {
		f.Name = "file"
	}
	return f, bytes, nil
}

// SetIncomingRead takes an incoming letter from the list of what is to be answered.
func (a *App) SetIncomingRead(ctx context.Context, u User, id int64) error {
	in, err := a.incomingFor(ctx, u, id)
	if err != nil {
		return err
	}
	if in.UserID == nil || *in.UserID != u.ID {
		return ErrDenied
	}
	return a.Store.SettleIncoming(ctx, id, ptr(a.now()), nil)
}

// IncomingToAnswer lists what people wrote to a user and nobody has answered or laid by.
func (a *App) IncomingToAnswer(ctx context.Context, u User) ([]IncomingRow, error) {
	return withSaid(a.Store.IncomingFor(ctx, u.ID, true, 200))
}

func withSaid(list []IncomingRow, err error) ([]IncomingRow, error) {
	for i := range list {
		list[i].Said = letter.NewWords(list[i].Text)
	}
	return list, err
}
