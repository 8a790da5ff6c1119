// Package compose makes what goes to somebody: it merges templates with records, signs, asks, puts
// stationery, quote and foot around the words, and tells what keeps a letter from going. The desk,
// rounds, plans and standing orders make their letters here, and the outbox what it hands over.
package compose

import (
	"context"
	"time"

	"lucidletter/internal/app/library"
	"lucidletter/internal/app/records"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
)

// Store keeps what letters are made of.
type Store interface {
	User(ctx context.Context, id int64) (domain.User, error)
	UserByEmail(ctx context.Context, key string) (domain.User, error)
	Users(ctx context.Context) ([]domain.User, error)
	// Template gives a template, also a deleted one, or ErrNotFound.
	Template(ctx context.Context, id int64) (domain.Template, error)
	TemplateVersion(ctx context.Context, templateID int64, version int) (domain.Template, error)
	// WordingsOf gives a template and its wordings in other languages, whole, those that
	// are not deleted, in the order of adding.
	WordingsOf(ctx context.Context, id int64) ([]domain.Template, error)
	Stationery(ctx context.Context, id int64) (domain.Stationery, error)
	SharedDocument(ctx context.Context, id int64) (domain.SharedDocument, error)
	// LetterByToken gives the letter of a token without its words, or ErrNotFound.
	LetterByToken(ctx context.Context, token string) (domain.Letter, error)
	LinksOf(ctx context.Context, letterID int64) ([]domain.Link, error)
	// AskedIn lists what a letter asks, in the order of asking.
	AskedIn(ctx context.Context, letterID int64) ([]domain.Asked, error)
}

// Ports is what the service needs.
type Ports struct {
	Store     Store
	Composer  domain.Composer
	Reader    domain.MailReader
	NewID     func() string    // gives a fresh random id of at least 128 bits, in letters and digits
	PublicURL string           // where recipients reach the pages of the program
	Now       func() time.Time // in UTC, in whole milliseconds as it is stored
	Team      *team.Service
	Records   *records.Service
	Library   *library.Service
}

// Service makes letters. Make it with New.
type Service struct {
	store     Store
	composer  domain.Composer
	reader    domain.MailReader
	newID     func() string
	publicURL string
	now       func() time.Time
	team      *team.Service
	records   *records.Service
	library   *library.Service
}

// New gives the service on what it needs.
func New(p Ports) *Service {
	return &Service{store: p.Store, composer: p.Composer, reader: p.Reader, newID: p.NewID, publicURL: p.PublicURL, now: p.Now, team: p.Team, records: p.Records, library: p.Library}
}
