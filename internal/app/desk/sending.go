package desk

import (
	"context"
	"fmt"
	"time"

	"lucidletter/core/document"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Send puts a draft into the outbox. To is the address that the writer
// confirmed; version the wording that was proofread. Everything is checked
// again here: nothing wrong or empty goes out.
func (a *Service) Send(ctx context.Context, u domain.User, id int64, version int, to string, when When) (LetterSheet, error) {
	s, err := a.Letter(ctx, u, id)
	if err != nil {
		return s, err
	}
	l, err := a.Mine(ctx, u, id)
	switch {
	case err != nil:
		return s, err
	case l.State != domain.Draft:
		return s, &domain.StateError{Why: "The letter has already been sent or is waiting to go."}
	case l.Version != version:
		return s, domain.ErrStale
	case s.ToEmail != to && s.ToEmail != "": // without one the stops say so
		return s, &domain.StateError{Why: fmt.Sprintf("The recipient is %s now; look at the letter again before it goes.", records.PersonLine(&s.Person))}
	}
	if len(s.Stops) > 0 {
		var bad domain.InvalidError
		for _, n := range s.Stops {
			where := string(n.Part)
			if n.Part == document.Envelope { // the sentence names the place
				where = ""
			}
			bad.Fields = append(bad.Fields, domain.FieldError{Where: where, Why: n.Message})
		}
		return s, &bad
	}
	if err := a.Unproofread(ctx, u, id, when); err != nil {
		return s, err
	}
	due, err := a.Due(&u, &s.Person, when)
	if err != nil {
		return s, err
	}
	if err := checkReminder(when.Remind, due); err != nil {
		return s, err
	}
	s.Extras.Remind, s.Extras.RemindAny = when.Remind, when.Remind != nil && when.Any
	// The recipient is fixed with the wording.
	l.ToEmail, l.ToName, l.Extras, l.UpdatedAt = s.ToEmail, s.ToName, s.Extras, a.now()
	if err := a.store.Within(ctx, func(ctx context.Context) error {
		if err := a.store.UpdateDraft(ctx, l); err != nil {
			return err
		}
		if err := outbound.Enqueue(ctx, a.store, id, outbound.Entry{At: a.now(), Due: due}); err != nil || l.AnswersID == nil {
			return err
		}
		return a.store.SettleIncoming(ctx, *l.AnswersID, new(a.now()), new(a.now()))
	}); err != nil {
		return s, err
	}
	a.wake()
	return a.Letter(ctx, u, id)
}

// checkReminder refuses a reminder that comes before the letter goes.
func checkReminder(at *time.Time, due time.Time) error {
	switch {
	case at == nil:
		return nil
	case !at.After(due):
		return domain.Invalid("remind", "is before the letter goes; choose a later day")
	case at.Sub(due) > MaxAhead:
		return domain.Invalid("remind", "is more than a year ahead; choose an earlier day")
	}
	return nil
}

// Retry puts a letter that waits, was refused or is unsure back to be sent now, as it was proofread:
// what was changed since holds it back again.
func (a *Service) Retry(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	l, err := a.Mine(ctx, u, id)
	if err == nil {
		err = a.outbound.MayGo(ctx, &l)
	}
	if err != nil {
		return LetterSheet{}, err
	}
	now := a.now()
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Waiting, Reason: "Trying again now", At: now, Due: &now, Again: true})
}

// TakeBack makes a letter that has not gone a draft again.
func (a *Service) TakeBack(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused}, domain.Change{To: domain.Draft, At: a.now()})
}

// Arrived settles an unsure letter: You confirmed that it arrived.
func (a *Service) Arrived(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != domain.Unsure {
		return LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
	}
	c := domain.Change{To: domain.Sent, Reason: "You confirmed that it arrived", SentAt: l.HandedOverAt}
	if err := a.outbound.Arrived(ctx, &l, c); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

func (a *Service) shift(ctx context.Context, u domain.User, id int64, from []domain.LetterState, c domain.Change) (LetterSheet, error) {
	if _, err := a.Mine(ctx, u, id); err != nil {
		return LetterSheet{}, err
	}
	for _, state := range from {
		moved, err := a.store.Move(ctx, id, state, c)
		if err != nil {
			return LetterSheet{}, err
		}
		if moved {
			a.wake()
			return a.Letter(ctx, u, id)
		}
	}
	return LetterSheet{}, &domain.StateError{Why: "The letter has changed in the meantime; look at it again."}
}

// Cancel keeps a letter from going; it stays for the record.
func (a *Service) Cancel(ctx context.Context, u domain.User, id int64) (LetterSheet, error) {
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting, domain.Refused, domain.Unsure}, domain.Change{To: domain.Cancelled, Reason: "by " + u.Name(), At: a.now()})
}

// ChangeTime has a letter that waits go at another time.
func (a *Service) ChangeTime(ctx context.Context, u domain.User, id int64, when When) (LetterSheet, error) {
	l, err := a.Mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	p, err := a.store.Person(ctx, l.PersonID)
	if err != nil {
		return LetterSheet{}, err
	}
	due, err := a.Due(&u, &p, when)
	if err == nil {
		err = a.outbound.MayGo(ctx, &l)
	}
	if err != nil {
		return LetterSheet{}, err
	}
	return a.shift(ctx, u, id, []domain.LetterState{domain.Waiting}, domain.Change{To: domain.Waiting, Reason: "The time was changed", At: a.now(), Due: &due, Again: true, Step: true})
}

// StepsOf gives the way of a letter, step by step.
func (a *Service) StepsOf(ctx context.Context, u domain.User, id int64) ([]domain.LetterStep, error) {
	if _, err := a.Seen(ctx, u, id); err != nil {
		return nil, err
	}
	return a.store.Steps(ctx, id)
}
