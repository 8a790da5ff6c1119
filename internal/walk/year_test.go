package walk

import (
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/core/plan"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/orders"
	"lucidletter/internal/app/plans"
	"lucidletter/internal/app/postbox"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
	"lucidletter/internal/postoffice"
)

// year is a team at work in the whole program: door, outbox, pages, and a post office whose
// recipients open, answer, return letters and ask not to be written to.
type year struct {
	*walker
	clock *postoffice.Clock
	plan  int64
	went  int // letters that were begun at the desk

	mu     sync.Mutex
	failed []error // of the workers
}

// The lands of the people: their clocks change on other days, and their holidays differ.
var lands = [][2]string{{"Europe/London", "GB"}, {"Europe/Berlin", "DE"}, {"America/New_York", "US"}, {"Australia/Sydney", "AU"}, {"Europe/Madrid", "ES"}, {"Asia/Tokyo", "JP"}}

func newYear(t *testing.T, team, people int) *year {
	w := newWalker(t)
	y := &year{walker: w, clock: &postoffice.Clock{}}
	w.r = rand.New(rand.NewPCG(fromEnv("LUCID_YEAR_SEED", 7), 3))
	log := slog.New(slog.NewTextHandler(io.Discard, nil))
	w.b.App.Connect(func(p *app.Ports) { p.Now = y.clock.Now })
	pages := httptest.NewServer(httpapi.New(w.b.App, nil, nil, log))
	t.Cleanup(pages.Close)
	w.b.App.Connect(func(p *app.Ports) { p.PublicURL, p.ReturnTo = pages.URL, "back@fernhollow.example" })
	door, err := mail.OpenInbound("127.0.0.1:0", false, w.b.App, log)
	if err != nil {
		t.Fatal(err)
	}
	post, err := postoffice.Listen("127.0.0.1:0", w.b.App, postoffice.Options{Store: w.b.Store, Composer: mail.Composer{}, Reader: mail.Reader{}, Door: door.Addr(), Clock: y.clock, Log: log, Seed: 11})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := post.Close(); err != nil {
			t.Error(err)
		}
		if err := door.Close(); err != nil {
			t.Error(err)
		}
	})
	w.b.App.Connect(func(p *app.Ports) { p.World = post })
	w.b.Send(post.Addr())
	failed := func(err error) { y.mu.Lock(); y.failed = append(y.failed, err); y.mu.Unlock() }
	var workers sync.WaitGroup
	workers.Go(func() { outbox.New(w.b.App, log).Run(t.Context()) })
	workers.Go(func() { w.b.App.Rounds.Run(t.Context(), failed) })
	workers.Go(func() { w.b.App.Plans.Run(t.Context(), failed) })
	workers.Go(func() { w.b.App.Tasks.RunReminders(t.Context(), failed) })
	t.Cleanup(workers.Wait)
	y.hire(team)
	y.meet(people)
	y.write(t)
	return y
}

func (y *year) hire(n int) {
	for i := len(y.users); i < n; i++ {
		u := domain.User{Email: fmt.Sprintf("u%d@fernhollow.example", i), FirstName: fmt.Sprint("User", i), LastName: "Falk", Role: access.Representative, PasswordHash: "-", TimeZone: lands[i%3][0], Country: lands[i%3][1]}
		var err error
		if u.ID, err = y.b.Store.AddUser(ctx, u); err != nil {
			y.t.Fatal(err)
		}
		y.users = append(y.users, u)
	}
}

func (y *year) meet(n int) {
	for i := range n {
		land, name := lands[i%len(lands)], y.name()
		p := domain.Person{
			Kind: field.Lead, FirstName: name, LastName: "Stone", Email: fmt.Sprintf("p%d@stone.example", i), LeadStatus: "new", TimeZone: land[0], Country: land[1],
			CompanyName: "Stone Yard", OwnerID: &y.users[i%len(y.users)].ID, CreatedAt: y.clock.Now(), UpdatedAt: y.clock.Now(),
		}
		id, err := y.b.Store.AddPerson(ctx, p)
		if err != nil {
			y.t.Fatal(err)
		}
		y.people = append(y.people, id)
		y.called(id, name)
	}
}

