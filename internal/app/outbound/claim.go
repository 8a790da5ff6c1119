package outbound

import (
	"context"
	"errors"
	"fmt"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// A letter that waits is claimed: composed, and stored with its bytes as being
// sent. Then it is handed over, which the journal notes before and after; and what came
// of it is settled in the store. Several are taken and settled in one transaction; the
// journal tells after a crash which of those in hand the server may have.

// Claimed is a letter that was claimed.
type Claimed struct {
	letter  domain.Letter
	account domain.Account
	out     Composed
	stored  bool      // its bytes are stored
	looked  time.Time // when it was looked whether it may go
}

// ID is that of the letter.
func (h *Claimed) ID() int64 { return h.letter.ID }

// Ended is a letter that was in hand, and what came of it.
type Ended struct {
	letter *domain.Letter
	change domain.Change
	try    string // as it is noted in the journal, "" when it is not
}

// ID is that of the letter.
func (e *Ended) ID() int64 { return e.letter.ID }

// handOverGrace is how long a program that is asked to end waits for letters in hand.
const handOverGrace = 30 * time.Second

// withGrace gives a context that ends so long after the given one.
func withGrace(ctx context.Context, grace time.Duration) (context.Context, func()) {
	later, cancel := context.WithCancel(context.WithoutCancel(ctx))
	stop := context.AfterFunc(ctx, func() {
		select {
		case <-later.Done():
		case <-time.After(grace):
			cancel()
		}
	})
	return later, func() { stop(); cancel() }
}

// leaseFor is how long a letter may be in hand.
const leaseFor = 20 * time.Minute

// stillGood is how long what was looked up of a letter in hand is not looked up again.
const stillGood = time.Second

// Claim claims waiting letters, those that nobody else has taken and that
// nothing keeps from going; the others are settled. What it gives was taken also when
// there is an error, which means that the store failed for some.
func (a *Service) Claim(ctx context.Context, ids []int64) ([]Claimed, error) {
	// What is begun is settled even when the program is asked to stop.
	ctx = context.WithoutCancel(ctx)
	var ready []Claimed
	var stopped []Ended
	var failed []error
	looked := a.now()
	reading, err := a.store.ReadBatch(ctx, ids)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		var h Claimed
		var stop string
		err := worker.Guard(func() (err error) {
			h, stop, err = a.prepare(reading, id)
			return err
		})
		switch {
		case errors.Is(err, errTaken):
		case worker.Panicked(err):
			a.failed(fmt.Errorf("letter %d: %w", id, err))
			stopped = append(stopped, Ended{letter: &domain.Letter{ID: id}, change: domain.Change{To: domain.Refused, Reason: brokenWhy}})
		case err != nil && !domain.Busy(err):
			// When it is the store that fails, so does noting it, and the letter stays as it is.
			a.failed(fmt.Errorf("letter %d: %w", id, err))
			stopped = append(stopped, Ended{letter: &domain.Letter{ID: id}, change: domain.Change{To: domain.Waiting, Reason: notNowWhy, Due: new(looked.Add(notNowFor)), Step: true}})
		case err != nil:
			failed = append(failed, fmt.Errorf("letter %d: %w", id, err))
		case stop != "":
			stopped = append(stopped, Ended{letter: &h.letter, change: domain.Change{To: domain.Refused, Reason: stop}})
		default:
			h.looked = looked
			ready = append(ready, h)
		}
	}
	var taken []Claimed
	err = a.store.GroupCommit(ctx, func(ctx context.Context) error {
		taken = nil
		for i := range stopped {
			if err := a.settleStopped(ctx, &stopped[i]); err != nil {
				return err
			}
		}
		for i := range ready {
			ok, err := a.claim(ctx, &ready[i])
			if err != nil {
				return err
			}
			if ok {
				taken = append(taken, ready[i])
			}
		}
		return nil
	})
	if err != nil {
		return nil, errors.Join(append(failed, err)...)
	}
	return taken, errors.Join(failed...)
}

// brokenWhy is the reason of a letter that could not be put together for a fault of the
// program.
const brokenWhy = "Something unexpected happened while the letter was put together; it was noted for the administrator. Take the letter back, change what is unusual in it, and send it again"

