package delivery

import (
	"context"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// Retry puts a letter that waits, was refused or is unsure back to be sent now, as it was proofread:
// what was changed since holds it back again.
func (a *Service) Retry(ctx context.Context, u domain.User, id int64) (desk.LetterSheet, error) {
	l, err := a.desk.Mine(ctx, u, id)
	if err == nil {
		err = a.mayGo(ctx, &l)
	}
	if err != nil {
		return desk.LetterSheet{}, err
	}
	now := a.now()
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Waiting, Reason: "Trying again now", At: now, Due: &now, Again: true})
}

// mayGo refuses what would not go: whoever asks for it is told at once, and not by the outbox.
func (a *Service) mayGo(ctx context.Context, l *domain.Letter) error {
	why, err := a.lastStop(ctx, l)
	if lasting := lastingWhy(err); lasting != "" {
		why, err = "The letter does not go: "+lasting, nil
	}
	if err == nil && why != "" {
		return &domain.StateError{Why: why}
	}
	return err
}

// TakeBack makes a letter that has not gone a draft again.
func (a *Service) TakeBack(ctx context.Context, u domain.User, id int64) (desk.LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused}, domain.Change{To: domain.Draft, At: a.now()})
}

// Arrived settles an unsure letter: You confirmed that it arrived.
func (a *Service) Arrived(ctx context.Context, u domain.User, id int64) (desk.LetterSheet, error) {
	l, err := a.desk.Mine(ctx, u, id)
	if err != nil {
		return desk.LetterSheet{}, err
	}
	if l.State != domain.Unsure {
		return desk.LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
	}
	c := domain.Change{To: domain.Sent, Reason: "You confirmed that it arrived", SentAt: l.HandedOverAt}
	if err := a.store.Within(ctx, func(ctx context.Context) error { return a.settle(ctx, &l, domain.Unsure, c) }); err != nil {
		return desk.LetterSheet{}, err
	}
	return a.desk.Letter(ctx, u, id)
}

func (a *Service) shift(ctx context.Context, u domain.User, id int64, from []domain.LetterState, c domain.Change) (desk.LetterSheet, error) {
	if _, err := a.desk.Mine(ctx, u, id); err != nil {
		return desk.LetterSheet{}, err
	}
	for _, state := range from {
		moved, err := a.store.Move(ctx, id, state, c)
		if err != nil {
			return desk.LetterSheet{}, err
		}
		if moved {
			a.wake()
			return a.desk.Letter(ctx, u, id)
		}
	}
	return desk.LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
}

// Cancel keeps a letter from going; it stays for the record.
func (a *Service) Cancel(ctx context.Context, u domain.User, id int64) (desk.LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Cancelled, Reason: "by " + u.Name(), At: a.now()})
}

// ChangeTime has a letter that waits go at another time.
func (a *Service) ChangeTime(ctx context.Context, u domain.User, id int64, when desk.When) (desk.LetterSheet, error) {
	l, err := a.desk.Mine(ctx, u, id)
	if err != nil {
		return desk.LetterSheet{}, err
	}
	p, err := a.store.Person(ctx, l.PersonID)
	if err != nil {
		return desk.LetterSheet{}, err
	}
	due, err := a.desk.Due(&u, &p, when)
	if err == nil {
		err = a.mayGo(ctx, &l)
	}
	if err != nil {
		return desk.LetterSheet{}, err
	}
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting}, domain.Change{To: domain.Waiting, Reason: "The time was changed", At: a.now(), Due: &due, Again: true, Step: true})
}

// StepsOf gives the way of a letter, step by step.
func (a *Service) StepsOf(ctx context.Context, u domain.User, id int64) ([]domain.LetterStep, error) {
	if _, err := a.desk.Seen(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.Steps(ctx, id)
}

// Due gives waiting letters whose time has come, the oldest first, and the time of the next
// one after them.
func (a *Service) Due(ctx context.Context, now time.Time, limit int) ([]domain.DueLetter, *time.Time, error) {
	list, next, err := a.store.Due(ctx, now, limit)
	if err != nil || len(list) > 0 || next == nil || next.Sub(now) < worker.ClockSlack {
		return list, next, err
	}
	// What was to go at once while the clock was ahead does not wait until it is there again.
	if back, err := a.store.PullBack(ctx, now, worker.ClockSlack); err != nil || back == 0 {
		return list, next, err
	}
	return a.store.Due(ctx, now, limit)
}

// Expired gives the letters that somebody has had in hand for too long.
func (a *Service) Expired(ctx context.Context, now time.Time) ([]int64, error) {
	return a.store.Expired(ctx, now)
}
