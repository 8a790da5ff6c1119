package result

import "strings"

// AddressGone tells whether the status of a failure (RFC 3463 section 3) means that the
// address itself is no good: a permanent failure that is not of the letter, its size or
// its safety, of the way there, or of a mailbox that is full.
func AddressGone(status string) bool {
	rest, permanent := strings.CutPrefix(status, "5.")
	if !permanent {
		return false
	}
	switch rest {
	case "2.2", "2.3", "3.1", "3.4": // mailbox full, letter too long, system full, letter too big
		return false
	}
	return !strings.HasPrefix(rest, "5.") && !strings.HasPrefix(rest, "6.") && !strings.HasPrefix(rest, "7.")
}
