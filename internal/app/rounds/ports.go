package rounds

import (
	"context"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/internal/domain"
)

// Store keeps what the service works on. Its errors are domain.ErrNotFound and
// domain.ErrStale where a method says so; other errors are unexpected.
type Store interface {
	RoundStore
	MemberStore
	SendingStore
	RecipeStore
	RecordStore
	// Within runs f in one transaction; an error undoes everything f did.
	Within(ctx context.Context, f func(context.Context) error) error
	// Yield rests after a step that took some time, so that people who wait are answered first.
	Yield(ctx context.Context, took time.Duration)
}

// RoundStore keeps rounds.
type RoundStore interface {
	AddRound(ctx context.Context, r domain.Round) (int64, error)
	Round(ctx context.Context, id int64) (domain.Round, error) // or ErrNotFound
	// Rounds lists the rounds of somebody, the newest first.
	Rounds(ctx context.Context, ownerID int64, limit int) ([]domain.Round, error)
	RoundsIn(ctx context.Context, states ...domain.RoundState) ([]domain.Round, error)
	// UpdateRound stores what a round is made of as version r.Version+1, or gives ErrStale.
	UpdateRound(ctx context.Context, r domain.Round) error
	// BeganAt notes when the sending of a round began.
	BeganAt(ctx context.Context, id int64, at time.Time) error
	// MoveRound changes the state if it is still that of r; it tells whether it did.
	MoveRound(ctx context.Context, r domain.Round, to domain.RoundState, reason string, at time.Time) (bool, error)
	// Decide notes that it was decided about people who came to or went from the list.
	Decide(ctx context.Context, roundID int64, ids []int64) error
	Decided(ctx context.Context, roundID int64) ([]int64, error)
}

// MemberStore keeps the people of rounds.
type MemberStore interface {
	// AddMembers puts people behind the others, those who are not in it and are there; it
	// tells how many.
	AddMembers(ctx context.Context, roundID int64, ids []int64) (int, error)
	MemberIDs(ctx context.Context, roundID int64) ([]int64, error)
	Member(ctx context.Context, roundID, personID int64) (domain.Member, error) // or ErrNotFound
	// MemberOfLetter gives whom a letter is for, or ErrNotFound.
	MemberOfLetter(ctx context.Context, letterID int64) (domain.Member, error)
	// KeptOf gives the record that somebody's was merged into, or ErrNotFound.
	KeptOf(ctx context.Context, goneID int64) (int64, error)
	UpdateMember(ctx context.Context, m domain.Member) error
	// Members gives a window of the people of a round, and how many the query finds.
	Members(ctx context.Context, q domain.MembersQuery) ([]domain.MemberRow, int, error)
	// Place gives where somebody stands in the list of a query, from 0; -1 when they do not.
	Place(ctx context.Context, q domain.MembersQuery, person int64) (int, error)
	// SaveCheck stores what a check found.
	SaveCheck(ctx context.Context, m domain.Member) error
	// ToCheck gives people, or with a number only this one, who were not checked for this
	// version, or whose record changed; those behind a position.
	ToCheck(ctx context.Context, roundID, person int64, version, after, limit int) ([]domain.Member, error)
	// CheckAgain has those with an address checked again, with "" all.
	CheckAgain(ctx context.Context, roundID int64, emailKey string) error
	Groups(ctx context.Context, roundID int64) (domain.RoundGroups, error)
	// Facts tells what else is known of people, of colleagues' letters since a time.
	Facts(ctx context.Context, r *domain.Round, people []int64, quietSince time.Time) (domain.MemberFacts, error)
	// OnPlans gives the runs of people that are not over.
	OnPlans(ctx context.Context, people []int64) (map[int64][]domain.RunRow, error)
	// SetMany moves people who are in one of some states; it tells how many.
	SetMany(ctx context.Context, roundID int64, people []int64, from []domain.MemberState, to domain.MemberState) (int, error)
	// PeopleWith gives those who lack a field, or are skipped for a reason.
	PeopleWith(ctx context.Context, roundID int64, missing string, reason eligibility.Code, limit int) ([]int64, error)
}

