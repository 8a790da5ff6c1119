package app

import (
	"context"
	"strings"

	"lucidletter/core/letter"
)

// footOf gives the lines at the foot of a letter where the workspace wants them: where
// its reader opts out, and the team's postal address.
func (a *App) footOf(ctx context.Context, l *Letter, s *setting) (letter.Foot, error) {
	var foot letter.Foot
	if l.Internal {
		return foot, nil
	}
	set, err := a.Settings(ctx)
	if err != nil {
		return foot, err
	}
	if set.OptOutLink {
		if foot.Address = a.optOutURL(l); foot.Address != "" {
			foot.Words = set.OptOutWords
		}
	}
	if set.PostalAddress && s.recs.Team != nil {
		lines := strings.FieldsFunc(s.recs.Team.PostalAddress, func(r rune) bool { return r == '\n' || r == '\r' })
		if len(lines) > 0 {
			foot.Sender = strings.Join(append([]string{s.recs.Team.Name}, lines...), ", ")
		}
	}
	return foot, nil
}

// footStop says that the foot needs a postal address which is missing, or "".
func (a *App) footStop(ctx context.Context, l *Letter, s *setting) (string, error) {
	set, err := a.Settings(ctx)
	if err != nil || l.Internal || !set.PostalAddress || s.recs.Team != nil && strings.TrimSpace(s.recs.Team.PostalAddress) != "" {
		return "", err
	}
	return "The foot of every letter holds your team’s postal address, and your team has none; an administrator sets it.", nil
}
