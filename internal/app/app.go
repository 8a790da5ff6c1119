// Package app puts the services together on their outside: the store, the mail packages,
// the clock. The services hold the use cases, one package each; they decide, the core
// computes, what is outside carries.
package app

import (
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/postbox"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/app/tasks"
	"lucidletter/internal/app/team"
	"lucidletter/internal/app/transfer"
	"lucidletter/internal/domain"
)

// Ports is the outside that the program needs.
type Ports struct {
	Store     Store
	Composer  domain.Composer
	Transport outbound.Transport
	Reader    domain.MailReader
	Now       Clock
	// NewID gives a fresh random id of at least 128 bits, in letters and
	// digits.
	NewID   func() string
	Sealer  domain.Sealer
	Journal outbound.Journal
	Tester  team.Tester
	// World is the mail world that ships with the program; nil when letters go to a
	// mail server of the workspace's own.
	World postbox.PostWorld
	// PublicURL is where recipients reach the pages of the program.
	PublicURL string
	// ReturnTo is where mail servers return letters; the token of the letter is put
	// into it behind a plus. "" is the sender's own address.
	ReturnTo string
	// Failed is told what went wrong with one item of background work, which was set aside;
	// nil is nobody.
	Failed func(error)
	// Connections is how many go to the server that the program was started with; 0
	// stands for four.
	Connections int
}

// Store keeps everything.
type Store interface {
	team.Store
	records.Store
	library.Store
	desk.Store
	compose.Store
	outbound.Store
	postbox.Store
	tasks.Store
	inbox.Store
	rounds.Store
	plans.Store
	orders.Store
	transfer.Store
}

// App is the program without its outside. Make it with New.
type App struct {
	// Wake is told when a letter was put into the outbox. New sets one
	// that does nothing.
	Wake func()

	Team     *team.Service
	Records  *records.Service
	Library  *library.Service
	Compose  *compose.Service
	Desk     *desk.Service
	Outbound *outbound.Service
	Postbox  *postbox.Service
	Tasks    *tasks.Service
	Inbox    *inbox.Service
	Rounds   *rounds.Service
	Plans    *plans.Service
	Orders   *orders.Service
	Transfer *transfer.Service

	ports Ports
}

// WakeAll has everything look that works by the clock, which was moved.
func (a *App) WakeAll() {
	a.Wake()
	a.Plans.Nudge()
	a.Rounds.Nudge()
}

// New gives a working App; the caller sets Wake later if a worker listens.
func New(p Ports) *App {
	a := &App{Wake: func() {}, ports: p}
	a.wire()
	return a
}

// Connect changes what is outside, before the program begins its work: some of it is made
// on the program itself.
func (a *App) Connect(set func(*Ports)) {
	set(&a.ports)
	a.wire()
}

// With is another program on the same outside but for what set changes.
func (a *App) With(set func(*Ports)) *App {
	p := a.ports
	set(&p)
	return New(p)
}

// Now is the time on the program's clock.
func (a *App) Now() time.Time { return a.ports.Now() }

// PublicURL is where recipients reach the pages of the program.
func (a *App) PublicURL() string { return a.ports.PublicURL }

func (a *App) wire() {
	p := &a.ports
	now := func() time.Time { return a.ports.Now().UTC().Truncate(time.Millisecond) }
	wake := func() { a.Wake() }
	failed := func(err error) {
		if a.ports.Failed != nil {
			a.ports.Failed(err)
		}
	}
	a.Team = team.New(team.Ports{Store: p.Store, Sealer: p.Sealer, Tester: p.Tester, Connections: p.Connections, Wake: wake, Now: now})
	a.Records = records.New(records.Ports{Store: p.Store, Now: now, Team: a.Team})
	a.Library = library.New(library.Ports{Store: p.Store, Composer: p.Composer, Reader: p.Reader, NewID: p.NewID, Now: now, Team: a.Team, Records: a.Records})
	a.Compose = compose.New(compose.Ports{
		Store: p.Store, Composer: p.Composer, Reader: p.Reader, NewID: p.NewID, PublicURL: p.PublicURL, Now: now, Team: a.Team, Records: a.Records, Library: a.Library,
	})
	email := &outbound.Email{
		Compositions: a.Compose, Composer: p.Composer, Transport: p.Transport, Team: a.Team, NewID: p.NewID, ReturnTo: p.ReturnTo, Now: now,
	}
	a.Outbound = outbound.New(outbound.Ports{
		Store: p.Store, Channel: email, Journal: p.Journal, Wake: wake, Now: now, Failed: failed, Team: a.Team, Records: a.Records, Compose: a.Compose,
	})
	a.Postbox = postbox.New(postbox.Ports{Store: p.Store, Reader: p.Reader, World: p.World, Now: now, Team: a.Team})
	a.Tasks = tasks.New(tasks.Ports{Store: p.Store, NewID: p.NewID, Now: now, Compose: a.Compose, Email: email})
	a.Desk = desk.New(desk.Ports{
		Store: p.Store, Reader: p.Reader, NewID: p.NewID, Now: now, Team: a.Team, Records: a.Records, Library: a.Library, Compose: a.Compose, Outbound: a.Outbound, Email: email, Wake: wake,
	})
	a.Inbox = inbox.New(inbox.Ports{
		Store: p.Store, Reader: p.Reader, NewID: p.NewID, Now: now, Team: a.Team, Records: a.Records, Library: a.Library, Desk: a.Desk,
	})
	a.Plans = plans.New(plans.Ports{Store: p.Store, Now: now, Wake: wake, Failed: failed, Team: a.Team, Records: a.Records, Library: a.Library, Desk: a.Desk, Compose: a.Compose})
	a.Orders = orders.New(orders.Ports{Store: p.Store, Now: now, Wake: wake, Failed: failed, Records: a.Records, Library: a.Library, Compose: a.Compose, Plans: a.Plans})
	a.Rounds = rounds.New(rounds.Ports{Store: p.Store, NewID: p.NewID, Now: now, Wake: wake, Failed: failed, Team: a.Team, Records: a.Records, Library: a.Library, Desk: a.Desk, Compose: a.Compose, Plans: a.Plans})
	a.Transfer = transfer.New(transfer.Ports{Store: p.Store, Now: now, Failed: failed, Team: a.Team, Records: a.Records, Library: a.Library})
}
