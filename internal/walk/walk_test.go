package walk

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"strconv"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

var ctx = context.Background()

// step is one act of a walk, with the seed of what it draws: a walk without some of its steps
// draws the same for the others.
type step struct {
	act  string
	seed uint64
}

func (s step) String() string { return fmt.Sprintf("%s (%d)", s.act, s.seed) }

// walker is somebody in the middle of a walk, and what is known of the way so far.
type walker struct {
	b     *testbed.Bed
	t     testing.TB
	r     *rand.Rand
	users []domain.User

	people, companies, deals, templates, drafts, rounds, plans, orders, tasks, imports, merges, folders, documents, lists, recipes []int64

	passageID int64
	told      map[int64]told // what everybody's values were when it was last looked

	names     map[int64]map[string]bool // every first name that the values of a person may show
	confirmed map[int64]bool            // letters whose writer said that words of others fit
	proofs    map[int64]string          // what the proof showed when the letter was sent
	seen      map[int64]bool            // letters that were read after they went
	accepted  map[string]int            // how often each act was not refused
	named     int
	refused   int
}

func newWalker(t testing.TB) *walker {
	b := testbed.New(t)
	w := &walker{b: b, t: t, names: map[int64]map[string]bool{}, confirmed: map[int64]bool{}, proofs: map[int64]string{}, seen: map[int64]bool{}, accepted: map[string]int{}}
	second := domain.User{Email: "celia@fernhollow.example", FirstName: "Celia", LastName: "Voss", Role: access.Representative, PasswordHash: "-"}
	var err error
	if second.ID, err = b.Store.AddUser(ctx, second); err != nil {
		t.Fatal(err)
	}
	w.users = []domain.User{b.Rep, second, b.Lead}
	s := domain.UsualSettings()
	s.Grounds = []string{}
	if err := b.Store.PutSettings(ctx, s); err != nil {
		t.Fatal(err)
	}
	return w
}

// one draws one of a list; 0 of an empty one.
func (w *walker) one(list []int64) int64 {
	if len(list) == 0 {
		return 0
	}
	return list[w.r.IntN(len(list))]
}

func (w *walker) user() domain.User { return w.users[w.r.IntN(len(w.users))] }

func (w *walker) pick(list ...string) string { return list[w.r.IntN(len(list))] }

// do takes one step. Its error is one that no user may see.
func (w *walker) do(s step) error {
	w.r = rand.New(rand.NewPCG(s.seed, 1))
	w.b.Pass(time.Millisecond) // as in life
	before := ""
	sometimes := s.seed%8 == 0
	if sometimes {
		before = w.stored()
	}
	err := worker.Guard(func() error { return acts[s.act](w) })
	switch {
	case err == nil:
		w.accepted[s.act]++
	case errors.Is(err, errNotUndone):
		return fmt.Errorf("%s: %w", s, err)
	case worker.Panicked(err):
		return fmt.Errorf("%s: %w", s, err)
	case domain.Lasting(err), errors.Is(err, domain.ErrDiscarded):
		w.refused++
		if sometimes && strings.HasPrefix(s.act, "· ") && w.stored() != before {
			return fmt.Errorf("%s was refused (%w) and changed something", s, err)
		}
	default:
		return fmt.Errorf("%s: %w", s, err)
	}
	return nil
}

// walk takes steps and looks after every few whether all is well; it returns which was the last.
func walk(t testing.TB, steps []step, accepted map[string]int) (last int, err error) {
	w := newWalker(t)
	w.accepted = accepted
	for i, s := range steps {
		if err := w.do(s); err != nil {
			return i, err
		}
		if i%20 == 19 || i == len(steps)-1 {
			if err := w.wellAfter(s); err != nil {
				return i, err
			}
		}
	}
	t.Logf("%d acts, %d refused, %d letters went", len(steps), w.refused, len(w.seen))
	return len(steps), nil
}

// draw makes a walk of so many steps.
func draw(seed uint64, n int) []step {
	r := rand.New(rand.NewPCG(seed, 2))
	out := make([]step, n)
	for i := range out {
		act := actNames[r.IntN(len(actNames))]
		for rare[act] && r.IntN(5) > 0 {
			act = actNames[r.IntN(len(actNames))]
		}
		if i < len(beginning) { // somebody to write to, and something to write
			act = beginning[i]
		}
		out[i] = step{act, r.Uint64()}
	}
	return out
}

// shrink leaves steps out for as long as the rest still fails, for a while.
func shrink(t *testing.T, steps []step, limit time.Duration) []step {
	began, root := time.Now(), t.TempDir()
	fails := func(list []step) bool {
		failed := false
		t.Run("shorter", func(t *testing.T) {
			_, err := walk(quiet{t, root}, list, map[string]int{})
			failed = err != nil
		})
		return failed
	}
	for size := len(steps) / 2; size > 0; size /= 2 {
		for at := 0; at < len(steps) && time.Since(began) < limit; {
			shorter := append(append([]step{}, steps[:at]...), steps[min(len(steps), at+size):]...)
			if fails(shorter) {
				steps = shorter
			} else {
				at += size
			}
		}
	}
	return steps
}

// quiet is a test whose log is not kept, and whose folders stay until the whole walk is over.
type quiet struct {
	testing.TB
	root string
}

func (quiet) Logf(string, ...any) {}

func (q quiet) TempDir() string {
	folder, err := os.MkdirTemp(q.root, "")
	if err != nil {
		q.Fatal(err)
	}
	return folder
}

func fromEnv(name string, usual uint64) uint64 {
	if n, err := strconv.ParseUint(os.Getenv(name), 10, 64); err == nil {
		return n
	}
	return usual
}

// Whatever people and machines do, in whatever order, all is well after it.
func TestWalk(t *testing.T) {
	total, perWalk := int(fromEnv("LUCID_WALK_ACTS", 5000)), 500
	if testing.Short() {
		total = 500
	}
	began := time.Now()
	minutes := time.Duration(fromEnv("LUCID_WALK_MINUTES", 0)) * time.Minute
	done, accepted := 0, map[string]int{}
	for seed := fromEnv("LUCID_WALK_SEED", 1); minutes == 0 && done < total || time.Since(began) < minutes; seed, done = seed+1, done+perWalk {
		steps := draw(seed, perWalk)
		ok := t.Run(fmt.Sprint("seed ", seed), func(t *testing.T) {
			last, err := walk(t, steps, accepted)
			if err == nil {
				return
			}
			t.Logf("seed %d, after %d acts: %v", seed, last+1, err) // the shortest way takes a while
			short := shrink(t, steps[:min(last+1, len(steps))], time.Duration(fromEnv("LUCID_WALK_SHRINK", 120))*time.Second)
			var way strings.Builder
			for _, s := range short {
				fmt.Fprintln(&way, "  ", s)
			}
			t.Fatalf("seed %d, after %d acts: %v\nThe shortest way that still fails:\n%s", seed, last+1, err, way.String())
		})
		if !ok {
			return
		}
	}
	for _, act := range actNames {
		if done >= 5000 && accepted[act] < 2 {
			t.Errorf("%q was done %d times: it is always refused", act, accepted[act])
		}
	}
	t.Logf("%d acts in %s", done, time.Since(began).Round(time.Second))
}

// restart is the program that ended and begins anew on what it stored: nothing is in its memory.
func (w *walker) restart() error {
	w.b.App = w.b.App.With(func(*app.Ports) {})
	return w.b.App.Outbound.Recover(ctx)
}
