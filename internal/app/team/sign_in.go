package team

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
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
// account from everywhere; the last has short pauses. On a device where the owner of an
// account has signed in before it counts for that device alone, so that no stranger's guesses
// keep them out. What did not fail for a day is forgotten.
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
	room   map[string]*room
}

type failure struct {
	count       int
	last, until time.Time
}

// room is for attempts that are under way.
type room struct {
	places  chan struct{}
	waiting int
}

// mostAttempts is how many accounts and addresses are remembered.
const mostAttempts = 50_000

// At once a few attempts are looked at, of one account or from one address; the others wait for
// them. So nobody guesses many times before the first guess counts, and those who are right
// count as nothing.
const (
	atOnce      = 3
	mostWaiting = 30
)

// enter waits for a place for each of some keys, which are in an order that is the same for all.
func (a *attempts) enter(ctx context.Context, keys []string) (leave func(), err error) {
	var held []string
	leave = func() {
		a.mu.Lock()
		defer a.mu.Unlock()
		for _, key := range held {
			r := a.room[key]
			<-r.places
			if r.waiting--; r.waiting == 0 {
				delete(a.room, key)
			}
		}
	}
	for _, key := range keys {
		a.mu.Lock()
		r := a.room[key]
		if r == nil {
			r = &room{places: make(chan struct{}, atOnce)}
			if a.room == nil {
				a.room = map[string]*room{}
			}
			a.room[key] = r
		}
		if r.waiting >= mostWaiting {
			a.mu.Unlock()
			leave()
			return nil, &WaitError{time.Second}
		}
		r.waiting++
		a.mu.Unlock()
		select {
		case r.places <- struct{}{}:
			held = append(held, key)
		case <-ctx.Done():
			a.mu.Lock()
			if r.waiting--; r.waiting == 0 {
				delete(a.room, key)
			}
			a.mu.Unlock()
			leave()
			return nil, ctx.Err()
		}
	}
	return leave, nil
}

// wait tells how long to wait before another attempt, 0 not at all.
func (a *attempts) wait(now time.Time, who map[string]pace) time.Duration {
	a.mu.Lock()
	defer a.mu.Unlock()
	longest := time.Duration(0)
	for key := range who {
		longest = max(longest, a.failed[key].until.Sub(now))
	}
	return longest
}

// fail notes an attempt that was wrong.
func (a *attempts) fail(now time.Time, who map[string]pace) {
	a.mu.Lock()
	defer a.mu.Unlock()
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

// succeeded forgets the failures of a key.
func (a *attempts) succeeded(key string) {
	a.mu.Lock()
	defer a.mu.Unlock()
	delete(a.failed, key)
}

// hashing bounds how many passwords are compared at once: each takes a processor for
// some 50 ms.
var hashing = make(chan struct{}, max(1, runtime.NumCPU()/2))

// nobody is the hash that is compared where there is no such user.
const nobody = "$2a$10$3wL4mrqqQHIKBrKpBj41c.lWM4CsL9ITVLNvaHuhXpe/rMpSIIc1e"

// SignIn gives the user of an email and password, or ErrSignIn. It takes as long for an
// unknown email as for a wrong password. Who fails often, from the address they come
// from or for that email, has to wait: WaitError. Device is what DeviceOf gave when somebody
// signed in where they are now, or "".
func (a *Service) SignIn(ctx context.Context, email, password, from, device string) (domain.User, error) {
	key := field.EmailKey(email)
	u, err := a.store.UserByEmail(ctx, key)
	hash := u.PasswordHash
	if errors.Is(err, domain.ErrNotFound) {
		hash = nobody
	} else if err != nil {
		return domain.User{}, err
	}
	pair := "account " + key + " from " + from
	who, rooms := map[string]pace{pair: accountPace, "account " + key: widePace, "address " + from: addressPace}, []string{"account " + key, "address " + from}
	if err == nil && a.knownDevice(device, &u) {
		pair = "device " + device
		who, rooms = map[string]pace{pair: accountPace}, []string{pair}
	}
	leave, full := a.attempts.enter(ctx, rooms)
	if full != nil {
		return domain.User{}, full
	}
	defer leave()
	if wait := a.attempts.wait(a.now(), who); wait > 0 {
		return domain.User{}, &WaitError{wait}
	}
	select {
	case hashing <- struct{}{}:
		defer func() { <-hashing }()
	case <-ctx.Done():
		return domain.User{}, ctx.Err()
	}
	if bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) != nil || err != nil {
		a.attempts.fail(a.now(), who)
		return domain.User{}, domain.ErrSignIn
	}
	a.attempts.succeeded(pair)
	return u, nil
}

// DeviceDays is for how many days a device is known on which somebody signed in.
const DeviceDays = 180

// deviceSaid is what the mark of a device says, sealed: whose it is, with which password they
// signed in, and when.
type deviceSaid struct {
	User     int64     `json:"u"`
	Password string    `json:"p"` // a sum of its hash: with another password the mark is worth nothing
	At       time.Time `json:"at"`
	ID       string    `json:"id"`
}

func passwordSum(u *domain.User) string {
	sum := sha256.Sum256([]byte("device of " + u.PasswordHash))
	return base64.RawURLEncoding.EncodeToString(sum[:9])
}

// DeviceOf gives the mark of a device on which a user has signed in, for a cookie; "" where
// nothing can be sealed.
func (a *Service) DeviceOf(u *domain.User) string {
	if a.sealer == nil {
		return ""
	}
	said, err := json.Marshal(deviceSaid{u.ID, passwordSum(u), a.now(), rand.Text()})
	if err != nil {
		return ""
	}
	sealed, err := a.sealer.Seal(said)
	if err != nil {
		return ""
	}
	return base64.RawURLEncoding.EncodeToString(sealed)
}

// knownDevice tells whether a mark is one of a user.
func (a *Service) knownDevice(device string, u *domain.User) bool {
	if a.sealer == nil || device == "" || len(device) > 1000 {
		return false
	}
	sealed, err := base64.RawURLEncoding.DecodeString(device)
	if err != nil {
		return false
	}
	opened, err := a.sealer.Open(sealed)
	var said deviceSaid
	if err != nil || json.Unmarshal(opened, &said) != nil {
		return false
	}
	age := a.now().Sub(said.At)
	return said.User == u.ID && said.Password == passwordSum(u) && age > -24*time.Hour && age < DeviceDays*24*time.Hour
}
