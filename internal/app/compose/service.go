// Package compose makes what goes to somebody without their sender writing it: the letters and
// the words of tasks of plans and standing orders, from templates and records.
package compose

import (
	"context"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Store keeps templates and users.
type Store interface {
	Users(ctx context.Context) ([]domain.User, error)
	Template(ctx context.Context, id int64) (domain.Template, error) // also a deleted one, or ErrNotFound
}

// Ports is what the service needs.
type Ports struct {
	Store   Store
	Team    *team.Service
	Records *records.Service
	Library *library.Service
	Desk    *desk.Service
}

// Service makes letters. Make it with New.
type Service struct {
	store   Store
	team    *team.Service
	records *records.Service
	library *library.Service
	desk    *desk.Service
}

// New gives the service on what it needs.
func New(p Ports) *Service { return &Service{p.Store, p.Team, p.Records, p.Library, p.Desk} }
