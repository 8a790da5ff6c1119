package delivery

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/eligibility"
	"lucidletter/core/plan"
	"lucidletter/core/result"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
)

// Send puts a draft into the outbox. To is the address that the writer
// confirmed; version the wording that was proofread. Everything is checked
// again here: nothing wrong or empty goes out.
func (a *Service) Send(ctx context.Context, u domain.User, id int64, version int, to string, when desk.When) (desk.LetterSheet, error) {
	s, err := a.desk.Letter(ctx, u, id)
	if err != nil {
		return s, err
	}
	l, err := a.desk.Mine(ctx, u, id)
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
	if err := a.desk.Unproofread(ctx, u, id, when); err != nil {
		return s, err
	}
	due, err := a.desk.Due(&u, &s.Person, when)
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
	return a.desk.Letter(ctx, u, id)
}

// lastStop says why a letter may not go after all, or "": what came in since it was
// sent on its way.
func (a *Service) lastStop(ctx context.Context, l *domain.Letter) (string, error) {
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
	if stop, err := a.personStop(ctx, l, &p); err != nil || stop != "" {
		return stop, err
	}
	switch {
	case l.RunID != nil:
		return a.runStop(ctx, l)
	case l.RoundID == nil:
		return "", nil
	}
	return a.roundStop(ctx, l, &p)
}

// lookedUpFor is for how long what a letter was made from is taken as it was when it was queued:
// one that goes at once is not read again.
const lookedUpFor = 2 * time.Minute

// personStop says why a letter which waits does not go to its person as it is, or "": they may not be
// written to, have another address, or the records say something else than it does.
func (a *Service) personStop(ctx context.Context, l *domain.Letter, p *domain.Person) (string, error) {
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

// runStop says why a letter of a plan may not go after all, or "": something came of which the
// plan stops, since the letter was put into the outbox.
func (a *Service) runStop(ctx context.Context, l *domain.Letter) (string, error) {
	if l.QueuedAt == nil {
		return "", nil
	}
	kind, err := a.store.EndedSince(ctx, l.PersonID, *l.QueuedAt)
	if err != nil || kind == "" {
		return "", err
	}
	return plan.OnEvent(kind).Why + "; the plan stops.", nil
}

// roundStop says why a letter of a round may not go after all, or "".
func (a *Service) roundStop(ctx context.Context, l *domain.Letter, p *domain.Person) (string, error) {
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

// returnAddress is where a letter is returned to that cannot be delivered.
func (a *Service) returnAddress(l *domain.Letter, acc *domain.Account) string {
	local, domain, ok := strings.Cut(cmp.Or(acc.ReturnTo, a.returnTo), "@")
	if !ok {
		return l.FromEmail
	}
	return local + "+" + l.Token + "@" + domain
}

// composed is a letter as it goes out. Fresh tells that it was not stored yet.
type composed struct {
	bytes []byte
	links []domain.Link
	fresh bool
}

// composeError says why a letter cannot be put together; trying again does not help.
type composeError struct{ error }

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

// ready gives the bytes of a letter, composed anew unless they were stored before.
func (a *Service) ready(ctx context.Context, l *domain.Letter, acc *domain.Account) (composed, error) {
	out := composed{}
	var err error
	if l.MessageID != "" {
		if out.bytes, err = a.store.Bytes(ctx, l.ID); !errors.Is(err, domain.ErrNotFound) {
			return out, err
		}
	}
	out.fresh = true
	if notes := l.WordingStops(); document.Stopping(notes) {
		return out, &composeError{errors.New(notes[0].Message)}
	}
	l.MessageID, l.Token = a.newID()+"@"+domain.EmailDomain(l.FromEmail), a.newID()
	m, p, err := a.compose.MailOf(ctx, l, a.now())
	if why := lastingWhy(err); why != "" {
		return out, &composeError{errors.New(why)}
	}
	if err != nil {
		return out, err
	}
	tracking, err := a.compose.Tracking(ctx, l, p)
	if err != nil {
		return out, err
	}
	if l.Tracked = tracking.On; l.Tracked {
		out.links = a.compose.Track(&m, l)
	}
	if m.DKIM, err = a.team.DKIMOf(acc); err != nil {
		return out, &composeError{err}
	}
	if out.bytes, err = a.composer.Compose(m); err != nil {
		return out, &composeError{err}
	}
	return out, nil
}

// tryAccount is how often a letter is tried whose account has been in trouble for days.
const tryAccount = 4 * time.Hour

// outcome is how a try ended, by what the transport says.
func (a *Service) outcome(l *domain.Letter, answer string, err error) domain.Change {
	now := a.now()
	if err == nil {
		return domain.Change{To: domain.Sent, Reason: answer, SentAt: &now}
	}
	var failed *domain.SendError
	if !errors.As(err, &failed) {
		return domain.Change{To: domain.Unsure, Reason: "Sending was interrupted. We don’t know whether the letter arrived."}
	}
	answer = strings.TrimSpace(failed.Answer)
	switch {
	case failed.Unsure:
		return domain.Change{To: domain.Unsure, Reason: "The mail server took the letter but didn’t confirm it: " + answer}
	case !failed.Temporary:
		c := domain.Change{To: domain.Refused, Reason: "The mail server refused the letter: " + answer}
		if failed.Stage == "recipient" && result.AddressGone(failed.Status, failed.Answer) && !l.Internal {
			c.Bad = &domain.BadAddress{Reason: answer, At: now, LetterID: &l.ID}
		}
		return c
	}
	first := now
	if l.FirstTryAt != nil {
		first = *l.FirstTryAt
	}
	next, more := plan.NextTry(first, now, l.Attempts, uint64(l.ID)*2654435761+uint64(l.Attempts))
	if !more && failed.OfAccount() { // it waits until the account is mended, or its writer takes it back
		return domain.Change{To: domain.Waiting, Reason: "Nothing goes through this mail server since " + first.Format("2 January") + "; an administrator can look at it under Mail servers. " + answer, Due: new(now.Add(tryAccount))}
	}
	if !more {
		return domain.Change{To: domain.Refused, Reason: "Gave up after two days. The last answer was: " + answer}
	}
	return domain.Change{To: domain.Waiting, Reason: answer, Due: &next}
}

// checkReminder refuses a reminder that comes before the letter goes.
func checkReminder(at *time.Time, due time.Time) error {
	switch {
	case at == nil:
		return nil
	case !at.After(due):
		return domain.Invalid("remind", "is before the letter goes; choose a later day")
	case at.Sub(due) > desk.MaxAhead:
		return domain.Invalid("remind", "is more than a year ahead; choose an earlier day")
	}
	return nil
}