// A letter of which something could not be read waits for a while, and holds up no other.
const (
	notNowFor = 15 * time.Minute
	notNowWhy = "Something that belongs to the letter could not be read; it was noted for the administrator. The letter is tried again"
)

// settleStopped settles a letter that waits and does not go now. Of one that could not be
// composed no more is read than its head.
func (a *Service) settleStopped(ctx context.Context, e *Ended) error {
	if e.letter.SenderID == 0 {
		head, err := a.store.LetterHead(ctx, e.letter.ID)
		if errors.Is(err, domain.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		e.letter = &head
	}
	return a.settle(ctx, e.letter, domain.Waiting, e.change)
}

var errTaken = errors.New("somebody else has taken the letter")

// prepare composes a letter that waits. Stop says why it may not go.
func (a *Service) prepare(ctx context.Context, id int64) (h Claimed, stop string, err error) {
	if h.letter, err = a.store.Letter(ctx, id); err != nil {
		return h, "", err
	}
	l := &h.letter
	if l.State != domain.Waiting {
		return h, "", errTaken
	}
	if h.account, err = a.team.AccountFor(ctx, l.SenderID, l.FromEmail); err != nil {
		return h, "", err
	}
	h.out, h.stored, err = a.ready(ctx, l, &h.account)
	var bad *UnfitError
	switch {
	case errors.As(err, &bad):
		return h, "The letter could not be composed: " + bad.Error(), nil
	case err != nil:
		return h, "", err
	}
	stop, err = a.lastBlocker(ctx, l)
	if why := lastingWhy(err); why != "" {
		return h, "The letter did not go: " + why, nil
	}
	if err != nil || stop != "" {
		return h, stop, err
	}
	opened, err := a.team.OpenAccount(h.account)
	if err != nil {
		return h, fmt.Sprintf("The account “%s” cannot be used: %v.", h.account.Name, err), nil
	}
	h.account = opened
	return h, "", nil
}

// ready gives a letter as it goes out, composed anew unless its bytes were stored before.
func (a *Service) ready(ctx context.Context, l *domain.Letter, acc *domain.Account) (out Composed, stored bool, err error) {
	if l.MessageID != "" {
		if out.Bytes, err = a.store.Bytes(ctx, l.ID); !errors.Is(err, domain.ErrNotFound) {
			return out, true, err
		}
	}
	out, err = a.channel.Compose(ctx, l, acc)
	return out, false, err
}

// claim stores that a letter is in hand, with what was composed for it. A letter that its
// account sends no more today waits for the next.
func (a *Service) claim(ctx context.Context, h *Claimed) (bool, error) {
	l, now := &h.letter, a.now()
	taken, err := a.store.ClaimLetter(ctx, l.ID, domain.Claim{
		Version: l.Version, MessageID: l.MessageID, Token: l.Token, Tracked: l.Tracked, SubjectLine: l.SubjectLine, AccountID: h.account.ID, PerDay: h.account.PerDay, Day: now.Truncate(24 * time.Hour), At: now, Lease: now.Add(leaseFor),
	})
	if err != nil {
		return false, err
	}
	if !taken {
		// Somebody else may have taken or changed it; else its account has sent enough.
		stored, err := a.store.LetterHead(ctx, l.ID)
		if err != nil || stored.State != domain.Waiting || stored.Version != l.Version {
			return false, err
		}
		next := now.Truncate(24 * time.Hour).Add(24*time.Hour + time.Duration(l.ID%600)*time.Second)
		return false, a.settle(ctx, l, domain.Waiting, domain.Change{
			To: domain.Waiting, Due: &next, Step: true,
			Reason: fmt.Sprintf("“%s” sends %d letters a day at most, and has; the letter goes tomorrow.", h.account.Name, h.account.PerDay),
		})
	}
	if h.stored {
		return true, nil
	}
	for _, link := range h.out.Links {
		if _, err := a.store.AddLink(ctx, link); err != nil {
			return false, err
		}
	}
	return true, a.store.PutBytes(ctx, l.ID, h.out.Bytes)
}

// HandOver hands a letter over and gives what came of it, to be settled. When the
// program is asked to stop before, or the journal fails, the letter waits again. An error
// says what failed on our side.
func (a *Service) HandOver(ctx context.Context, h Claimed) (Ended, error) {
	l := &h.letter
	back := Ended{letter: l, change: domain.Change{To: domain.Waiting, Due: new(a.now())}}
	if ctx.Err() != nil {
		return back, nil
	}
	keep := context.WithoutCancel(ctx)
	if a.now().Sub(h.looked) > stillGood {
		why := ""
		err := worker.Guard(func() (err error) {
			why, err = a.lastBlocker(keep, l)
			return err
		})
		if worker.Panicked(err) {
			a.failed(fmt.Errorf("letter %d: %w", l.ID, err))
			return Ended{letter: l, change: domain.Change{To: domain.Refused, Reason: brokenWhy}}, nil
		}
		if lasting := lastingWhy(err); lasting != "" {
			why, err = "The letter did not go: "+lasting, nil
		}
		if err != nil {
			return back, err
		}
		if why != "" {
			return Ended{letter: l, change: domain.Change{To: domain.Refused, Reason: why}}, nil
		}
	}
	try, began := l.Try(), a.now()
	if err := a.journal.Begin(try, began); err != nil {
		return back, err
	}
	l.Attempts++
	// A program that is asked to end lets a letter in hand go its way for a while.
	ctx, end := withGrace(ctx, handOverGrace)
	defer end()
	answer := ""
	err := worker.Guard(func() (err error) {
		answer, err = a.channel.HandOver(ctx, l, &h.account, h.out.Bytes)
		return err
	})
	if worker.Panicked(err) {
		a.failed(fmt.Errorf("hand letter %d over: %w", l.ID, err))
	}
	c := a.outcome(l, answer, err)
	c.HandedOver = &began
	return Ended{l, c, try}, a.journal.End(try, c)
}

// Settle stores what came of letters that were in hand.
func (a *Service) Settle(ctx context.Context, list []Ended) error {
	ctx = context.WithoutCancel(ctx)
	var noted []string
	err := a.store.GroupCommit(ctx, func(ctx context.Context) error {
		noted = nil
		if err := a.store.SetHanded(ctx, a.journal.Seq()); err != nil {
			return err
		}
		for i := range list {
			e := &list[i]
			if err := a.settle(ctx, e.letter, domain.Sending, e.change); err != nil {
				return err
			}
			if e.try != "" {
				noted = append(noted, e.try)
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return a.journal.Settled(noted...)
}

// Arrived settles a letter of which it was not known, as its writer says.
func (a *Service) Arrived(ctx context.Context, l *domain.Letter, c domain.Change) error {
	return a.store.Within(ctx, func(ctx context.Context) error { return a.settle(ctx, l, domain.Unsure, c) })
}

// settle leaves a state and files what happened.
func (a *Service) settle(ctx context.Context, l *domain.Letter, from domain.LetterState, c domain.Change) error {
	c.At = a.now()
	moved, err := a.store.Move(ctx, l.ID, from, c)
	if err != nil || !moved {
		return err
	}
	kind := domain.EntryKind("")
	switch c.To {
	case domain.Sent:
		kind = domain.EntrySent
	case domain.Refused:
		kind = domain.EntryRefused
		if c.Bad != nil {
			bad := *c.Bad
			bad.Key = field.EmailKey(l.ToEmail)
			if err := a.store.PutBadAddress(ctx, bad); err != nil {
				return err
			}
		}
	default:
		return nil
	}
	if t := l.Reminder(c.At); t != nil && c.To == domain.Sent {
		if _, err := a.store.AddTask(ctx, *t); err != nil {
			return err
		}
	}
	person := &l.PersonID
	if l.Internal {
		person = nil
	}
	return a.store.AddEntry(ctx, domain.Entry{
		PersonID: person, CompanyID: l.CompanyID, DealID: l.DealID, LetterID: &l.ID, UserID: &l.SenderID,
		Kind: kind, Text: l.SubjectLine, At: c.At,
	})
}