func (y *year) write(t *testing.T) {
	for i, body := range []string{
		"Dear {{person.first_name}},\n\nThank you for the time that you took at {{company.name|your place}}. When may we call?\n\nKind regards,\n{{sender.first_name}}",
		"Dear {{person.first_name}},\n\nWe shall be near you on {{?day: date}}. Shall we look at the room together?\n\nKind regards,\n{{sender.first_name}}",
		"Dear {{person.first_name}},\n\nThe cold room is {{?state: text \"How it is\"}}. Please tell us whether that suits you.\n\nKind regards,\n{{sender.first_name}}",
	} {
		y.templates = append(y.templates, y.b.Template(t, fmt.Sprint("Letter ", i), "Your cold room", body))
	}
	letter := func(days int) domain.PlanStep {
		return domain.PlanStep{Kind: plan.Letter, When: plan.Timing{Days: days, Working: true}, TemplateID: &y.templates[0], Same: days > 0}
	}
	p, err := y.b.App.Plans.AddPlan(ctx, y.b.Lead, plans.Input{Name: "Opening", Steps: []domain.PlanStep{
		letter(0), letter(3), {Kind: plan.Task, When: plan.Timing{Days: 2, Working: true}, Task: domain.TaskCall, Words: "Call {{person.first_name}}"}, letter(6),
	}})
	if err == nil {
		_, err = y.b.App.Plans.SetPlanState(ctx, y.b.Lead, p.ID, p.Version, domain.TemplateReady)
	}
	if err != nil {
		t.Fatal(err)
	}
	y.plan = p.ID
	for name, said := range map[string]domain.OrderSaid{
		"Answered":   {When: plan.Trigger{On: plan.On("replied")}, Do: []domain.OrderAct{{Do: plan.MakeTask, Words: "Answer {{person.first_name}}"}}},
		"Interested": {When: plan.Trigger{On: plan.On("clicked")}, Do: []domain.OrderAct{{Do: plan.SendLetter, TemplateID: &y.templates[0]}}},
	} {
		o, err := y.b.App.Orders.Add(ctx, y.b.Lead, orders.Input{Name: name, Said: said})
		if err == nil {
			_, err = y.b.App.Orders.Switch(ctx, y.b.Lead, o.ID, o.Version, true)
		}
		if err != nil {
			t.Fatal(err)
		}
	}
}

// day is what a user does on a working day: some people are started on the plan, a letter is
// written, tasks are done, and now and then a round goes to many.
func (y *year) day(u domain.User, monday bool) error {
	if _, err := y.b.App.Plans.Start(ctx, u, y.plan, []int64{y.one(y.people), y.one(y.people)}, plans.With{}); err != nil && !domain.Lasting(err) {
		return fmt.Errorf("start: %w", err)
	}
	if err := y.letter(u); err != nil && !domain.Lasting(err) {
		return fmt.Errorf("letter: %w", err)
	}
	if monday && y.r.IntN(4) == 0 {
		if err := y.many(u); err != nil && !domain.Lasting(err) {
			return fmt.Errorf("round: %w", err)
		}
	}
	due, err := y.b.App.Tasks.TasksPage(ctx, u, 0, 30, 0)
	if err != nil {
		return err
	}
	for _, task := range due.Tasks {
		if err := y.b.App.Tasks.TaskDone(ctx, u, task.ID, true); err != nil && !domain.Lasting(err) {
			return fmt.Errorf("task: %w", err)
		}
	}
	waiting, _, err := y.b.App.Plans.Runs(ctx, u, domain.RunsQuery{States: []domain.RunState{domain.RunWaiting}, Limit: 20})
	if err != nil {
		return err
	}
	for _, run := range waiting {
		if err := y.b.App.Plans.Do(ctx, u, run.ID, plans.Act(y.pick("skip", "stop")), ""); err != nil && !domain.Lasting(err) {
			return fmt.Errorf("run: %w", err)
		}
	}
	return nil
}

