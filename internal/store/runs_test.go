package store

import (
	"fmt"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/plan"
	"lucidletter/internal/domain"
)

var nine = time.Date(2026, 3, 2, 9, 0, 0, 0, time.UTC)

// withRuns gives a store with one user, one plan and a run of it for each of some times.
func withRuns(t *testing.T, at ...time.Time) (*Store, []int64) {
	t.Helper()
	s := open(t, emptyFolder(t))
	t.Cleanup(func() { _ = s.Close() })
	user := must[int64](t)(s.AddUser(ctx, domain.User{Email: "imre@fernhollow.example", Role: access.Representative, FirstName: "Imre", LastName: "Falk"}))
	p := must[int64](t)(s.AddPlan(ctx, domain.Plan{Name: "Opening", OwnerID: user, State: domain.TemplateReady, Said: domain.PlanSaid{Steps: []domain.PlanStep{{Key: 1, Kind: plan.Task, Task: "call"}}, LastKey: 1}, CreatedAt: nine, UpdatedAt: nine, UpdatedBy: user}))
	ids := []int64{}
	for i, due := range at {
		person := add(t, s, fmt.Sprint("Ada ", i), "Quill", fmt.Sprint("ada", i, "@quill.example"), "")
		ids = append(ids, must[int64](t)(s.AddRun(ctx, domain.Run{PlanID: p, PersonID: person, OwnerID: user, State: domain.RunGoing, StepKey: 1, StepAt: &due, FromAt: nine, StartedAt: nine})))
	}
	return s, ids
}

