package app

import (
	"sync"
	"time"

	"lucidletter/internal/domain"
)

// TeamPorts is what the service needs.
type TeamPorts struct {
	Store       Store
	Sealer      domain.Sealer
	Tester      Tester
	Connections int              // how many go to the server that the program was started with; 0 stands for four
	Wake        func()           // tells that letters were put into the outbox
	Now         func() time.Time // in UTC, in whole milliseconds as it is stored
}

// TeamService does the users, what they sign in and write with, and the settings of the workspace. Make it with New.
type TeamService struct {
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

// NewTeamService gives the service on what it needs.
func NewTeamService(p TeamPorts) *TeamService {
	return &TeamService{store: p.Store, sealer: p.Sealer, tester: p.Tester, connections: p.Connections, wake: p.Wake, now: p.Now}
}
