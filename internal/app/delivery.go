package app

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/letter"
)

// Send puts a draft into the outbox. To is the address that the writer
// confirmed; version the wording that was proofread. Everything is checked
// again here: nothing wrong or empty goes out.
func (a *App) Send(ctx context.Context, u User, id int64, version int, to string, when When) (LetterSheet, error) {
	s, err := a.Letter(ctx, u, id)
	if err != nil {
		return s, err
	}
	l, err := a.mine(ctx, u, id)
	switch {
	case err != nil:
		return s, err
	case l.State != Draft:
		return s, &StateError{"The letter is already on its way."}
	case l.Version != version:
		return s, ErrStale
	case s.ToEmail != to:
		return s, &StateError{fmt.Sprintf("The recipient is %s now; look at the letter again before it goes.", personLine(&s.Person))}
	}
	if len(s.Stops) > 0 {
		var bad InvalidError
		for _, n := range s.Stops {
			bad.Fields = append(bad.Fields, FieldError{string(n.Part), n.Message})
		}
		return s, &bad
	}
	due, err := a.due(&u, &s.Person, when)
	if err != nil {
		return s, err
	}
	if err := checkReminder(when.Remind, due); err != nil {
		return s, err
	}
	s.Extras.Remind = when.Remind
	// The recipient is fixed with the wording.
	l.ToEmail, l.ToName, l.Extras, l.UpdatedAt = s.ToEmail, s.ToName, s.Extras, a.now()
	if err := a.Store.UpdateDraft(ctx, l); err != nil {
		return s, err
	}
	moved, err := a.Store.Move(ctx, id, Draft, Change{To: Waiting, At: a.now(), Due: &due, Queued: true})
	if err != nil {
		return s, err
	}
	if !moved {
		return s, ErrStale
	}
	a.Wake()
	return a.Letter(ctx, u, id)
}

// Retry puts a letter that waits, was refused or is unsure back to be sent now.
func (a *App) Retry(ctx context.Context, u User, id int64) (LetterSheet, error) {
	now := a.now()
	return a.shift(ctx, u, id, []LetterState{Waiting, Refused, Unsure}, Change{To: Waiting, Reason: "to be tried again now", At: now, Due: &now, Queued: true})
}

// TakeBack makes a letter that has not gone a draft again.
func (a *App) TakeBack(ctx context.Context, u User, id int64) (LetterSheet, error) {
	return a.shift(ctx, u, id, []LetterState{Waiting, Refused}, Change{To: Draft, At: a.now()})
}

// Arrived settles an unsure letter: the writer knows that it arrived.
func (a *App) Arrived(ctx context.Context, u User, id int64) (LetterSheet, error) {
	l, err := a.mine(ctx, u, id)
	if err != nil {
		return LetterSheet{}, err
	}
	if l.State != Unsure {
		return LetterSheet{}, &StateError{"The letter is in another state by now; look at it again."}
	}
	if err := a.settle(ctx, &l, Unsure, Change{To: Sent, Reason: "the writer knows that it arrived", SentAt: l.HandedOverAt}); err != nil {
		return LetterSheet{}, err
	}
	return a.Letter(ctx, u, id)
}

func (a *App) shift(ctx context.Context, u User, id int64, from []LetterState, c Change) (LetterSheet, error) {
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
	return LetterSheet{}, &StateError{"The letter is in another state by now; look at it again."}
}

// The pauses before the second, third … attempt, and when a letter is given up.
var pauses = []time.Duration{time.Minute, 5 * time.Minute, 15 * time.Minute, time.Hour, 3 * time.Hour, 6 * time.Hour}

const giveUpAfter = 48 * time.Hour

func pauseAfter(attempts int) time.Duration { return pauses[min(attempts, len(pauses)-1)] }

