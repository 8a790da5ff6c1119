package tasks

import (
	"context"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
)

// CalendarOf gives the owner of a private calendar address with what is in it: the
// tasks, and when letters go that wait for a time.
func (a *Service) CalendarOf(ctx context.Context, token string) (domain.User, []domain.Task, []domain.LetterRow, error) {
	if len(token) < minCalendarToken {
		return domain.User{}, nil, nil, domain.ErrNotFound // nobody has an address yet
	}
	u, err := a.store.UserByCalendar(ctx, token)
	if err != nil {
		return u, nil, nil, err
	}
	tasks, letters, err := a.Calendar(ctx, u)
	return u, tasks, letters, err
}

const minCalendarToken = 16

// Calendar gives what is in a user's calendar.
func (a *Service) Calendar(ctx context.Context, u domain.User) ([]domain.Task, []domain.LetterRow, error) {
	tasks, err := a.store.Tasks(ctx, u.ID, 0)
	if err != nil {
		return nil, nil, err
	}
	letters, err := a.store.Letters(ctx, domain.LettersQuery{SenderID: u.ID, States: []domain.LetterState{domain.Waiting}, Limit: desk.MaxLetters})
	return tasks, letters, err
}

// CalendarToken gives the token of the user's private calendar address; a new one
// when there is none yet or the old one is to end.
func (a *Service) CalendarToken(ctx context.Context, u domain.User, renew bool) (string, error) {
	token, err := a.store.CalendarToken(ctx, u.ID)
	if err != nil || token != "" && !renew {
		return token, err
	}
	token = a.newID()
	return token, a.store.SetCalendarToken(ctx, u.ID, token)
}