// A step is in one pair of hands at a time, until its lease ends, it was done, or the worker is
// no more; a lease of a clock that was ahead counts for nothing.
func TestClaimRuns(t *testing.T) {
	s, ids := withRuns(t, nine, nine.Add(-time.Hour), nine.Add(time.Hour))
	claimed := func(what string, now time.Time, limit int, want ...int64) {
		t.Helper()
		got := must[[]int64](t)(s.ClaimRuns(ctx, now, time.Minute, limit))
		if fmt.Sprint(got) != fmt.Sprint(want) {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	if next := must[*time.Time](t)(s.NextStepAt(ctx)); next == nil || !next.Equal(nine.Add(-time.Hour)) {
		t.Error("next", next)
	}
	claimed("the one that waits longest", nine, 1, ids[1])
	claimed("the other one", nine, 10, ids[0])
	claimed("in hand", nine.Add(time.Minute-time.Second), 10)
	claimed("after the lease", nine.Add(time.Minute), 10, ids[1], ids[0])
	if err := s.LetGo(ctx); err != nil {
		t.Fatal(err)
	}
	claimed("let go of", nine.Add(time.Minute+time.Second), 10, ids[1], ids[0])
	claimed("after the clock was set back", nine, 10, ids[1], ids[0])
	r := must[domain.Run](t)(s.Run(ctx, ids[0]))
	later := nine.Add(2 * time.Hour)
	r.StepAt = &later
	if err := s.UpdateRun(ctx, r); err != nil {
		t.Fatal(err)
	}
	r = must[domain.Run](t)(s.Run(ctx, ids[1]))
	r.State, r.StepAt = domain.RunPaused, nil
	if err := s.UpdateRun(ctx, r); err != nil {
		t.Fatal(err)
	}
	claimed("put off, and paused", nine.Add(61*time.Minute), 10, ids[2])
	claimed("put off", later, 10, ids[2], ids[0])
}

// What happened to somebody concerns the runs of theirs that go on, of the kinds that stop or
// delay one, and not what a machine did.
func TestRunEvents(t *testing.T) {
	s, ids := withRuns(t, nine, nine)
	ada, bea := must[domain.Run](t)(s.Run(ctx, ids[0])).PersonID, must[domain.Run](t)(s.Run(ctx, ids[1])).PersonID
	mark := func() int64 {
		t.Helper()
		_, entry, err := s.LastEvents(ctx)
		if err != nil {
			t.Fatal(err)
		}
		return entry
	}
	start := mark()
	say := func(person int64, kind domain.EntryKind, machine bool) {
		t.Helper()
		if err := s.AddEntry(ctx, domain.Entry{PersonID: &person, Kind: kind, At: nine, Machine: machine}); err != nil {
			t.Fatal(err)
		}
	}
	say(ada, "replied", true)
	say(ada, "note", false)
	say(bea, "replied", false)
	list, last, err := s.RunEvents(ctx, start, 10)
	if err != nil || len(list) != 1 || list[0].RunID != ids[1] || list[0].Kind != "replied" || last != mark() {
		t.Fatal(list, last, err)
	}
	if is := must[bool](t)(s.EventSince(ctx, ada, start)); is {
		t.Error("a machine stops a run")
	}
	if is := must[bool](t)(s.EventSince(ctx, bea, start)); !is {
		t.Error("an answer is not seen")
	}
	if kind := must[string](t)(s.EndedSince(ctx, bea, nine)); kind != "replied" {
		t.Error(kind)
	}
	if kind := must[string](t)(s.EndedSince(ctx, bea, nine.Add(time.Second))) + must[string](t)(s.EndedSince(ctx, ada, nine)); kind != "" {
		t.Error(kind)
	}
	r := must[domain.Run](t)(s.Run(ctx, ids[1]))
	r.State, r.StepAt, r.EndedAt = domain.RunStopped, nil, &nine
	if err := s.UpdateRun(ctx, r); err != nil {
		t.Fatal(err)
	}
	if list, last, err = s.RunEvents(ctx, start, 10); err != nil || len(list) != 0 || last != mark() {
		t.Error(list, last, err)
	}
	if left := must[[]int64](t)(s.RunsIn(ctx, bea)); len(left) != 0 {
		t.Error(left)
	}
	// Few at a time, every one comes.
	say(ada, "replied", false)
	say(ada, "clicked", false)
	say(ada, "bounced", false)
	seen, from := 0, start
	for n := 0; from < mark() && n < 20; n++ {
		if list, last, err = s.RunEvents(ctx, from, 1); err != nil {
			t.Fatal(err)
		}
		for _, e := range list {
			if e.ID <= last {
				seen++
			}
		}
		if last <= from && len(list) == 0 {
			t.Fatal("stands still at", last)
		}
		from = last
	}
	if want := len(must2(s.RunEvents(ctx, start, 100))); from != mark() || seen != want || want < 2 {
		t.Errorf("%d of %d, up to %d of %d", seen, want, from, mark())
	}
}

func must2(list []domain.RunEvent, _ int64, _ error) []domain.RunEvent { return list }

// Dates of records, of one day or of that day in every year.
func TestDated(t *testing.T) {
	s := open(t, emptyFolder(t))
	defer func() { _ = s.Close() }()
	person := func(since, own string) int64 {
		t.Helper()
		p := domain.Person{Kind: "contact", FirstName: "Ada", Email: fmt.Sprint(since, own, "@quill.example"), ContactSince: since, CreatedAt: nine, UpdatedAt: nine, Own: domain.Own{}}
		if own != "" {
			p.Own["contact.own.fitted"] = own
		}
		return must[int64](t)(s.AddPerson(ctx, p))
	}
	a, b, c := person("2020-12-01", ""), person("2019-12-01", "2026-12-01"), person("", "2025-11-30")
	deal := must[int64](t)(s.AddDeal(ctx, domain.Deal{Name: "A room", MainContactID: &a, Stage: "quoted", Currency: "EUR", CloseDate: "2026-12-24", CreatedAt: nine}, nil))
	for _, one := range []struct {
		deals bool
		path  string
		like  []string
		want  []int64
	}{
		{false, "contact.since", []string{"2020-12-01"}, []int64{a}},
		{false, "contact.since", []string{"____-12-01"}, []int64{a, b}},
		{false, "contact.own.fitted", []string{"2026-12-01", "____-11-30"}, []int64{b, c}},
		{false, "lead.created", []string{"2026-03-02"}, []int64{a, b, c}},
		{false, `contact.own."'; x`, []string{"____-__-__"}, nil},
		{true, "deal.close_date", []string{"____-12-24"}, []int64{deal}},
		{true, "deal.created", []string{"2026-03-03"}, nil},
	} {
		if got := must[[]int64](t)(s.Dated(ctx, one.deals, one.path, one.like)); fmt.Sprint(got) != fmt.Sprint(one.want) {
			t.Errorf("%s like %v: %v, want %v", one.path, one.like, got, one.want)
		}
	}
}