// Deliver hands one waiting letter over, if nobody else has taken it. The bytes
// are composed once and stored before the first attempt. An error means that
// the store failed; what the server said is in the letter's state.
func (a *App) Deliver(ctx context.Context, id int64) error {
	taken, err := a.Store.Move(ctx, id, Waiting, Change{To: Sending, At: a.now()})
	if err != nil || !taken {
		return err
	}
	// From here on the state must be settled even when the program is asked
	// to stop.
	keep := context.WithoutCancel(ctx)
	l, err := a.Store.Letter(keep, id)
	if err != nil {
		return err
	}
	bytes, err := a.bytesOf(keep, &l)
	if err != nil {
		return a.settle(keep, &l, Sending, Change{To: Refused, Reason: "The letter could not be composed: " + err.Error()})
	}
	p, err := a.Store.Person(keep, l.PersonID)
	if err != nil {
		return err
	}
	since, err := a.optedOut(keep, l.ToEmail)
	if err != nil {
		return err
	}
	if (p.OptedOutAt != nil || since != nil) && !l.Internal {
		return a.settle(keep, &l, Sending, Change{To: Refused, Reason: p.Name() + " asked not to be written to."})
	}
	from, err := a.fromStop(keep, &l)
	if err != nil {
		return err
	}
	switch copies, err := a.copyStops(keep, &l); {
	case err != nil:
		return err
	case from != "":
		return a.settle(keep, &l, Sending, Change{To: Refused, Reason: from})
	case len(copies) > 0:
		return a.settle(keep, &l, Sending, Change{To: Refused, Reason: copies[0]})
	}
	if ctx.Err() != nil {
		return a.settle(keep, &l, Sending, Change{To: Waiting, Due: ptr(a.now())})
	}
	if _, err := a.Store.Move(keep, id, Sending, Change{To: Sending, At: a.now(), HandedOver: ptr(a.now()), Attempt: true}); err != nil {
		return err
	}
	answer, err := a.Transport.Send(ctx, l.FromEmail, l.recipients(), bytes)
	return a.settle(keep, &l, Sending, a.outcome(&l, answer, err))
}

func (a *App) bytesOf(ctx context.Context, l *Letter) ([]byte, error) {
	bytes, err := a.Store.Bytes(ctx, l.ID)
	if !errors.Is(err, ErrNotFound) {
		return bytes, err
	}
	if notes := l.wordingStops(); letter.Stopping(notes) {
		return nil, errors.New(notes[0].Message)
	}
	l.MessageID, l.Token = a.NewID()+"@"+domainOf(l.FromEmail), a.NewID()
	if bytes, err = a.compose(ctx, l, a.now()); err != nil {
		return nil, err
	}
	if _, err := a.Store.Move(ctx, l.ID, Sending, Change{To: Sending, At: a.now(), MessageID: l.MessageID, Token: l.Token}); err != nil {
		return nil, err
	}
	return bytes, a.Store.PutBytes(ctx, l.ID, bytes)
}

func (a *App) outcome(l *Letter, answer string, err error) Change {
	now := a.now()
	if err == nil {
		return Change{To: Sent, Reason: answer, SentAt: &now}
	}
	var failed *SendError
	if !errors.As(err, &failed) {
		return Change{To: Unsure, Reason: "Sending broke off; whether the letter arrived is not known."}
	}
	answer = strings.TrimSpace(failed.Answer)
	switch {
	case failed.Unsure:
		return Change{To: Unsure, Reason: "The server took the letter and then said nothing: " + answer}
	case !failed.Temporary:
		return Change{To: Refused, Reason: "The server refused the letter: " + answer}
	case l.QueuedAt != nil && now.Sub(*l.QueuedAt) > giveUpAfter:
		return Change{To: Refused, Reason: "Given up after two days; the last answer was: " + answer}
	}
	next := now.Add(pauseAfter(l.Attempts))
	return Change{To: Waiting, Reason: answer, Due: &next}
}

// settle leaves a state and files what happened.
func (a *App) settle(ctx context.Context, l *Letter, from LetterState, c Change) error {
	c.At = a.now()
	return a.Store.Within(ctx, func(s Store) error {
		moved, err := s.Move(ctx, l.ID, from, c)
		if err != nil || !moved {
			return err
		}
		kind := EntryKind("")
		switch c.To {
		case Sent:
			kind = EntrySent
		case Refused:
			kind = EntryRefused
		default:
			return nil
		}
		if t := l.reminder(c.At); t != nil && c.To == Sent {
			if _, err := s.AddTask(ctx, *t); err != nil {
				return err
			}
		}
		person := &l.PersonID
		if l.Internal {
			person = nil
		}
		return s.AddEntry(ctx, Entry{
			PersonID: person, CompanyID: l.CompanyID, DealID: l.DealID, LetterID: &l.ID, UserID: &l.SenderID,
			Kind: kind, Text: l.SubjectLine, At: c.At,
		})
	})
}

// Recover settles what a crash left in the sending state. A letter that may
// have been handed over becomes unsure; it is never sent again by itself.
func (a *App) Recover(ctx context.Context) error {
	stuck, err := a.Store.InState(ctx, Sending)
	if err != nil {
		return err
	}
	for _, l := range stuck {
		c := Change{To: Waiting, Reason: "", Due: ptr(a.now())}
		if l.HandedOverAt != nil {
			c = Change{To: Unsure, Reason: "The program stopped while the letter was handed over; whether it arrived is not known."}
		}
		if err := a.settle(ctx, &l, Sending, c); err != nil {
			return err
		}
	}
	return nil
}