func (y *year) letter(u domain.User) error {
	template := y.one(y.templates)
	l, err := y.b.App.Desk.StartLetter(ctx, u, y.one(y.people), &template, nil)
	if err != nil {
		return err
	}
	for _, g := range l.Gaps {
		value := "ready"
		if g.Path == "?day" {
			value = y.clock.Now().AddDate(0, 0, 5).Format(time.DateOnly)
		}
		if l, err = y.b.App.Desk.FillGap(ctx, u, l.ID, wording(&l), g.Path, value, false); err != nil {
			return err
		}
	}
	proof, err := y.b.App.Desk.ProofOf(ctx, u, l.ID, desk.When{})
	if err != nil {
		return err
	}
	if _, err := y.b.App.Desk.Send(ctx, u, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		return err
	}
	y.proofs[l.ID], y.went = proof.Mail.Text, y.went+1
	return nil
}

func (y *year) many(u domain.User) error {
	var people []int64
	for range 25 {
		people = append(people, y.one(y.people))
	}
	id, err := y.b.App.Rounds.StartRound(ctx, u, rounds.Start{People: people, TemplateID: &y.templates[0]})
	if err != nil {
		return err
	}
	y.rounds = append(y.rounds, id)
	if err := y.b.App.Rounds.Check(ctx, id); err != nil {
		return err
	}
	s, err := y.b.App.Rounds.Round(ctx, u, id)
	if err != nil || s.Groups.Ready == 0 {
		return err
	}
	_, err = y.b.App.Rounds.Send(ctx, u, id, s.Version, s.Groups.Ready, domain.RoundWhen{All: true, Morning: true})
	return err
}

// skip moves the clock on, with everything that happens meanwhile.
func (y *year) skip(by time.Duration) error {
	for by > 0 {
		one := min(by, postbox.MaxSkip)
		if _, err := y.b.App.Postbox.SkipTime(ctx, one); err != nil {
			return err
		}
		by -= one
	}
	return nil
}

// right looks whether everything holds that must while the program goes on.
func (y *year) right() error {
	if failed := y.b.Failed(); len(failed) > 0 {
		return fmt.Errorf("set aside: %w", failed[0])
	}
	// The workers look again after a while of real time, the clock of the year runs ahead of it.
	for range 50 {
		next, err := y.b.App.Plans.Work(ctx)
		if err != nil {
			return fmt.Errorf("plans: %w", err)
		}
		if next == nil || next.After(y.clock.Now()) {
			break
		}
	}
	y.mu.Lock()
	defer y.mu.Unlock()
	if len(y.failed) > 0 {
		return fmt.Errorf("a worker failed %d times, first: %w", len(y.failed), y.failed[0])
	}
	for what, query := range lasting {
		if err := y.rows(what, query); err != nil {
			return err
		}
	}
	for what, query := range map[string]string{
		"who asked not to be written to got a letter": `SELECT 'letter ' || l.id FROM letters l JOIN people p ON p.id = l.person_id WHERE l.state = 'sent' AND NOT l.internal AND julianday(substr(l.sent_at, 1, 19)) > julianday(substr(p.opted_out_at, 1, 19)) + 2.0 / 1440`,
		"somebody is on the plan who answered":        `SELECT 'run ' || r.id || ' of ' || r.person_id || ' from ' || r.started_at || ', ' || h.text || ' at ' || h.at || ' step ' || coalesce(r.step_at,'-') || ' ' || r.reason FROM runs r JOIN history h ON h.person_id = r.person_id AND h.kind = 'replied' AND NOT h.machine AND julianday(substr(h.at, 1, 19)) BETWEEN julianday(substr(r.started_at, 1, 19)) AND julianday('` + y.clock.Now().UTC().Add(-time.Hour).Format("2006-01-02 15:04:05") + `') WHERE r.state = 'going'`,
		"a letter of a plan went at a weekend":        `SELECT 'letter ' || l.id || ' at ' || l.sent_at FROM letters l JOIN people p ON p.id = l.person_id WHERE l.run_id IS NOT NULL AND l.state = 'sent' AND p.country IN ('GB', 'ES') AND strftime('%w', substr(l.sent_at, 1, 19)) IN ('0', '6')`,
	} {
		if err := y.rows(what, query); err != nil {
			return err
		}
	}
	if err := y.roundsAddUp(); err != nil {
		return err
	}
	return y.lettersAreRight()
}

