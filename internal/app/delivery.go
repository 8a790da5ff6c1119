package app

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/plan"
	"lucidletter/core/result"
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
	if l.AnswersID != nil {
		if err := a.Store.SettleIncoming(ctx, *l.AnswersID, ptr(a.now()), ptr(a.now())); err != nil {
			return s, err
		}
	}
	a.Wake()
	return a.Letter(ctx, u, id)
}

// leaseFor is how long a letter may be in hand.
const leaseFor = 20 * time.Minute

// Deliver hands one waiting letter over, if nobody else has taken it. The bytes are
// composed once, and stored with the word that the letter is being handed over, before
// anything is said to the server. An error means that the store failed; what the server
// said is in the letter's state.
func (a *App) Deliver(ctx context.Context, id int64) error {
	// What is begun is settled even when the program is asked to stop.
	keep := context.WithoutCancel(ctx)
	l, err := a.Store.Letter(keep, id)
	if err != nil || l.State != Waiting {
		return err
	}
	refuse := func(why string) error { return a.settle(keep, &l, Waiting, Change{To: Refused, Reason: why}) }
	acc, err := a.AccountFor(keep, l.SenderID, l.FromEmail)
	if err != nil {
		return err
	}
	out, err := a.ready(keep, &l, &acc)
	var bad *composeError
	switch {
	case errors.As(err, &bad):
		return refuse("The letter could not be composed: " + bad.Error())
	case err != nil:
		return err
	}
	switch why, err := a.lastStop(keep, &l); {
	case err != nil:
		return err
	case why != "":
		return refuse(why)
	case ctx.Err() != nil:
		return nil // it waits for the next start
	}
	if acc, err = a.OpenAccount(acc); err != nil {
		return refuse(fmt.Sprintf("The account “%s” cannot be used: %v.", acc.Name, err))
	}
	switch err := a.handOver(keep, &l, &acc, out); {
	case errors.Is(err, errTaken):
		return nil
	case errors.Is(err, errLimit):
		next := a.now().Truncate(24 * time.Hour).Add(24*time.Hour + time.Duration(id%600)*time.Second)
		return a.settle(keep, &l, Waiting, Change{To: Waiting, Due: &next, Step: true, Reason: fmt.Sprintf("“%s” sends %d letters a day at most, and has; the letter goes tomorrow.", acc.Name, acc.PerDay)})
	case err != nil:
		return err
	}
	l.Attempts++
	answer, err := a.Transport.Send(ctx, acc, a.returnAddress(&l, &acc), l.recipients(), out.bytes)
	return a.settle(keep, &l, Sending, a.outcome(&l, answer, err))
}

var (
	errTaken = errors.New("somebody else has taken the letter")
	errLimit = errors.New("the account has sent as many as it may")
)

// handOver stores that a letter is handed over now, with what was composed for it; or
// gives errTaken or errLimit, and nothing is stored.
func (a *App) handOver(ctx context.Context, l *Letter, acc *Account, out composed) error {
	now := a.now()
	c := Change{To: Sending, At: now, Lease: ptr(now.Add(leaseFor))}
	if out.fresh {
		c.MessageID, c.Token, c.Tracked = l.MessageID, l.Token, l.Tracked
	}
	return a.changes.store(ctx, a.Store, func(s Store) error {
		moved, err := s.Move(ctx, l.ID, Waiting, c)
		if err != nil {
			return err
		}
		if !moved {
			return errTaken
		}
		handed, err := s.HandOver(ctx, l.ID, acc.ID, acc.PerDay, now.Truncate(24*time.Hour), now)
		if err != nil {
			return err
		}
		if !handed {
			return errLimit
		}
		if !out.fresh {
			return nil
		}
		for _, link := range out.links {
			if _, err := s.AddLink(ctx, link); err != nil {
				return err
			}
		}
		return s.PutBytes(ctx, l.ID, out.bytes)
	})
}

