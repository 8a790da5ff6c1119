package postbox

import (
	"context"

	"lucidletter/internal/domain"
)

// Store keeps what arrived at the post office.
type Store interface {
	AddPostLetter(ctx context.Context, l domain.PostLetter) (int64, error)
	Mailboxes(ctx context.Context, search string, limit int) ([]domain.Mailbox, error)
	PostLetters(ctx context.Context, mailbox string, limit int) ([]domain.PostLetter, error)
	PostLetter(ctx context.Context, id int64) (domain.PostLetter, error)
	SetPostCharacter(ctx context.Context, mailbox, character string) error
	ScheduledJobsOf(ctx context.Context, postLetterID int64) ([]domain.ScheduledJob, error)
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}