// figures are what came of it.
func (y *year) figures() string {
	var out strings.Builder
	for _, q := range [][2]string{
		{"letters", `SELECT state, count(*) FROM letters WHERE NOT internal GROUP BY state ORDER BY state`},
		{"of plans, rounds, orders", `SELECT CASE WHEN run_id IS NOT NULL THEN 'plans' WHEN round_id IS NOT NULL THEN 'rounds' WHEN order_id IS NOT NULL THEN 'orders' ELSE 'desk' END k, count(*) FROM letters WHERE NOT internal AND state = 'sent' GROUP BY k`},
		{"runs", `SELECT state, count(*) FROM runs GROUP BY state ORDER BY state`},
		{"rounds", `SELECT state, count(*) FROM rounds GROUP BY state ORDER BY state`},
		{"history", `SELECT kind, count(*) FROM history GROUP BY kind ORDER BY kind`},
		{"tasks", `SELECT CASE WHEN done_at IS NULL THEN 'open' ELSE 'done' END k, count(*) FROM tasks GROUP BY k`},
		{"refused", `SELECT substr(reason, 1, 60), count(*) FROM letters WHERE state = 'refused' GROUP BY 1 ORDER BY 2 DESC LIMIT 6`},
	} {
		rows, err := y.b.Store.DB().Query(q[1])
		if err != nil {
			return err.Error()
		}
		fmt.Fprintf(&out, "  %s:", q[0])
		for rows.Next() {
			var what string
			var n int
			if err := rows.Scan(&what, &n); err != nil {
				return err.Error()
			}
			fmt.Fprintf(&out, " %s %d;", what, n)
		}
		_ = rows.Close()
		out.WriteByte('\n')
	}
	return out.String()
}

// A team writes for weeks, or with make year for 365 days, over both changes of the clocks and
// the holidays: afterwards everything holds that must, and the figures are printed.
func TestYear(t *testing.T) {
	days, people, team := int(fromEnv("LUCID_YEAR_DAYS", 9)), int(fromEnv("LUCID_YEAR_PEOPLE", 60)), int(fromEnv("LUCID_YEAR_TEAM", 5))
	if testing.Short() {
		days = 3
	}
	began := time.Now()
	y := newYear(t, team, people)
	// Mornings in UTC.
	now := y.clock.Now().UTC()
	if err := y.skip(time.Date(now.Year(), now.Month(), now.Day()+1, 8, 0, 0, 0, time.UTC).Sub(now)); err != nil {
		t.Fatal(err)
	}
	for day := range days {
		today := y.clock.Now().UTC().Weekday()
		for _, u := range y.users {
			if today == time.Saturday || today == time.Sunday {
				break
			}
			if err := y.day(u, today == time.Monday); err != nil {
				t.Fatalf("day %d, %s: %v", day, u.FirstName, err)
			}
		}
		if err := y.skip(24 * time.Hour); err != nil {
			t.Fatalf("day %d: %v", day, err)
		}
		if day%7 == 6 || day == days-1 {
			if err := y.right(); err != nil {
				t.Fatalf("after day %d (%s): %v\n%s", day, y.clock.Now().UTC().Format(time.DateOnly), err, y.figures())
			}
		}
		if days > 100 && day%30 == 29 {
			t.Logf("day %d, %s, %d letters read", day+1, time.Since(began).Round(time.Second), len(y.seen))
		}
	}
	t.Logf("%d users, %d people, %d days in %s\n%s", len(y.users), people, days, time.Since(began).Round(time.Second), y.figures())
	if len(y.seen) < days*team/4 {
		t.Errorf("only %d letters went", len(y.seen))
	}
}
