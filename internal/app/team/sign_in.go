package team

import (
	"context"
	"errors"
	"fmt"
	"math"
	"runtime"
	"sync"
	"time"

	"golang.org/x/crypto/bcrypt"

	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// WaitError says that somebody tries too often, and when they may try again.
type WaitError struct{ For time.Duration }

func (e *WaitError) Error() string {
	return fmt.Sprintf("too many attempts; try again in %.0f s", math.Ceil(e.For.Seconds()))
}

// The pace of signing in: so many failures are free, then each doubles the pause, up to
// the longest. It counts for an account from one address, for an address, and for an
// account from everywhere; the last has short pauses, so that nobody can keep its owner
// out. What did not fail for a day is forgotten.
var (
	accountPace = pace{free: 5, first: time.Second, longest: 5 * time.Minute}
	addressPace = pace{free: 20, first: time.Second, longest: 15 * time.Minute}
	widePace    = pace{free: 50, first: time.Second, longest: 10 * time.Second}
)

const paceForgets = 24 * time.Hour

type pace struct {
	free           int
	first, longest time.Duration
}

// after gives the pause after a number of failures.
func (p pace) after(failures int) time.Duration {
	if failures < p.free {
		return 0
	}
	return min(p.longest, p.first<<min(failures-p.free, 20))
}

// attempts counts failures to sign in, by account and by address.
type attempts struct {
	mu     sync.Mutex
	failed map[string]failure
}

type failure struct {
	count       int
	last, until time.Time
}

// mostAttempts is how many accounts and addresses are remembered.
const mostAttempts = 50_000

// begin notes an attempt as a failure, or tells how long to wait. A success takes it
// back; so many at once are counted before any of them has ended.
func (a *attempts) begin(now time.Time, who map[string]pace) error {
	a.mu.Lock()
	defer a.mu.Unlock()
	for key := range who {
		if f := a.failed[key]; now.Before(f.until) {
			return &WaitError{f.until.Sub(now)}
		}
	}
	if a.failed == nil || len(a.failed) > mostAttempts {
		a.forget(now)
	}
	for key, p := range who {
		f := a.failed[key]
		if now.Sub(f.last) > paceForgets {
			f.count = 0
		}
		f.count++
		f.last, f.until = now, now.Add(p.after(f.count))
		a.failed[key] = f
	}
	return nil
}

// forget keeps those that still have to wait.
func (a *attempts) forget(now time.Time) {
	kept := map[string]failure{}
	for key, f := range a.failed {
		if now.Before(f.until) && len(kept) < mostAttempts/2 {
			kept[key] = f
		}
	}
	a.failed = kept
}

// succeeded takes an attempt back; forget names what has no failures any more.
func (a *attempts) succeeded(who map[string]pace, forget string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.failed, forget)
	for key := range who {
		if f, ok := a.failed[key]; ok {
			f.count--
			f.until = f.last
			a.failed[key] = f
		}
	}
}

// hashing bounds how many passwords are compared at once: each takes a processor for
// some 50 ms.
var hashing = make(chan struct{}, max(1, runtime.NumCPU()/2))

// nobody is the hash that is compared where there is no such user.
const nobody = "$2a$10$3wL4mrqqQHIKBrKpBj41c.lWM4CsL9ITVLNvaHuhXpe/rMpSIIc1e"

// SignIn gives the user of an email and password, or ErrSignIn. It takes as long for an
// unknown email as for a wrong password. Who fails often, from the address they come
// from or for that email, has to wait: WaitError.
func (a *Service) SignIn(ctx context.Context, email, password, from string) (domain.User, error) {
	key := field.EmailKey(email)
	pair := "account " + key + " from " + from
	who := map[string]pace{pair: accountPace, "account " + key: widePace, "address " + from: addressPace}
	if err := a.attempts.begin(a.now(), who); err != nil {
		return domain.User{}, err
	}
	u, err := a.store.UserByEmail(ctx, key)
	hash := u.PasswordHash
	if errors.Is(err, domain.ErrNotFound) {
		hash = nobody
	} else if err != nil {
		return domain.User{}, err
	}
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
	case <-ctx.Done():
		return domain.User{}, ctx.Err()
	}
	if bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) != nil || err != nil {
		return domain.User{}, domain.ErrSignIn
	}
	a.attempts.succeeded(who, pair)
	return u, nil
}
