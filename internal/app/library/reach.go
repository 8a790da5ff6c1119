package library

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/letter"
	"lucidletter/core/preflight"
	"lucidletter/core/render"
	"lucidletter/core/template"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
)

// Reach tells to how many people a template can be sent without a gap.
type Reach struct {
	People    int            `json:"people"`
	Complete  int            `json:"complete"`
	OtherKind int            `json:"otherKind" doc:"People of a kind that the template cannot serve"`
	NoDeal    int            `json:"noDeal" doc:"People without the open deal that the template needs"`
	Missing   []ReachMissing `json:"missing"`
	WithGaps  []ReachPerson  `json:"withGaps" doc:"The first twenty"`
	Running   bool           `json:"running" doc:"Not everybody was looked at yet; ask again"`
	Of        int            `json:"of" doc:"How many people there are"`
	Hardest   *ReachPerson   `json:"hardest,omitempty" doc:"The one with the most gaps, then the longest letter"`
}

// ReachMissing counts the people that lack a field.
type ReachMissing struct {
	Path  string `json:"path"`
	Label string `json:"label"`
	Count int    `json:"count"`
}

// ReachPerson is one person and what is missing of it.
type ReachPerson struct {
	ID      int64    `json:"id"`
	Name    string   `json:"name"`
	Missing []string `json:"missing"`
}

const listedWithGaps = 20

// reachStep is how many people are looked at in one go: some 20 ms. Counts go on in the
// background, one step of one of them at a time; who asks waits reachWait at most for the end,
// and is told what was counted so far. A count that nobody asked for in reachLeft stands still
// until somebody does.
const (
	reachStep = 500
	reachWait = 100 * time.Millisecond
	reachLeft = 20 * time.Second
)

// mostReaches is how many counts are kept, and reachGood for how long one holds at most:
// what is told of people in other records, such as deals, may have changed.
const (
	mostReaches = 40
	reachGood   = 10 * time.Minute
)

// reachCount is a count.
type reachCount struct {
	used  int64 // when it was last asked for, as a number that rises; under the lock of kept
	mu    sync.Mutex
	asked time.Time     // when somebody did last
	over  chan struct{} // closed when the count that runs ends; nil when none runs
	err   error
	counting
}

// counting is the count itself.
type counting struct {
	ids      []int64 // of everybody, when it began
	next     int
	stamp    string // how the people were
	began    time.Time
	counted  preflight.Reach
	hardest  preflight.Hardest
	names    map[int64]string
	worst    *ReachPerson
	cat      *field.Catalogue
	program  *template.Program
	template template.Template
}

// reachOf gives the count of a key, made when there is none.
func (a *Service) reachOf(key string) *reachCount {
	a.mu.Lock()
	defer a.mu.Unlock()
	a.reachUsed++
	c := a.reaches[key]
	if c == nil {
		if len(a.reaches) >= mostReaches {
			oldest := ""
			for k, other := range a.reaches {
				if oldest == "" || other.used < a.reaches[oldest].used {
					oldest = k
				}
			}
			delete(a.reaches, oldest)
		}
		c = &reachCount{}
		a.reaches[key] = c
	}
	c.used = a.reachUsed
	return c
}

