package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/core/plan"
	"lucidletter/internal/app"
	"lucidletter/internal/app/worker"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A letter of a round that was changed at the desk, whose person's record is deleted or merged
// away meanwhile, is looked at once and then no more.
func TestRound_changedLetterOfSomebodyGone(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 4)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people[:3]...)
	for _, person := range people[:3] {
		if _, err := b.App.Rounds.ChangeLetter(ctx, b.Rep, s.ID, person); err != nil {
			t.Fatal(err)
		}
	}
	now := b.Now()
	if err := b.Store.DeletePerson(ctx, people[0], &now); err != nil {
		t.Fatal(err)
	}
	p, err := b.Store.Person(ctx, people[3])
	if err == nil {
		_, err = b.App.Records.Merge(ctx, b.Rep, people[3], people[1], p.Version, nil)
	}
	if err != nil {
		t.Fatal(err)
	}
	if s = roundNow(t, b, s.ID); s.Groups.Skipped != 2 || s.Groups.Ready != 1 {
		t.Errorf("%s", s.Groups)
	}
	if left, err := b.Store.ToCheck(ctx, s.ID, 0, s.Version, 0, 10); err != nil || len(left) > 0 {
		t.Errorf("%d are to be looked at again, %v", len(left), err)
	}
	if failed := b.Failed(); len(failed) > 0 {
		t.Error(failed)
	}
}

// shaky composes letters, and panics on those of a subject.
type shaky struct {
	domain.Composer
	subject string
}

func (c shaky) Compose(m domain.Mail) ([]byte, error) {
	if m.Subject == c.subject {
		panic("out of range")
	}
	return c.Composer.Compose(m)
}

// A letter whose composing panics is refused with its reason and told; the others go. It is
// tried again when its writer says so.
func TestPanic_ofALetter(t *testing.T) {
	b := testbed.New(t)
	b.App.Connect(func(p *app.Ports) { p.Composer = shaky{p.Composer, "Boom"} })
	var ids []int64
	for i, subject := range []string{"One", "Boom", "Three"} {
		l := b.Letter(t, b.Person(t, fmt.Sprint("P", i), "Quill", fmt.Sprintf("p%d@quill.example", i)), b.Template(t, subject, subject, "Dear {{person.first_name}}, good morning."))
		ids = append(ids, l.ID)
		if _, err := b.Store.DB().Exec(`UPDATE letters SET state = 'waiting', due_at = ?, queued_at = ?, subject_line = ?, to_email = ?, to_name = ? WHERE id = ?`, b.Now(), b.Now(), subject, l.ToEmail, l.ToName, l.ID); err != nil {
			t.Fatal(err)
		}
	}
	for range 2 {
		list, err := b.App.Outbound.Claim(ctx, ids)
		if err != nil {
			t.Fatal(err)
		}
		for _, h := range list {
			if err := b.Deliver(ctx, h.ID()); err != nil {
				t.Fatal(err)
			}
		}
	}
	l, err := b.Store.Letter(ctx, ids[1])
	if err != nil || l.State != domain.Refused || !strings.Contains(l.Reason, "unexpected") {
		t.Errorf("%s %q, %v", l.State, l.Reason, err)
	}
	if failed := b.Failed(); len(failed) != 1 || !worker.Panicked(failed[0]) {
		t.Errorf("told: %v", failed)
	}
	for _, id := range []int64{ids[0], ids[2]} {
		if l, err := b.Store.Letter(ctx, id); err != nil || l.State == domain.Refused || l.State == domain.Waiting {
			t.Errorf("another: %s, %v", l.State, err)
		}
	}
}

// panicAt has the first writes of a kind panic.
func panicAt(b *testbed.Bed, at string, times int) {
	b.Store.Before = func(doing string) error {
		if times > 0 && doing == at {
			times--
			panic("broken at " + doing)
		}
		return nil
	}
}

