package plans

import (
	"context"
	"time"

	"lucidletter/internal/app/compose"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	PlanStore
	RunStore
	EventStore
	LetterStore
	RecordStore
	compose.KnownStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
}

// PlanStore keeps plans.
type PlanStore interface {
	AddPlan(ctx context.Context, p domain.Plan) (int64, error)
	Plan(ctx context.Context, id int64) (domain.Plan, error) // also a deleted one, or ErrNotFound
	Plans(ctx context.Context) ([]domain.Plan, error)
	UpdatePlan(ctx context.Context, p domain.Plan) error // or ErrStale
	DeletePlan(ctx context.Context, id int64, at *time.Time) error
	PlanCounts(ctx context.Context) (map[int64]map[domain.RunState]int, error)
}

// RunStore keeps who goes through plans.
type RunStore interface {
	AddRun(ctx context.Context, r domain.Run) (int64, error)
	Run(ctx context.Context, id int64) (domain.Run, error) // or ErrNotFound
	// UpdateRun stores a run as version r.Version+1 and lets go of it, or gives ErrStale.
	UpdateRun(ctx context.Context, r domain.Run) error
	// Runs gives a window of runs and how many the query finds, those that come next first.
	Runs(ctx context.Context, q domain.RunsQuery) ([]domain.RunRow, int, error)
	// OnPlans gives the runs of people that are not over.
	OnPlans(ctx context.Context, people []int64) (map[int64][]domain.RunRow, error)
	// AddRunStep notes that a step came; that it comes twice is an error.
	AddRunStep(ctx context.Context, d domain.RunStep) error
	RunSteps(ctx context.Context, runID int64) ([]domain.RunStep, error)
	// StepsDone gives the keys of the steps that came, of each run of a plan that is not over.
	StepsDone(ctx context.Context, planID int64) (map[int64][]int, error)
	// RunsAhead gives the ids of runs whose next step is reckoned from a time after one.
	RunsAhead(ctx context.Context, after time.Time, limit int) ([]int64, error)
	// ClaimRuns takes runs in hand whose step is due, until a lease ends.
	ClaimRuns(ctx context.Context, now time.Time, lease time.Duration, limit int) ([]int64, error)
	NextStepAt(ctx context.Context) (*time.Time, error)
	// LetGo ends the leases of a worker that is no more.
	LetGo(ctx context.Context) error
	// Proofread gives the runs that wait for a letter which is not a draft any more.
	Proofread(ctx context.Context, limit int) ([]int64, error)
	CancelRunLetters(ctx context.Context, runID int64, reason string, at time.Time) error
}

// EventStore keeps what happened to people, and up to where it was read.
type EventStore interface {
	RunEvents(ctx context.Context, after int64, limit int) ([]domain.RunEvent, int64, error)
	EventSince(ctx context.Context, personID, after int64) (bool, error)
	RunsOfDeal(ctx context.Context, dealID int64) ([]int64, error)
	RunsIn(ctx context.Context, personID int64) ([]int64, error)
	DateEvents(ctx context.Context, now time.Time) error
	RecordEvents(ctx context.Context, after int64, limit int) ([]domain.RecordEvent, error)
	ForgetEvents(ctx context.Context, before time.Time) error
	ReadMark(ctx context.Context, name string) (int64, error)
	SetReadMark(ctx context.Context, name string, at int64) error
	AddEntry(ctx context.Context, e domain.Entry) error
}

// LetterStore keeps letters and tasks.
type LetterStore interface {
	AddLetter(ctx context.Context, l domain.Letter) (int64, error)
	Letter(ctx context.Context, id int64) (domain.Letter, error)
	LetterHead(ctx context.Context, id int64) (domain.Letter, error)
	Letters(ctx context.Context, q domain.LettersQuery) ([]domain.LetterRow, error)
	DeleteDraft(ctx context.Context, id int64, at *time.Time) error
	// HadLetter gives who of these had a letter, or have one on its way, in a stretch of time, with
	// the subject of the last; one letter does not count.
	HadLetter(ctx context.Context, people []int64, from, to time.Time, but int64) (map[int64]string, error)
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	AddTask(ctx context.Context, t domain.Task) (int64, error)
}

// RecordStore keeps people, users, templates and lists.
type RecordStore interface {
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error)
	Deal(ctx context.Context, id int64) (domain.Deal, error)
	Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error)
	User(ctx context.Context, id int64) (domain.User, error)
	Users(ctx context.Context) ([]domain.User, error)
	DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error)
	LastRuns(ctx context.Context, planID int64, people []int64) (map[int64]time.Time, error)
	OpenDealsOf(ctx context.Context, people []int64) (map[int64]int, error)
	List(ctx context.Context, id int64) (domain.List, error)
}
