package team

import (
	"context"
	"errors"
	"slices"
	"strings"

	"lucidletter/core/access"
	"lucidletter/internal/domain"
)

// Settings gives what holds for the workspace, read once.
func (a *Service) Settings(ctx context.Context) (domain.Settings, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.settings != nil {
		return *a.settings, nil
	}
	s, err := a.store.Settings(ctx)
	if errors.Is(err, domain.ErrNotFound) {
		s, err = domain.UsualSettings(), nil
	}
	if err == nil {
		a.settings = &s
	}
	return s, err
}

// maxGround is in bytes.
const maxGround = 80

// tidyGrounds brings the grounds into one form, without those that are empty or twice.
func tidyGrounds(s *domain.Settings) error {
	if s.QuietDays < 0 || s.QuietDays > 365 {
		return domain.Invalid("quietDays", "is not from 0 to 365; choose another")
	}
	out := []string{}
	for _, g := range s.Grounds {
		g = strings.Join(strings.Fields(g), " ")
		switch {
		case len(g) > maxGround:
			return domain.Invalid("grounds", "“%.20s…” is longer than %d bytes; shorten it", g, maxGround)
		case g != "" && !slices.ContainsFunc(out, func(o string) bool { return strings.EqualFold(o, g) }):
			out = append(out, g)
		}
	}
	s.Grounds = out
	return nil
}

// SetSettings changes what holds for the workspace.
func (a *Service) SetSettings(ctx context.Context, u domain.User, s domain.Settings) error {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return err
	}
	s.OptOutWords = strings.Join(strings.Fields(s.OptOutWords), " ")
	if s.OptOutLink && s.OptOutWords == "" {
		return domain.Invalid("optOutWords", "are missing; write what the line at the foot says")
	}
	if err := tidyGrounds(&s); err != nil {
		return err
	}
	err := a.store.PutSettings(ctx, s)
	a.mu.Lock()
	a.settings = nil
	a.mu.Unlock()
	return err
}
