package compose

import (
	"context"
	"errors"
	"regexp"
	"strings"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/internal/app/library"
	"lucidletter/internal/domain"
)

// footOf gives the lines at the foot of a letter where the workspace wants them: where
// its reader opts out, and the team's postal address.
func (a *Service) footOf(ctx context.Context, l *domain.Letter, s *library.Setting) (letter.Foot, error) {
	var foot letter.Foot
	if l.Internal {
		return foot, nil
	}
	set, err := a.team.Settings(ctx)
	if err != nil {
		return foot, err
	}
	if set.OptOutLink {
		if foot.Address = a.optOutURL(l); foot.Address != "" {
			foot.Words = set.OptOutWords
		}
		if quoted, err := a.quotesWayOut(ctx, l); err != nil || quoted {
			foot.Words = ""
			if err != nil {
				return foot, err
			}
		}
	}
	if set.PostalAddress && s.Recs.Team != nil {
		lines := strings.FieldsFunc(s.Recs.Team.PostalAddress, func(r rune) bool { return r == '\n' || r == '\r' })
		if len(lines) > 0 {
			foot.Sender = strings.Join(append([]string{s.Recs.Team.Name}, lines...), ", ")
		}
	}
	return foot, nil
}

// quotesWayOut tells whether the quote of a letter holds the way out of an earlier one to
// the same reader; then it does not stand there twice. Another person's does not count.
func (a *Service) quotesWayOut(ctx context.Context, l *domain.Letter) (bool, error) {
	if l.Extras.Quote == nil {
		return false, nil
	}
	link := regexp.MustCompile(regexp.QuoteMeta(a.Public(optOutPath)) + `([0-9A-Za-z]+)`)
	for _, hit := range link.FindAllStringSubmatch(l.Extras.Quote.Words, -1) {
		earlier, err := a.store.LetterByToken(ctx, hit[1])
		if err != nil && !errors.Is(err, domain.ErrNotFound) {
			return false, err
		}
		if err == nil && field.EmailKey(earlier.ToEmail) == field.EmailKey(l.ToEmail) {
			return true, nil
		}
	}
	return false, nil
}

// footBlocker says that the foot needs a postal address which is missing, or "".
func (a *Service) footBlocker(ctx context.Context, l *domain.Letter, s *library.Setting) (string, error) {
	set, err := a.team.Settings(ctx)
	if err != nil || l.Internal || !set.PostalAddress || s.Recs.Team != nil && strings.TrimSpace(s.Recs.Team.PostalAddress) != "" {
		return "", err
	}
	return "The foot of every letter holds your team’s postal address, and your team has none; an administrator sets it.", nil
}

const optOutPath = "/out/"

// optOutURL is where the recipient of a letter opts out; "" where the letter has
// other readers too, for whom the address would be another's, or goes to colleagues.
func (a *Service) optOutURL(l *domain.Letter) string {
	if l.Internal || len(l.Copies()) > 0 {
		return ""
	}
	token := l.Token
	if token == "" {
		token = "proof"
	}
	return strings.TrimSuffix(a.publicURL, "/") + optOutPath + token
}