// lastStop says why a letter may not go after all, or "": what came in since it was
// sent on its way.
func (a *App) lastStop(ctx context.Context, l *Letter) (string, error) {
	if from, err := a.fromStop(ctx, l); err != nil || from != "" {
		return from, err
	}
	if copies, err := a.copyStops(ctx, l); err != nil || len(copies) > 0 {
		return strings.Join(copies, " "), err
	}
	if l.Internal {
		return "", nil
	}
	p, err := a.Store.Person(ctx, l.PersonID)
	if err != nil {
		return "", err
	}
	since, err := a.optedOut(ctx, l.ToEmail)
	if err != nil {
		return "", err
	}
	if p.OptedOutAt != nil || since != nil {
		return p.Name() + " asked not to be written to.", nil
	}
	bad, err := a.bounced(ctx, l.ToEmail)
	if err != nil || bad == nil {
		return "", err
	}
	return bad.words(l.ToEmail), nil
}

// returnAddress is where a letter is returned to that cannot be delivered.
func (a *App) returnAddress(l *Letter, acc *Account) string {
	local, domain, ok := strings.Cut(cmpOr(acc.ReturnTo, a.ReturnTo), "@")
	if !ok {
		return l.FromEmail
	}
	return local + "+" + l.Token + "@" + domain
}

// composed is a letter as it goes out. Fresh tells that it was not stored yet.
type composed struct {
	bytes []byte
	links []Link
	fresh bool
}

// composeError says why a letter cannot be put together; trying again does not help.
type composeError struct{ error }

// ready gives the bytes of a letter, composed anew unless they were stored before.
func (a *App) ready(ctx context.Context, l *Letter, acc *Account) (composed, error) {
	out := composed{}
	var err error
	if l.MessageID != "" {
		if out.bytes, err = a.Store.Bytes(ctx, l.ID); !errors.Is(err, ErrNotFound) {
			return out, err
		}
	}
	out.fresh = true
	if notes := l.wordingStops(); letter.Stopping(notes) {
		return out, &composeError{errors.New(notes[0].Message)}
	}
	l.MessageID, l.Token = a.NewID()+"@"+domainOf(l.FromEmail), a.NewID()
	m, p, err := a.mailOf(ctx, l, a.now())
	if errors.Is(err, ErrNotFound) {
		return out, &composeError{errors.New("something that belongs to it is not there any more; take it back and look at it")}
	}
	if err != nil {
		return out, err
	}
	if l.Tracked, err = a.tracks(ctx, l, p); err != nil {
		return out, err
	}
	if l.Tracked {
		out.links = a.track(&m, l)
	}
	if m.DKIM, err = a.dkimOf(acc); err != nil {
		return out, &composeError{err}
	}
	if out.bytes, err = a.Composer.Compose(m); err != nil {
		return out, &composeError{err}
	}
	return out, nil
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
		c := Change{To: Refused, Reason: "The server refused the letter: " + answer}
		if failed.Stage == "recipient" && result.AddressGone(failed.Status) && !l.Internal {
			c.Bad = &BadAddress{Key: field.EmailKey(l.ToEmail), Reason: answer, At: now, LetterID: &l.ID}
		}
		return c
	}
	first := now
	if l.FirstTryAt != nil {
		first = *l.FirstTryAt
	}
	next, more := plan.NextTry(first, now, l.Attempts, uint64(l.ID)*2654435761+uint64(l.Attempts))
	if !more {
		return Change{To: Refused, Reason: "Given up after two days; the last answer was: " + answer}
	}
	return Change{To: Waiting, Reason: answer, Due: &next}
}

// settle leaves a state and files what happened.
func (a *App) settle(ctx context.Context, l *Letter, from LetterState, c Change) error {
	c.At = a.now()
	return a.changes.store(ctx, a.Store, func(s Store) error {
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
			if c.Bad != nil {
				if err := s.PutBadAddress(ctx, *c.Bad); err != nil {
					return err
				}
			}
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
		if err := a.release(ctx, &l, "The program stopped while the letter was handed over"); err != nil {
			return err
		}
	}
	return nil
}

func (a *App) release(ctx context.Context, l *Letter, why string) error {
	c := Change{To: Waiting, Reason: "", Due: ptr(a.now())}
	if l.HandedOverAt != nil {
		c = Change{To: Unsure, Reason: why + "; whether it arrived is not known."}
	}
	return a.settle(ctx, l, Sending, c)
}

// Release takes a letter from whoever has had it in hand for too long.
func (a *App) Release(ctx context.Context, id int64) error {
	l, err := a.Store.Letter(ctx, id)
	if err != nil || l.State != Sending {
		return err
	}
	return a.release(ctx, &l, "Handing the letter over took too long")
}
