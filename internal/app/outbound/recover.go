package outbound

import (
	"context"
	"errors"
	"fmt"

	"lucidletter/core/access"
	"lucidletter/internal/domain"
)

// Recover settles what a crash left in hand. A letter that may have been handed over
// becomes unsure, unless the answer was noted; it is never sent again by itself.
func (a *Service) Recover(ctx context.Context) error {
	stuck, err := a.store.InState(ctx, domain.Sending)
	if err != nil {
		return err
	}
	if err := a.lookForOlder(ctx, stuck); err != nil {
		return err
	}
	// Before anything is settled: who ends the program now finds nothing to hold.
	if err := a.store.SetHanded(ctx, a.journal.Seq()); err != nil {
		return err
	}
	for i := range stuck {
		if err := a.release(ctx, &stuck[i], "The program stopped while the letter was handed over"); err != nil {
			return err
		}
	}
	return a.journal.Clear()
}

// lookForOlder puts the outbox on hold when the journal knows of letters that went out
// and the database does not: it is older, or a copy. What waits in it may have been sent.
func (a *Service) lookForOlder(ctx context.Context, stuck []domain.Letter) error {
	handed, err := a.store.Handed(ctx)
	if err != nil {
		return err
	}
	noted := a.journal.Seq()
	why := ""
	known := int64(0) // tries that are not settled, but whose letters are in hand
	for i := range stuck {
		if n, ok := a.journal.Of(stuck[i].Try()); ok && n.Seq > handed {
			known++
		}
	}
	lost := false
	if a.journal.Missing() {
		if lost, err = a.store.Begun(ctx); err != nil {
			return err
		}
	}
	switch missing := noted - handed - known; {
	case lost || noted == 0 && handed > 0:
		why = "This database was copied from elsewhere, without the journal of what went out. Letters that wait here may have been sent from there since."
	case missing > 0:
		why = fmt.Sprintf("This database is older than what went out: it doesn’t know of %d attempts to send. Letters that wait here may have been sent already.", missing)
	}
	if why == "" {
		return nil
	}
	return a.store.HoldOutbox(ctx, why, new(a.now()))
}

// OutboxHold tells why nothing is sent.
func (a *Service) OutboxHold(ctx context.Context) (domain.OutboxHold, error) {
	return a.store.OutboxHold(ctx)
}

// SendAgain lets letters go that were on hold.
func (a *Service) SendAgain(ctx context.Context, u domain.User) error {
	if err := domain.May(u, access.EditShared, access.Thing{}); err != nil {
		return err
	}
	err := a.store.HoldOutbox(ctx, "", nil)
	a.wake()
	return err
}

func (a *Service) release(ctx context.Context, l *domain.Letter, why string) error {
	c := domain.Change{To: domain.Waiting, Due: new(a.now())}
	noted, ok := a.journal.Of(l.Try())
	switch {
	case ok && noted.End != nil:
		c = *noted.End
	case ok:
		c = domain.Change{To: domain.Unsure, Reason: why + "; whether it arrived is not known.", HandedOver: &noted.At}
	case l.HandedOverAt != nil: // by a program without a journal
		c = domain.Change{To: domain.Unsure, Reason: why + "; whether it arrived is not known."}
	}
	err := a.store.GroupCommit(ctx, func(ctx context.Context) error {
		return errors.Join(a.store.SetHanded(ctx, a.journal.Seq()), a.settle(ctx, l, domain.Sending, c))
	})
	if err != nil {
		return err
	}
	return a.journal.Settled(l.Try())
}

// Release takes a letter from whoever has had it in hand for too long.
func (a *Service) Release(ctx context.Context, id int64) error {
	l, err := a.store.Letter(ctx, id)
	if err != nil || l.State != domain.Sending {
		return err
	}
	return a.release(ctx, &l, "Handing the letter over took too long")
}
