package outbox_test

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/domain"
	"lucidletter/internal/store"
	"lucidletter/internal/testbed"
)

// Two hundred people go through a plan of three letters and two tasks, and the program is
// killed at random moments meanwhile. In the end every step came once: each task is there once, each letter arrived once or is said to be unsure.
func TestPlan_killed(t *testing.T) {
	people, kills := 200, 12
	if testing.Short() {
		people, kills = 60, 5
	}
	post := testbed.New(t) // the other side, in this process
	folder := t.TempDir()
	s, err := store.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	b := testbed.On(t, s, folder)
	begun := b.Now() // a Monday at half past nine
	id := onPlan(t, b, people)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(17, 1))
	passed := time.Duration(0)
	for range kills {
		wait := time.Duration(150+r.IntN(400)) * time.Millisecond
		runKilled(t, folder, post.Post.Addr(), wait, "OUTBOX_CLOCK="+begun.Add(passed).Format(time.RFC3339))
		passed += wait * clockSpeed
	}
	runKilled(t, folder, post.Post.Addr(), 0, "OUTBOX_CLOCK="+begun.Add(passed).Format(time.RFC3339))
	if s, err = store.Open(ctx, folder); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	rows, total, err := s.Runs(ctx, domain.RunsQuery{PlanID: id, Limit: people})
	if err != nil || total != people {
		t.Fatal(total, err)
	}
	unsure := 0
	for i := range rows {
		unsure += checkRun(t, s, post, &rows[i])
	}
	t.Logf("%d runs, %d letters unsure", total, unsure)
}

// checkRun looks at one run when nothing more comes, and gives how many of its letters are
// unsure: it waits for its owner then.
func checkRun(t *testing.T, s *store.Store, post *testbed.Bed, r *domain.RunRow) (unsure int) {
	t.Helper()
	steps, err := s.RunSteps(ctx, r.ID)
	if err != nil {
		t.Fatal(err)
	}
	letters, tasks, arrived := 0, 0, 0
	for _, d := range steps {
		if d.TaskID != nil {
			tasks++
		}
		if d.LetterID == nil {
			continue
		}
		l, err := s.Letter(ctx, *d.LetterID)
		if err != nil {
			t.Fatal(err)
		}
		letters++
		switch l.State {
		case domain.Sent:
			arrived++
		case domain.Unsure:
			unsure++
		default:
			t.Errorf("a letter of run %d is %s (%s)", r.ID, l.State, l.Reason)
		}
	}
	open, err := s.Tasks(ctx, r.OwnerID, r.PersonID)
	if err != nil || len(open) != tasks {
		t.Errorf("run %d: %d tasks are there, %d came; %v", r.ID, len(open), tasks, err)
	}
	box, err := post.Store.PostLetters(ctx, r.Email, 20)
	if err != nil || len(box) < arrived || len(box) > arrived+unsure {
		t.Errorf("run %d: %d letters arrived, %d are said to be sent, %d unsure; %v", r.ID, len(box), arrived, unsure, err)
	}
	seen := map[string]bool{}
	for _, one := range box {
		if seen[one.Subject] {
			t.Errorf("run %d: “%s” arrived twice", r.ID, one.Subject)
		}
		seen[one.Subject] = true
	}
	switch {
	case unsure == 0 && (r.State != domain.RunFinished || letters != 3 || tasks != 2):
		t.Errorf("run %d is %s (%s) with %d letters and %d tasks", r.ID, r.State, r.Reason, letters, tasks)
	case unsure > 0 && r.State != domain.RunWaiting && r.State != domain.RunFinished:
		t.Errorf("run %d is %s, and a letter of it is unsure", r.ID, r.State)
	}
	return unsure
}

// onPlan starts people on a plan that takes a day.
func onPlan(t *testing.T, b *testbed.Bed, n int) int64 {
	t.Helper()
	people := make([]domain.Person, n)
	for i := range people {
		people[i] = domain.Person{Kind: field.Lead, FirstName: fmt.Sprintf("P%d", i), LastName: "Quill", Email: fmt.Sprintf("p%d@quill.example", i), Country: "United Kingdom", CreatedAt: b.Now(), UpdatedAt: b.Now()}
	}
	ids, err := b.Store.AddPeople(ctx, people)
	if err != nil {
		t.Fatal(err)
	}
	in := plans.Input{Name: "A day"}
	for i, at := range []string{plan.AtOnce, "10:00", "11:00", "12:30", "14:00"} {
		if i%2 == 1 {
			in.Steps = append(in.Steps, domain.PlanStep{Kind: plan.Task, When: plan.Timing{At: at}, Words: "Call {{person.first_name}}"})
			continue
		}
		template := b.Template(t, "T"+at, fmt.Sprintf("Letter %d for {{person.first_name}}", i), "Dear {{person.first_name}},\n\nGood day.")
		in.Steps = append(in.Steps, domain.PlanStep{Kind: plan.Letter, When: plan.Timing{At: at}, TemplateID: &template})
	}
	p, err := b.App.Plans.AddPlan(ctx, b.Rep, in)
	if err == nil {
		p, err = b.App.Plans.SetPlanState(ctx, b.Rep, p.ID, p.Version, domain.TemplateReady)
	}
	if err != nil {
		t.Fatal(err)
	}
	out, err := b.App.Plans.Start(ctx, b.Rep, p.ID, ids, plans.With{})
	if err != nil || len(out.Runs) != n {
		t.Fatal(len(out.Runs), err)
	}
	return p.ID
}
