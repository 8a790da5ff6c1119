// Package app holds the use cases, by noun. It decides; the core computes; the
// store, the mail packages and the HTTP layer carry. Everything outside comes
// in through the ports of ports.go, the clock included.
package app

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"golang.org/x/crypto/bcrypt"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/domain"
)

// Ports is the outside that the program needs.
type Ports struct {
	Store     Store
	Composer  Composer
	Transport Transport
	Reader    MailReader
	Now       Clock
	// NewID gives a fresh random id of at least 128 bits, in letters and
	// digits.
	NewID   func() string
	Sealer  domain.Sealer
	Journal Journal
	Tester  Tester
	// World is the mail world that ships with the program; nil when letters go to a
	// mail server of the workspace's own.
	World PostWorld
	// PublicURL is where recipients reach the pages of the program.
	PublicURL string
	// ReturnTo is where mail servers return letters; the token of the letter is put
	// into it behind a plus. "" is the sender's own address.
	ReturnTo string
	// Connections is how many go to the server that the program was started with; 0
	// stands for four.
	Connections int
}

// App is the program without its outside. Make it with New.
type App struct {
	Ports
	// Wake is told when a letter was put into the outbox. New sets one
	// that does nothing.
	Wake func()
	*kept
}

// kept is what an App keeps in memory.
type kept struct {
	mu       sync.Mutex
	accounts []domain.Account // as they are stored; nil before they were asked for
	settings *domain.Settings
	group    groupCommit
	attempts attempts
	cat      *field.Catalogue
	digests  map[versionKey]digest

	reaches   map[string]*reachCount
	reachUsed int64
	importing chan struct{} // tells RunImports that there is one
}

// New gives a working App; the caller sets Wake later if a worker listens.
func New(p Ports) *App {
	return &App{Ports: p, Wake: func() {}, kept: &kept{digests: map[versionKey]digest{}, reaches: map[string]*reachCount{}, importing: make(chan struct{}, 1)}}
}

// Catalogue gives the fields of the workspace.
func (a *App) Catalogue(ctx context.Context) (*field.Catalogue, error) {
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.cat != nil {
		return a.cat, nil
	}
	own, err := a.Store.OwnFields(ctx)
	if err != nil {
		return nil, fmt.Errorf("load own fields: %w", err)
	}
	a.cat = field.New(own)
	return a.cat, nil
}

// forgetCatalogue makes the next call read the own fields again.
func (a *App) forgetCatalogue() {
	a.mu.Lock()
	a.cat = nil
	clear(a.digests)
	a.mu.Unlock()
}

// AddOwnField adds a field of the workspace.
func (a *App) AddOwnField(ctx context.Context, d field.Def) error {
	defer a.forgetCatalogue()
	return a.Store.AddOwnField(ctx, d)
}

// PasswordCost is the bcrypt cost of new passwords.
const PasswordCost = bcrypt.DefaultCost

// minPassword is in bytes; bcrypt reads at most 72.
const minPassword, maxPassword = 10, 72

// HashPassword checks a new password and hashes it.
func HashPassword(password string, cost int) (string, error) {
	if len(password) < minPassword || len(password) > maxPassword {
		return "", domain.Invalid("password", "must have %d to %d bytes", minPassword, maxPassword)
	}
	hash, err := bcrypt.GenerateFromPassword([]byte(password), cost)
	return string(hash), err
}

// AddUser makes a user who can sign in.
func (a *App) AddUser(ctx context.Context, u domain.User, password string) (int64, error) {
	if err := field.CheckEmail(u.Email); err != nil {
		return 0, domain.Invalid("email", "%v", err)
	}
	switch u.Role {
	case access.Representative, access.TeamLead, access.Administrator:
	default:
		return 0, domain.Invalid("role", "must be representative, lead or administrator")
	}
	if u.FirstName == "" && u.LastName == "" {
		return 0, domain.Invalid("name", "is missing; letters carry it in From")
	}
	hash, err := HashPassword(password, PasswordCost)
	if err != nil {
		return 0, err
	}
	if _, err := a.Store.UserByEmail(ctx, field.EmailKey(u.Email)); err == nil {
		return 0, domain.Invalid("email", "a user with this address exists")
	} else if !errors.Is(err, domain.ErrNotFound) {
		return 0, err
	}
	u.PasswordHash = hash
	return a.Store.AddUser(ctx, u)
}

func may(u domain.User, what access.Action, t access.Thing) error {
	if !access.May(u.As(), what, t) {
		return domain.ErrDenied
	}
	return nil
}

// now is the time in UTC, in whole milliseconds as it is stored.
func (a *App) now() time.Time { return a.Now().UTC().Truncate(time.Millisecond) }
