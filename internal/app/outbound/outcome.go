package outbound

import (
	"errors"
	"strings"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

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
		if a.channel.Gone(failed) && !l.Internal {
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
