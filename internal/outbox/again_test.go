package outbox

import (
	"context"
	"testing"

	"lucidletter/internal/domain"
)

// A letter that comes due again while its last try is being noted is looked at as soon as that
// is done, and not a minute later; one that was due before it was taken in hand is not.
func TestWorker_dueAgainWhileInHand(t *testing.T) {
	w := &Worker{wake: make(chan struct{}, 1), claimed: map[int64]bool{}}
	for _, again := range []bool{false, true} {
		w.claimed[7] = true // due while it stood in the queue
		w.inHand([]int64{7})
		if again {
			w.give(context.Background(), &domain.Account{}, 7)
		}
		w.let(7)
		if _, stands := w.claimed[7]; stands || (len(w.wake) == 1) != again {
			t.Errorf("due again: %v; stands in a queue: %v, woken: %d", again, stands, len(w.wake))
		}
	}
}
