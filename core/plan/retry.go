package plan

import "time"

// pauses are those before the second, third … attempt.
var pauses = []time.Duration{time.Minute, 5 * time.Minute, 15 * time.Minute, time.Hour, 3 * time.Hour, 6 * time.Hour}

// GiveUpAfter is how long a letter is tried again that a server does not take now.
const GiveUpAfter = 48 * time.Hour

// NextTry gives when a letter is tried again that was first to go at a time and was
// tried so often, the last time now: after pauses that grow, each longer or shorter by
// up to a fifth as spread says, so that letters do not come back all at once. The last
// attempt is at the end of two days; false after it.
func NextTry(first, now time.Time, attempts int, spread uint64) (time.Time, bool) {
	end := first.Add(GiveUpAfter)
	if !now.Before(end) {
		return time.Time{}, false
	}
	pause := pauses[max(0, min(attempts-1, len(pauses)-1))]
	pause = pause*4/5 + time.Duration(spread%1000)*pause*2/5/1000
	if next := now.Add(pause); next.Before(end) {
		return next, true
	}
	return end, true
}
