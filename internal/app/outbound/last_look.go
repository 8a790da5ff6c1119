package outbound

import (
	"cmp"
	"context"
	"errors"
	"strings"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

// lastBlocker says why a letter may not go after all, or "": what came in since it was
// sent on its way.
func (a *Service) lastBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	if from, err := a.compose.FromBlocker(ctx, l); err != nil || from != "" {
		return from, err
	}
	if copies, err := a.compose.CopyBlockers(ctx, l); err != nil || len(copies) > 0 {
		return strings.Join(copies, " "), err
	}
	if part, err := a.compose.PartBlocker(ctx, l); err != nil || part != "" {
		return part, err
	}
	if l.Internal {
		return "", nil
	}
	p, err := a.store.Person(ctx, l.PersonID)
	if err != nil {
		return "", err
	}
	if stop, err := a.personBlocker(ctx, l, &p); err != nil || stop != "" {
		return stop, err
	}
	switch {
	case l.RunID != nil:
		return a.runBlocker(ctx, l)
	case l.RoundID == nil:
		return "", nil
	}
	return a.roundBlocker(ctx, l, &p)
}

// lookedUpFor is for how long what a letter was made from is taken as it was when it was queued:
// one that goes at once is not read again.
const lookedUpFor = 2 * time.Minute

// personBlocker says why a letter which waits does not go to its person as it is, or "": they may not be
// written to, have another address, or the records say something else than it does.
func (a *Service) personBlocker(ctx context.Context, l *domain.Letter, p *domain.Person) (string, error) {
	f, err := a.records.Standing(ctx, p, l.ToEmail)
	if err != nil {
		return "", err
	}
	f.Waits, f.Now = true, cmp.Or(p.Email, l.Extras.Address)
	if r := eligibility.First(&f); r != nil {
		return r.Sentence(p.Name()), nil
	}
	return a.otherNow(ctx, l, p)
}

// otherNow says what the records say now that a letter which waits was not written from, or "".
func (a *Service) otherNow(ctx context.Context, l *domain.Letter, p *domain.Person) (string, error) {
	if l.QueuedAt == nil || len(l.Seen) == 0 || a.now().Sub(*l.QueuedAt) < lookedUpFor && !p.UpdatedAt.After(*l.QueuedAt) {
		return "", nil
	}
	return a.compose.OtherNow(ctx, l)
}

// runBlocker says why a letter of a plan may not go after all, or "": something came of which the
// plan stops, since the letter was put into the outbox.
func (a *Service) runBlocker(ctx context.Context, l *domain.Letter) (string, error) {
	if l.QueuedAt == nil {
		return "", nil
	}
	kind, err := a.store.EndedSince(ctx, l.PersonID, *l.QueuedAt)
	if err != nil || kind == "" {
		return "", err
	}
	return plan.OnEvent(kind).Why + "; the plan stops.", nil
}

// roundBlocker says why a letter of a round may not go after all, or "".
func (a *Service) roundBlocker(ctx context.Context, l *domain.Letter, p *domain.Person) (string, error) {
	came, err := a.store.RoundStop(ctx, l)
	switch {
	case err != nil:
		return "", err
	case came.Stopped:
		return "The round was stopped.", nil
	case came.Twice:
		return "Another letter of this round went to " + l.ToEmail + " already.", nil
	case came.Wrote != nil && !l.Extras.InSpite:
		return eligibility.Reason{Code: eligibility.Answered, Args: eligibility.Args{At: *came.Wrote}}.Sentence(p.Name()), nil
	}
	return "", nil
}

// MayGo refuses what would not go: whoever asks for it is told at once, and not by the outbox.
func (a *Service) MayGo(ctx context.Context, l *domain.Letter) error {
	why, err := a.lastBlocker(ctx, l)
	if lasting := lastingWhy(err); lasting != "" {
		why, err = "The letter does not go: "+lasting, nil
	}
	if err == nil && why != "" {
		return &domain.StateError{Why: why}
	}
	return err
}

// lastingWhy says why a letter cannot be put together before something changes, or "": what it is
// about is not there any more, or not theirs.
func lastingWhy(err error) string {
	var bad *domain.InvalidError
	switch {
	case errors.As(err, &bad) && bad.Names("dealId"):
		return "the deal that it is about is not one of its reader’s any more; take it back and look at it"
	case domain.Lasting(err):
		return "something that belongs to it is not there any more; take it back and look at it"
	}
	return ""
}
