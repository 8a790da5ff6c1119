package desk

import (
	"context"
	"errors"

	"lucidletter/core/letter"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// ProofOf composes a letter as it would go then, or reads the bytes of one that
// went.
func (a *Service) ProofOf(ctx context.Context, u domain.User, id int64, when When) (compose.Proof, error) {
	s, err := a.Letter(ctx, u, id)
	if err != nil {
		return compose.Proof{}, err
	}
	bytes, err := a.store.Bytes(ctx, id)
	if errors.Is(err, domain.ErrNotFound) {
		l := s.Letter
		l.MessageID = "proof@" + domain.EmailDomain(l.FromEmail)
		at, wrong := a.goes(&u, &s, when)
		if wrong != nil {
			return compose.Proof{}, wrong
		}
		bytes, err = a.compose.Bytes(ctx, &l, at)
	}
	if err != nil {
		return compose.Proof{}, err
	}
	m, err := a.reader.Read(bytes)
	if err != nil {
		return compose.Proof{}, err
	}
	if m.HTML, err = a.compose.Untracked(ctx, &s.Letter, m.HTML); err != nil {
		return compose.Proof{}, err
	}
	m.HTML = letter.ShowSent(m.HTML, library.PicturePath)
	return compose.Proof{Mail: m, Size: len(bytes), Sum: compose.SumOf(&m), Stops: s.Stops}, nil
}

// Unproofread refuses a letter that would not go as the proof showed it that its writer looked at: the
// stationery, a signature or the foot was changed since.
func (a *Service) Unproofread(ctx context.Context, u domain.User, id int64, when When) error {
	if when.Proof == "" {
		return nil
	}
	p, err := a.ProofOf(ctx, u, id, when)
	if err == nil && p.Sum != when.Proof {
		err = &domain.StateError{Why: "What stands around your words was changed since you looked: the stationery, the signature or the footer. Here is how the letter would go now."}
	}
	return err
}

// Source gives the bytes of a letter that went out.
func (a *Service) Source(ctx context.Context, u domain.User, id int64) ([]byte, error) {
	if _, err := a.Letter(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.Bytes(ctx, id)
}