// SendingStore keeps what of a round is on its way.
type SendingStore interface {
	// Schedule sets when the letters go that are ready and, unless all, proofread.
	Schedule(ctx context.Context, roundID int64, all bool, from time.Time, over time.Duration) (int, error)
	Zones(ctx context.Context, roundID int64) ([]domain.Zone, error)
	ScheduleZone(ctx context.Context, roundID int64, z domain.Zone, at time.Time) error
	// HadToday counts those of a round whose letters could go who have another letter in a
	// stretch of time.
	HadToday(ctx context.Context, roundID int64, from, to time.Time) (int, error)
	// ZonesDue gives the zones of those whose letters are due, in the outbox too; DelayZone moves
	// these letters.
	ZonesDue(ctx context.Context, roundID int64, now time.Time) ([]domain.Zone, error)
	DelayZone(ctx context.Context, roundID int64, z domain.Zone, now, at time.Time) error
	// KeepChecks has those who were checked for the version before count as checked for this.
	KeepChecks(ctx context.Context, roundID int64, version int) error
	Unschedule(ctx context.Context, roundID int64) error
	// ToRelease gives those who are due, and when the next is.
	ToRelease(ctx context.Context, roundID int64, now time.Time, limit int) ([]domain.Member, *time.Time, error)
	// ToFollow gives those to whom a letter went and what happens afterwards did not.
	ToFollow(ctx context.Context, limit int) ([]domain.Member, error)
	UnderWay(ctx context.Context, roundID int64) (int, error)
	HoldLetters(ctx context.Context, roundID int64, due *time.Time, reason string, at time.Time) error
	CancelLetters(ctx context.Context, roundID int64, reason string, at time.Time) error
	AddLetter(ctx context.Context, l domain.Letter) (int64, error)
	Letter(ctx context.Context, id int64) (domain.Letter, error)
	UpdateDraft(ctx context.Context, l domain.Letter) error
	DeleteDraft(ctx context.Context, id int64, at *time.Time) error
	Move(ctx context.Context, id int64, from domain.LetterState, c domain.Change) (bool, error)
	// SetLetterRound has a draft be changed within a round; LetGoOfDrafts makes them their
	// writer's own.
	SetLetterRound(ctx context.Context, letterID, roundID int64) error
	LetGoOfDrafts(ctx context.Context, roundID int64) error
	LettersWaiting(ctx context.Context, roundID int64) ([]int64, error)
	AddAsked(ctx context.Context, q domain.Asked) (int64, error)
	AddTask(ctx context.Context, t domain.Task) (int64, error)
}

// RecipeStore keeps recipes.
type RecipeStore interface {
	Recipes(ctx context.Context) ([]domain.Recipe, error)
	Recipe(ctx context.Context, id int64) (domain.Recipe, error) // also a deleted one, or ErrNotFound
	AddRecipe(ctx context.Context, r domain.Recipe) (int64, error)
	UpdateRecipe(ctx context.Context, r domain.Recipe) error // or ErrStale
	DeleteRecipe(ctx context.Context, id int64, at *time.Time) error
}

// RecordStore keeps people, users, templates and lists.
type RecordStore interface {
	Person(ctx context.Context, id int64) (domain.Person, error)
	PeopleOf(ctx context.Context, ids []int64) ([]domain.Person, error)
	// ReadPeople gives a context with which people, what keeps letters from them, and users
	// are read once, by one goroutine.
	ReadPeople(ctx context.Context, ids []int64) (context.Context, error)
	// PeopleEdition rises when people change.
	PeopleEdition(ctx context.Context) (int64, error)
	DealsOf(ctx context.Context, personID int64) ([]domain.Deal, error)
	Suppressions(ctx context.Context, keys ...string) (map[string]domain.Suppression, error)
	User(ctx context.Context, id int64) (domain.User, error)
	Users(ctx context.Context) ([]domain.User, error)
	// Template gives a template, also a deleted one.
	Template(ctx context.Context, id int64) (domain.Template, error)
	TemplateVersion(ctx context.Context, id int64, version int) (domain.Template, error)
	OtherTemplates(ctx context.Context, roundID int64) ([]domain.PinnedWording, error)
	WordingsOf(ctx context.Context, id int64) ([]domain.Template, error)
	AllTemplates(ctx context.Context, state domain.TemplateState) ([]domain.Template, error)
	List(ctx context.Context, id int64) (domain.List, error) // also a deleted one
}