// ReachOf counts for wording that need not be stored. It is told what was counted so far; a
// count is kept for the same wording until people change.
func (a *Service) ReachOf(ctx context.Context, u domain.User, w Input) (Reach, error) {
	cat, err := a.records.Catalogue(ctx)
	if err != nil {
		return Reach{}, err
	}
	program, template, _, err := a.compileInput(ctx, cat, u, w)
	if err != nil {
		return Reach{}, err
	}
	said, err := json.Marshal([]any{u.ID, w})
	if err != nil {
		return Reach{}, err
	}
	edition, err := a.store.PeopleEdition(ctx)
	if err != nil {
		return Reach{}, err
	}
	sum := sha256.Sum256(said)
	c := a.reachOf(string(sum[:]))
	over := a.goOn(u, c, counting{stamp: fmt.Sprintf("%d %p", edition, cat), names: map[int64]string{}, cat: cat, program: program, template: template})
	if over != nil {
		timer := time.NewTimer(reachWait)
		defer timer.Stop()
		select {
		case <-over:
		case <-timer.C:
		case <-ctx.Done():
			return Reach{}, ctx.Err()
		}
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.told(), c.err
}

// goOn has a count run that is not at its end, or begin anew when people have changed. It gives
// what is closed when it ends, nil when there is nothing to wait for.
func (a *Service) goOn(u domain.User, c *reachCount, fresh counting) <-chan struct{} {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.asked = time.Now()
	if c.over != nil {
		return c.over
	}
	// One that runs goes on to its end although people change: else it would never end.
	stale := c.ids == nil || c.stamp != fresh.stamp || a.now().Sub(c.began) > reachGood
	if c.err == nil && c.ids != nil && (!stale && c.next >= len(c.ids)) {
		return nil
	}
	if c.err != nil || c.ids == nil || c.next >= len(c.ids) {
		fresh.began = a.now()
		c.counting, c.err = fresh, nil
		c.counted.Program = fresh.program
	}
	c.over = make(chan struct{})
	go a.count(u, c)
	return c.over
}

// count looks at everybody, step by step.
func (a *Service) count(u domain.User, c *reachCount) {
	ctx := context.Background() // who asked may go: others may ask for the same
	err := worker.Guard(func() error {
		for more := true; more; {
			a.counting <- struct{}{}
			var err error
			more, err = a.countStep(ctx, u, c)
			<-a.counting
			if err != nil {
				return err
			}
		}
		return nil
	})
	c.mu.Lock()
	defer c.mu.Unlock()
	c.err = err
	close(c.over)
	c.over = nil
}

// countStep looks at the next people of a count, and tells whether there are more to be looked at.
func (a *Service) countStep(ctx context.Context, u domain.User, c *reachCount) (more bool, err error) {
	c.mu.Lock()
	ids, next := c.ids, c.next
	c.mu.Unlock()
	if ids == nil {
		if ids, err = a.store.PeopleIDs(ctx); err != nil {
			return false, err
		}
	}
	some := ids[next:min(len(ids), next+reachStep)]
	if len(some) > 0 {
		err = a.EachSetting(ctx, c.cat, u, some, func(s *Setting) error {
			c.mu.Lock()
			defer c.mu.Unlock()
			c.add(s)
			return nil
		})
	}
	if err != nil {
		return false, err
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	c.ids, c.next = ids, next+len(some)
	return c.next < len(ids) && time.Since(c.asked) < reachLeft, nil
}

// EachSetting gathers what letters from u to several people draw from, each with the newest
// open deal; who was deleted is left out. Those of one company come together.
func (a *Service) EachSetting(ctx context.Context, cat *field.Catalogue, u domain.User, ids []int64, f func(*Setting) error) error {
	base, err := a.records.Gather(ctx, &domain.Person{}, nil, &u)
	if err != nil {
		return err
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return err
	}
	owners := map[int64]*domain.User{}
	for i := range users {
		owners[users[i].ID] = &users[i]
	}
	sig, err := a.Signature(ctx, u, u.Email, document.BodyPlain, Reader("", &domain.Person{}, base.Team))
	if err != nil {
		return err
	}
	readers := map[string]*field.Reader{}
	people, err := a.store.PeopleWithDeals(ctx, ids)
	if err != nil {
		return err
	}
	for i := range people {
		s, err := a.settingOf(ctx, cat, &people[i], &base, owners, readers)
		if err != nil {
			return err
		}
		if !letter.IsBlank(sig) {
			s.Values.Set("sender.signature", field.Value{Type: field.Long, Text: render.RenderText(sig)})
		}
		if err := f(s); err != nil {
			return err
		}
	}
	return nil
}

func (c *reachCount) add(s *Setting) {
	before := len(c.counted.WithGaps())
	c.counted.Add(s.Person.ID, s.Values, s.DealID != nil)
	if n := len(c.counted.WithGaps()); n > before && n <= listedWithGaps {
		c.names[s.Person.ID] = s.Person.Name()
	}
	if !preflight.Serves(c.program, s.Person.Kind, s.DealID != nil) {
		return
	}
	if c.hardest.Add(s.Person.ID, c.program, s.Values, s.ReaderFor(&c.template)); c.hardest.ID == s.Person.ID {
		c.worst = &ReachPerson{s.Person.ID, s.Person.Name(), labels(c.cat, c.program.Missing(s.Values, nil))}
	}
}

// told is what was counted so far.
func (c *reachCount) told() Reach {
	out := Reach{Missing: []ReachMissing{}, WithGaps: []ReachPerson{}, Hardest: c.worst, Running: c.ids == nil && c.err == nil || c.next < len(c.ids), Of: len(c.ids)}
	out.People, out.Complete, out.NoDeal = c.counted.Records, c.counted.Complete, c.counted.NoDeal
	out.OtherKind = c.counted.Unfit - c.counted.NoDeal
	for _, m := range c.counted.MissingFields() {
		out.Missing = append(out.Missing, ReachMissing{m.Path, labels(c.cat, []string{m.Path})[0], m.Count})
	}
	for _, r := range c.counted.WithGaps() {
		if len(out.WithGaps) < listedWithGaps {
			out.WithGaps = append(out.WithGaps, ReachPerson{r.ID, c.names[r.ID], labels(c.cat, r.Missing)})
		}
	}
	return out
}

// ReachOfTemplate counts for a stored template.
func (a *Service) ReachOfTemplate(ctx context.Context, u domain.User, id int64) (Reach, error) {
	t, err := a.Template(ctx, u, id)
	if err != nil {
		return Reach{}, err
	}
	return a.ReachOf(ctx, u, t.Input())
}
