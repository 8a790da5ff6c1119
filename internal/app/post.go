package app

import (
	"context"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/letter"
)

// Receive keeps a letter that arrived at the post office, once for each
// recipient.
func (a *App) Receive(ctx context.Context, sender string, recipients []string, bytes []byte) error {
	m, err := a.Reader.Read(bytes)
	if err != nil {
		m = ReadMail{Subject: "(cannot be read)"}
	}
	return a.Store.Within(ctx, func(s Store) error {
		for _, to := range recipients {
			l := PostLetter{Mailbox: field.EmailKey(to), Sender: sender, Subject: m.Subject, ArrivedAt: a.now(), Bytes: bytes}
			if _, err := s.AddPostLetter(ctx, l); err != nil {
				return err
			}
		}
		return nil
	})
}

// Mailboxes lists the recipients that got letters, the latest first.
func (a *App) Mailboxes(ctx context.Context, search string) ([]Mailbox, error) {
	return a.Store.Mailboxes(ctx, strings.ToLower(strings.TrimSpace(search)), 200)
}

// Mailbox lists what one recipient got, the latest first.
func (a *App) Mailbox(ctx context.Context, name string) ([]PostLetter, error) {
	return a.Store.PostLetters(ctx, field.EmailKey(name), 200)
}

// PostSheet is a letter as its recipient sees it.
type PostSheet struct {
	PostLetter
	Mail   ReadMail `json:"mail"`
	Source string   `json:"source"`
}

// PostLetter gives one letter of the post office.
func (a *App) PostLetter(ctx context.Context, id int64) (PostSheet, error) {
	l, err := a.Store.PostLetter(ctx, id)
	if err != nil {
		return PostSheet{}, err
	}
	out := PostSheet{PostLetter: l, Source: strings.ToValidUTF8(string(l.Bytes), "\uFFFD")}
	out.Mail, err = a.Reader.Read(l.Bytes)
	if err != nil {
		out.Mail = ReadMail{Files: []MailPart{}, Subject: l.Subject, Text: "This letter cannot be read: " + err.Error()}
	}
	out.Mail.HTML = letter.ShowSent(out.Mail.HTML, PicturePath)
	return out, nil
}
