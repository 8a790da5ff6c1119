package orders

import (
	"context"
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	OrderStore
	EventStore
	RecordStore
	LetterStore
	compose.KnownStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// OrderStore keeps standing orders and what they did.
type OrderStore interface {
	AddOrder(ctx context.Context, o domain.Order) (int64, error)
	Order(ctx context.Context, id int64) (domain.Order, error) // also a deleted one, or ErrNotFound
	Orders(ctx context.Context, on bool) ([]domain.Order, error)
	UpdateOrder(ctx context.Context, o domain.Order) error // or ErrStale
	SetOrderDay(ctx context.Context, id int64, day int) error
	// LogOrder notes what came of an order; of one event only once.
	LogOrder(ctx context.Context, e domain.OrderEntry) error
	// Acted tells whether an order acted on an event already, and how often on a record since a time.
	Acted(ctx context.Context, orderID int64, event string, personID, dealID *int64, since time.Time) (was bool, times int, err error)
	OrderLog(ctx context.Context, orderID int64, limit int) ([]domain.OrderEntry, error)
	OrderDrafts(ctx context.Context, userID int64, limit int) ([]domain.OrderEntry, error)
	OrderCounts(ctx context.Context, since time.Time) (map[int64]int, error)
	OrderLetters(ctx context.Context) (int, error)
	StopOrders(ctx context.Context, by *domain.OrdersStopped) error
	OrdersStopped(ctx context.Context) (*domain.OrdersStopped, error)
}

// EventStore keeps what standing orders act on.
type EventStore interface {
	LastEvents(ctx context.Context) (event, entry int64, err error)
	RecordEventsSince(ctx context.Context, kind, path string, deals bool, since time.Time, limit int) ([]domain.RecordEvent, error)
	ChangesKnownSince(ctx context.Context) (*time.Time, error)
	EventsAfter(ctx context.Context, after int64, limit int) ([]domain.HistoryEvent, int64, error)
	EventsSince(ctx context.Context, kind string, since time.Time, limit int) ([]domain.HistoryEvent, error)
	// Dated gives the records of which a date is like one of some.
	Dated(ctx context.Context, deals bool, path string, like []string) ([]int64, error)
	RecordEvents(ctx context.Context, after int64, limit int) ([]domain.RecordEvent, error)
	ReadMark(ctx context.Context, name string) (int64, error)
	SetReadMark(ctx context.Context, name string, at int64) error
}

// RecordStore keeps people, deals, users and plans.
type RecordStore interface {
	Person(ctx context.Context, id int64) (domain.Person, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	User(ctx context.Context, id int64) (domain.User, error)
	Plan(ctx context.Context, id int64) (domain.Plan, error) // also a deleted one, or ErrNotFound
}

// LetterStore keeps letters and tasks.
type LetterStore interface {
	AddLetter(ctx context.Context, l domain.Letter) (int64, error)
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	AddTask(ctx context.Context, t domain.Task) (int64, error)
	// OrderLettersTo counts the letters that standing orders sent to somebody since a time.
	OrderLettersTo(ctx context.Context, personID int64, since time.Time) (int, error)
	// HadTemplate tells when somebody last had a letter of a template since a time, nil never.
	HadTemplate(ctx context.Context, personID, templateID int64, since time.Time) (*time.Time, error)
}
