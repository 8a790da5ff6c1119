package team

import (
	"context"
	"errors"
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

// SetSettings changes what holds for the workspace.
func (a *Service) SetSettings(ctx context.Context, u domain.User, s domain.Settings) error {
	if err := domain.May(u, access.EditSettings, access.Thing{}); err != nil {
		return err
	}
	s.OptOutWords = strings.Join(strings.Fields(s.OptOutWords), " ")
	if s.OptOutLink && s.OptOutWords == "" {
		return domain.Invalid("optOutWords", "are missing; write what the line at the foot says")
	}
	err := a.store.PutSettings(ctx, s)
	a.mu.Lock()
	a.settings = nil
	a.mu.Unlock()
	return err
}
