// Package team holds the use cases about the users: signing in, what they write from, the
// accounts that letters go by, the settings of the workspace.
package team

import (
	"sync"
	"time"

	"lucidletter/internal/domain"
)

// Ports is what the service needs.
type Ports struct {
	Store       Store
	Sealer      domain.Sealer
	Tester      Tester
	Connections int              // how many go to the server that the program was started with; 0 stands for four
	Wake        func()           // tells that letters were put into the outbox
	Now         func() time.Time // in UTC, in whole milliseconds as it is stored
}

// Service is what the users sign in and write with, and the settings of the workspace. Make it with New.
type Service struct {
	store       Store
	sealer      domain.Sealer
	tester      Tester
	connections int
	wake        func()
	now         func() time.Time

	mu       sync.Mutex
	accounts []domain.Account // as they are stored; nil before they were asked for
	settings *domain.Settings
	attempts attempts
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, sealer: p.Sealer, tester: p.Tester, connections: p.Connections, wake: p.Wake, now: p.Now}
}
