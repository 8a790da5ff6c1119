package app

import (
	"context"

	"lucidletter/internal/domain"
)

// Retry puts a letter that waits, was refused or is unsure back to be sent now.
func (a *App) Retry(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	now := a.now()
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Waiting, Reason: "Trying again now", At: now, Due: &now, Queued: true})
}

// TakeBack makes a letter that has not gone a draft again.
func (a *App) TakeBack(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused}, domain.Change{To: domain.Draft, At: a.now()})
}

// Arrived settles an unsure letter: You confirmed that it arrived.
func (a *App) Arrived(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	l, err := a.mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != domain.Unsure {
		return LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
	}
	c := domain.Change{To: domain.Sent, Reason: "You confirmed that it arrived", SentAt: l.HandedOverAt}
	if err := a.Store.Within(ctx, func(ctx context.Context) error { return a.settle(ctx, &l, domain.Unsure, c) }); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

func (a *App) shift(ctx context.Context, u domain.User, id int64, from []domain.LetterState, c domain.Change) (LetterSheet, error) {
	if _, err := a.mine(ctx, u, id); err != nil {
		return LetterSheet{}, err
	}
	for _, state := range from {
		moved, err := a.Store.Move(ctx, id, state, c)
		if err != nil {
			return LetterSheet{}, err
		}
		if moved {
			a.Wake()
			return a.Letter(ctx, u, id)
		}
	}
	return LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
}

// Cancel keeps a letter from going; it stays for the record.
func (a *App) Cancel(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Cancelled, Reason: "by " + u.Name(), At: a.now()})
}

// ChangeTime has a letter that waits go at another time.
func (a *App) ChangeTime(ctx context.Context, u domain.User, id int64, when When) (LetterSheet, error) {
	l, err := a.mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	p, err := a.Store.Person(ctx, l.PersonID)
	if err != nil {
		return LetterSheet{}, err
	}
	due, err := a.due(&u, &p, when)
	if err != nil {
		return LetterSheet{}, err
	}
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting}, domain.Change{To: domain.Waiting, Reason: "The time was changed", At: a.now(), Due: &due, Queued: true, Step: true})
}

// StepsOf gives the way of a letter, step by step.
func (a *App) StepsOf(ctx context.Context, u domain.User, id int64) ([]domain.LetterStep, error) {
	if _, err := a.seen(ctx, u, id); err != nil {
		return nil, err
	}
	return a.Store.Steps(ctx, id)
}
