package delivery

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
	bytes, err := a.composer.Compose(m)
	if err != nil {
		return err
	}
	var failed *domain.SendError
	acc, err := a.team.AccountFor(ctx, u.ID, u.Email)
	if err != nil {
		return err
	}
	if acc, err = a.team.OpenAccount(acc); err != nil {
		return err
	}
	if _, err := a.transport.Send(ctx, acc, u.Email, []string{u.Email}, bytes); errors.As(err, &failed) {
		return &domain.StateError{Why: "The test did not go: " + failed.Answer}
	} else if err != nil {
		return err
	}
	return nil
}
