package compose

import (
	"context"
	"fmt"

	"lucidletter/internal/domain"
)

// KnownStore keeps what people know of the wording of what goes out in their name.
type KnownStore interface {
	// KnownParts gives it, nil where nothing was noted.
	KnownParts(ctx context.Context, userID int64, thing string) ([]domain.Part, error)
	KnowParts(ctx context.Context, userID int64, thing string, parts []domain.Part) error
}

// Known is what one user knows of one thing, such as plan:12 or order:3.
type Known struct {
	Store KnownStore
	User  int64
	Thing string
}

// Note notes that the user knows these parts as they are now.
func (k *Known) Note(ctx context.Context, now Parts) error {
	known, err := k.Store.KnownParts(ctx, k.User, k.Thing)
	if err != nil || len(now) == 0 && known != nil {
		return err
	}
	return k.Store.KnowParts(ctx, k.User, k.Thing, Parts(known).With(now))
}

// Looked notes that the user has looked at these parts, as they were when seen was their sum: when
// they are others by now it is refused.
func (k *Known) Looked(ctx context.Context, now Parts, seen string) error {
	if now.Sum() != seen {
		return &domain.StateError{Why: "The words were changed once more since you looked. Look at them again."}
	}
	return k.Note(ctx, now)
}

// News says what of these parts is another than the user knows of, or "". Where nothing was
// noted yet they are noted: what began before anything was is no news.
func (k *Known) News(ctx context.Context, now Parts) (string, error) {
	known, news, err := k.look(ctx, now)
	if err == nil && known == nil {
		err = k.Store.KnowParts(ctx, k.User, k.Thing, now)
	}
	return news, err
}

// Look says the same and notes nothing.
func (k *Known) Look(ctx context.Context, now Parts) (string, error) {
	_, news, err := k.look(ctx, now)
	return news, err
}

func (k *Known) look(ctx context.Context, now Parts) (known Parts, news string, err error) {
	known, err = k.Store.KnownParts(ctx, k.User, k.Thing)
	if err != nil || known == nil {
		return known, "", err
	}
	if one := now.News(known, k.User); one != nil {
		news = fmt.Sprintf("%s was changed since you last looked", one.Name)
	}
	return known, news, nil
}
