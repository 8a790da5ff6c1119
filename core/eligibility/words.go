package eligibility

import (
	"cmp"
	"time"
)

const day = "2 January 2006"

func on(at time.Time) string {
	if at.IsZero() {
		return ""
	}
	return at.Format(" on " + day)
}

// Label says a reason in English beside the name of whom it is about, without a full stop.
func (r Reason) Label() string {
	switch r.Code {
	case Deleted:
		if r.Who != "" {
			return "The record was merged into " + r.Who
		}
		return "The record was deleted"
	case Broken:
		return "Something unexpected happened with this letter; it was noted for the administrator"
	case NoAddress:
		return "No email address"
	case Malformed:
		return "The address " + cmp.Or(r.Why, r.Who)
	case OptedOut:
		return "Unsubscribed" + on(r.At)
	case Bounced:
		return "Letters came back from this address" + on(r.At)
	case Moved:
		if r.Now == "" {
			return "No email address on record any more; this letter was for " + r.To
		}
		return "The address is " + r.Now + " now; this letter was for " + r.To
	case Unfit:
		return "The template " + cmp.Or(r.Why, r.Who)
	case Twin:
		return "Has the same address as " + r.Who
	case Answered:
		return "Wrote to you" + on(r.At) + ", since this round began"
	case Colleague:
		if r.At.IsZero() {
			return r.Who + " has a letter to them on its way"
		}
		return r.Who + " wrote to them" + on(r.At)
	case OnPlan:
		return "Is going through the plan “" + r.Who + "”"
	case NoBasis:
		return "No basis recorded for writing to them"
	case Again:
		if r.At.IsZero() {
			return "A letter of this template is on its way to them"
		}
		return "Had a letter of this template" + on(r.At)
	}
	return string(r.Code)
}

// Sentence says a reason in English about somebody of a name, and what can be done about it.
func (r Reason) Sentence(name string) string {
	switch r.Code {
	case Deleted:
		if r.Who != "" {
			return "The record of " + name + " was merged into " + r.Who + ". Change the recipient to that record."
		}
		return name + " was deleted from the records. Put the record back, or choose somebody else."
	case OptedOut:
		return name + " unsubscribed" + on(r.At) + "."
	case NoAddress:
		return name + " has no email address."
	case Malformed:
		return "The address " + cmp.Or(r.Why, r.Who) + "; correct it in the record."
	case Bounced:
		why := ""
		if r.Why != "" {
			why = ": " + r.Why
		}
		return "Letters to " + r.To + " bounced" + on(r.At) + why + ". Correct the address, or mark it as working on the record."
	case Moved:
		if r.Now == "" {
			return name + " has no email address on record any more; this letter was for " + r.To + "."
		}
		return "The address of " + name + " is " + r.Now + " now; this letter was for " + r.To + ". Take it back and look at it."
	case Twin:
		return name + " has the same address as " + r.Who + "."
	case Answered:
		return name + " wrote to you" + on(r.At) + ", after this round was sent."
	}
	return name + ": " + r.Label() + "."
}

// CopySentence says why an address may get no copy of a letter, and what can be done about it.
func (r Reason) CopySentence() string {
	switch r.Code {
	case OptedOut:
		return r.To + ", who also gets the letter, is on the do-not-contact list; remove the address."
	case Bounced:
		return "Letters to " + r.To + ", who also gets this one, bounced; remove the address, or say on its record that it works again."
	}
	return "A copy can’t go to " + r.To + ": " + r.Label() + ". Remove the address."
}