// A step, an event, an act of an order or what follows a letter that panics is set aside and
// told; everything beside it goes on, and nothing of it is due again.
func TestPanic_ofOneItem(t *testing.T) {
	type row struct {
		at    string // the write that panics
		times int
		setUp func(t *testing.T, b *testbed.Bed, people []int64)
		check func(t *testing.T, b *testbed.Bed, people []int64)
	}
	for name, row := range map[string]row{
		"step": {"add letter", 1, func(t *testing.T, b *testbed.Bed, people []int64) {
			p := readyPlan(t, b, "P", letterStep(b.Template(t, "T", "S", "Dear {{person.first_name}}"), 0, false), callStep(1, "Call"))
			startPlan(t, b, p.ID, people...)
			b.Pass(24 * time.Hour)
		}, func(t *testing.T, b *testbed.Bed, people []int64) {
			waiting, went := 0, 0
			for _, id := range []int64{1, 2} {
				r := run(t, b, id)
				if strings.HasPrefix(r, "waiting (Something unexpected") {
					waiting++
				} else if strings.Contains(r, "letter 1 on") {
					went++
				}
			}
			if waiting != 1 || went != 1 {
				t.Errorf("%s\n%s", run(t, b, 1), run(t, b, 2))
			}
		}},
		"order": {"update person", 1, func(t *testing.T, b *testbed.Bed, people []int64) {
			order(t, b, "O", domain.OrderSaid{When: changes("person.city", "York"), Do: []domain.OrderAct{setField("person.job_title", "Baker")}})
			for _, id := range people {
				put(t, b, id, "person.city", "York")
			}
		}, func(t *testing.T, b *testbed.Bed, people []int64) {
			if got := log(t, b, 1); strings.Count(got, "failed: It could not be done") != 1 || strings.Count(got, "done: ") != 1 {
				t.Error(got)
			}
		}},
		"event": {"store run", 2, func(t *testing.T, b *testbed.Bed, people []int64) {
			p := readyPlan(t, b, "P", callStep(20, "Call"))
			startPlan(t, b, p.ID, people...)
			for _, id := range people {
				now := b.Now()
				if err := b.Store.DeletePerson(ctx, id, &now); err != nil {
					t.Fatal(err)
				}
			}
		}, func(t *testing.T, b *testbed.Bed, people []int64) {
			stopped := 0
			for _, id := range []int64{1, 2} {
				if strings.HasPrefix(run(t, b, id), "stopped") {
					stopped++
				}
			}
			if stopped != 1 {
				t.Errorf("%s\n%s", run(t, b, 1), run(t, b, 2))
			}
		}},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			people := crowd(t, b, 2)
			row.setUp(t, b, people)
			panicAt(b, row.at, row.times)
			told := 0
			for range 4 {
				if _, err := b.App.Plans.Work(ctx); err != nil {
					if !worker.Panicked(err) {
						t.Fatal(err)
					}
					told++
				}
			}
			b.Store.Before = nil
			if told += len(b.Failed()); told != 1 {
				t.Errorf("told %d times", told)
			}
			row.check(t, b, people)
		})
	}
}

