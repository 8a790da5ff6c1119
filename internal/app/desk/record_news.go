package desk

import (
	"context"

	"lucidletter/core/render"
	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// SettleRecordNews saves the wording with what changed on the records written into
// it, or as it is; either way the change is not told again.
func (a *Service) SettleRecordNews(ctx context.Context, u domain.User, id int64, w Wording, take bool) (LetterSheet, error) {
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	s, err := a.library.SettingOf(ctx, u, l.PersonID, l.DealID)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.SaveWith(ctx, u, id, w, func(l *domain.Letter) error {
		if take && len(l.Seen) > 0 {
			fresh, kept, err := a.compose.WithNews(ctx, l, s.AsSeen(l.Seen), s)
			if err != nil {
				return err
			}
			*l = fresh
			l.SubjectLine = render.RenderText(l.Subject)
			compose.Keep(l, kept, s.Values.Label)
		}
		l.Seen = s.Snapshot()
		return nil
	})
}
