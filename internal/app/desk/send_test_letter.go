package desk

import (
	"context"
	"errors"

	"lucidletter/core/render"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// SendTest sends wording merged with a person to the user, at once and unfiled,
// with what is missing in ‹ ›.
func (a *Service) SendTest(ctx context.Context, u domain.User, w library.Input, documents []int64, personID int64) error {
	t, err := a.library.MergeFor(ctx, u, w, personID, "", 0)
	if err != nil {
		return err
	}
	m := domain.Mail{
		FromName: u.Name(), FromEmail: u.Email, ToName: u.Name(), ToEmail: u.Email, Subject: "Test: " + render.RenderText(t.Subject),
		Text: t.Text, HTML: t.HTML, MessageID: a.newID() + "@" + domain.EmailDomain(u.Email), Date: a.now(),
	}
	var l domain.Letter
	for _, id := range documents {
		if _, err := a.library.DocumentFor(ctx, u, id); err != nil {
			return err
		}
	}
	if l.Extras.Attachments, err = a.library.AttachmentsOf(ctx, documents); err != nil {
		return err
	}
	if err := a.library.Pack(ctx, &m, &l); err != nil {
		return err
	}
	var failed *domain.SendError
	if err := a.email.ToOneself(ctx, &u, m); errors.As(err, &failed) {
		return &domain.StateError{Why: "The test did not go: " + failed.Answer}
	} else if err != nil {
		return err
	}
	return nil
}