// Every worker comes to rest: after some looks nothing is due, and nothing more is written.
func TestWorkers_rest(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 12)
	template := b.Template(t, "T", "S", "Dear {{person.first_name}}")
	needs := b.Template(t, "N", "S", "Your room in {{person.city}}")
	p := readyPlan(t, b, "P", letterStep(template, 0, false), letterStep(needs, 0, true), callStep(1, "Call"))
	startPlan(t, b, p.ID, people[:6]...)
	order(t, b, "O", domain.OrderSaid{When: plan.Trigger{On: plan.OnCreated, Record: "person"}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &template}}})
	more := []int64{b.Person(t, "New", "Quill", "new@quill.example"), b.Person(t, "", "", "nobody@quill.example"), b.Person(t, "No", "Address", "")}
	s := startRound(t, b, needs, people[4:]...)
	for _, person := range people[6:10] {
		if _, err := b.App.Rounds.ChangeLetter(ctx, b.Rep, s.ID, person); err != nil {
			t.Fatal(err)
		}
	}
	now := b.Now()
	for i, id := range []int64{people[0], people[5], people[6], people[7], more[0]} {
		if i == 2 {
			other, err := b.Store.Person(ctx, people[11])
			if err == nil {
				_, err = b.App.Records.Merge(ctx, b.Rep, people[11], id, other.Version, nil)
			}
			if err != nil {
				t.Fatal(err)
			}
			continue
		}
		if err := b.Store.DeletePerson(ctx, id, &now); err != nil {
			t.Fatal(err)
		}
	}
	for i, id := range people[:2] { // an old reminder, and a task of somebody who is gone
		if _, err := b.Store.AddTask(ctx, domain.Task{UserID: b.Rep.ID, PersonID: &id, Text: fmt.Sprint("Call ", i), DueAt: now, CreatedAt: now}); err != nil {
			t.Fatal(err)
		}
	}
	b.Pass(72 * time.Hour)
	look := func() (due bool, writes []string) {
		b.Store.Before = func(doing string) error {
			if doing != "drop imports" { // there are none
				writes = append(writes, doing)
			}
			return nil
		}
		defer func() { b.Store.Before = nil }()
		if err := b.App.Rounds.Check(ctx, s.ID); err != nil {
			t.Fatal(err)
		}
		for _, work := range []func() (*time.Time, error){
			func() (*time.Time, error) { return b.App.Rounds.Work(ctx) }, func() (*time.Time, error) { return b.App.Plans.Work(ctx) },
			func() (*time.Time, error) { return nil, b.App.Tasks.Remind(ctx) }, func() (*time.Time, error) { return nil, b.App.Transfer.WriteImports(ctx) },
		} {
			next, err := work()
			if err != nil {
				t.Fatal(err)
			}
			due = due || next != nil && !next.After(b.Now())
		}
		list, _, err := b.Store.Due(ctx, b.Now(), 1000)
		if err != nil {
			t.Fatal(err)
		}
		for _, l := range list {
			due = true
			if err := b.Deliver(ctx, l.ID); err != nil {
				t.Fatal(err)
			}
		}
		return due, writes
	}
	for range 12 {
		look()
		b.Pass(time.Millisecond)
	}
	b.Pass(time.Minute)
	look()
	if due, writes := look(); due || len(writes) > 0 {
		t.Errorf("due: %t, written: %v", due, writes)
	}
}

// While many write, every change and every new record is acted on once.
func TestOrders_everyEventOnce(t *testing.T) {
	b := testbed.New(t)
	people := crowd(t, b, 60)
	changed := order(t, b, "Changed", domain.OrderSaid{When: changes("person.city", "York"), Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Look"}}})
	created := order(t, b, "Created", domain.OrderSaid{When: plan.Trigger{On: plan.OnCreated, Record: "person"}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Welcome"}}})
	ended := make(chan error, 4)
	for w := range 4 {
		go func() {
			var err error
			for i := w; i < len(people) && err == nil; i += 4 {
				var p domain.Person
				if p, err = b.Store.Person(ctx, people[i]); err == nil {
					_, err = b.App.Records.ChangePerson(ctx, b.Rep, p.ID, p.Version, map[string]string{"person.city": "York"})
				}
				if err == nil {
					_, err = b.Store.AddPerson(ctx, domain.Person{Kind: "lead", FirstName: "New", LastName: fmt.Sprint(i), LeadStatus: "new", CreatedAt: b.Now(), UpdatedAt: b.Now()})
				}
			}
			ended <- err
		}()
	}
	for left := 4; left > 0; {
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
		select {
		case err := <-ended:
			if err != nil {
				t.Fatal(err)
			}
			left--
		default:
		}
	}
	for range 6 {
		if _, err := b.App.Plans.Work(ctx); err != nil {
			t.Fatal(err)
		}
	}
	for name, id := range map[string]int64{"changed": changed.ID, "created": created.ID} {
		var acts, events int
		if err := b.Store.DB().QueryRow(`SELECT count(*), count(DISTINCT event) FROM order_log WHERE order_id = ? AND result = 'done'`, id).Scan(&acts, &events); err != nil {
			t.Fatal(err)
		}
		if acts != len(people) || events != acts {
			t.Errorf("%s: %d acts on %d events of %d", name, acts, events, len(people))
		}
	}
}
