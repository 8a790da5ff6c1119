package outbox_test

import (
	"fmt"
	"sync/atomic"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A clock that is set back makes nobody get a letter twice, and none is lost.
func TestWorker_clockSetBack(t *testing.T) {
	b := testbed.New(t)
	worker(t, b)
	before := sent(t, b, "Ada")
	becomes(t, b, before, domain.Sent)
	waiting := sent(t, b, "Bo")
	b.Pass(-time.Hour)
	after := sent(t, b, "Cy")
	becomes(t, b, after, domain.Sent)
	b.Pass(2 * time.Hour)
	b.App.Wake()
	becomes(t, b, waiting, domain.Sent)
	for _, name := range []string{"ada", "bo", "cy"} {
		if list, err := b.Store.PostLetters(ctx, name+"@quill.example", 9); err != nil || len(list) != 1 {
			t.Errorf("%s got %d, %v", name, len(list), err)
		}
	}
}

// With the disk full nothing is half done: what could not be stored is not handed over,
// and goes when there is room.
func TestWorker_diskFull(t *testing.T) {
	b := testbed.New(t)
	id := sent(t, b, "Ada")
	var pages int
	if err := b.Store.DB().QueryRow("PRAGMA page_count").Scan(&pages); err != nil {
		t.Fatal(err)
	}
	limit := func(n int) {
		t.Helper()
		var got int
		if err := b.Store.DB().QueryRow(fmt.Sprintf("PRAGMA max_page_count = %d", n)).Scan(&got); err != nil {
			t.Fatal(err)
		}
	}
	limit(pages)
	// Fill what is left of the pages that are there.
	for i := 0; ; i++ {
		if _, err := b.Store.DB().Exec(`INSERT INTO post_letters (mailbox, sender, subject, arrived_at, bytes) VALUES ('x', 'x', 'x', ?, zeroblob(4000))`, b.Now()); err != nil {
			break
		}
		if i > 10_000 {
			t.Fatal("the disk is never full")
		}
	}
	// Where it ends depends on what room is left; that it is not said to be sent does not.
	_ = b.Deliver(ctx, id)
	if l, err := b.Store.Letter(ctx, id); err != nil || l.State == domain.Sent {
		t.Fatalf("%s, %v", l.State, err)
	}
	if list, err := b.Store.PostLetters(ctx, "ada@quill.example", 9); err != nil || len(list) != 0 {
		t.Fatalf("%d arrived though nothing could be stored, %v", len(list), err)
	}
	if err := b.App.Inbox.TakeIn(ctx, "", []string{b.Rep.Email}, make([]byte, 1<<20)); err == nil {
		t.Error("a letter was taken in that could not be stored")
	}
	limit(1 << 30)
	b.Pass(time.Hour) // a pause may have begun
	worker(t, b)
	becomes(t, b, id, domain.Sent)
	if list, err := b.Store.PostLetters(ctx, "ada@quill.example", 9); err != nil || len(list) != 1 {
		t.Errorf("%d arrived, %v", len(list), err)
	}
}

// A letter that somebody has had in hand for too long is taken from them: one that may
// have been handed over is unsure, the other goes.
func TestWorker_lease(t *testing.T) {
	b := testbed.New(t)
	handed, held := sent(t, b, "Ada"), sent(t, b, "Bo")
	b.Pass(time.Minute)
	run := worker(t, b)
	becomes(t, b, handed, domain.Sent)
	becomes(t, b, held, domain.Sent)
	run()
	handed, held = sent(t, b, "Cy"), sent(t, b, "Di")
	now := b.Now()
	lease := now.Add(time.Minute)
	for id, at := range map[int64]*time.Time{handed: &now, held: nil} {
		if moved, err := b.Store.Move(ctx, id, domain.Waiting, domain.Change{To: domain.Sending, At: now, HandedOver: at, Lease: &lease}); err != nil || !moved {
			t.Fatal(moved, err)
		}
	}
	if ids, err := b.Store.Expired(ctx, now); err != nil || len(ids) != 0 {
		t.Errorf("over already: %v %v", ids, err)
	}
	b.Pass(2 * time.Minute)
	ids, err := b.Store.Expired(ctx, b.Now())
	if err != nil || len(ids) != 2 {
		t.Fatalf("%v %v", ids, err)
	}
	for _, id := range ids {
		if err := b.App.Outbound.Release(ctx, id); err != nil {
			t.Fatal(err)
		}
	}
	if l, _ := b.Store.Letter(ctx, handed); l.State != domain.Unsure {
		t.Errorf("%s %q", l.State, l.Reason)
	}
	if l, _ := b.Store.Letter(ctx, held); l.State != domain.Waiting {
		t.Errorf("%s %q", l.State, l.Reason)
	}
}

// An account sends over as many connections as it takes, no more, and at its pace.
func TestWorker_lanes(t *testing.T) {
	b := testbed.New(t)
	var most, now, total atomic.Int32
	sending := sendFunc(func(by domain.Account) {
		if n := now.Add(1); n > most.Load() {
			most.Store(n)
		}
		// The first ones wait for as many as may come; a fourth would be counted.
		for began := time.Now(); most.Load() < 3 && time.Since(began) < 10*time.Second; {
			time.Sleep(time.Millisecond)
		}
		time.Sleep(5 * time.Millisecond)
		now.Add(-1)
		total.Add(1)
	})
	b.App.Connect(func(p *app.Ports) { p.Transport = sending })
	boss := b.Lead
	boss.Role = "administrator"
	in := team.AccountInput{Name: "M", Connections: 3, Server: domain.Login{Host: "mail.x.example", Port: 587, Security: "starttls", Method: "none"}}
	acc, err := b.App.Team.PutAccount(ctx, boss, 0, in)
	if err != nil {
		t.Fatal(err)
	}
	var ids []int64
	for i := range 12 {
		ids = append(ids, sent(t, b, fmt.Sprintf("P%d", i)))
	}
	stop := worker(t, b)
	for _, id := range ids {
		becomes(t, b, id, domain.Sent)
	}
	if most.Load() != 3 || total.Load() != 12 {
		t.Errorf("%d at once, %d in all", most.Load(), total.Load())
	}
	stop()
	in.PerMinute = 1200 // one in 50 ms
	if _, err := b.App.Team.PutAccount(ctx, boss, acc.ID, in); err != nil {
		t.Fatal(err)
	}
	ids = nil
	for i := range 5 {
		ids = append(ids, sent(t, b, fmt.Sprintf("Q%d", i)))
	}
	began := time.Now()
	worker(t, b)
	for _, id := range ids {
		becomes(t, b, id, domain.Sent)
	}
	if took := time.Since(began); took < 200*time.Millisecond {
		t.Errorf("five letters took %s, faster than the pace", took)
	}
}

// A slow server gets few letters in hand: the others can be taken back meanwhile. When
// the worker stops, those that were not handed over wait again.
func TestWorker_slowServer(t *testing.T) {
	b := testbed.New(t)
	b.App.Connect(func(p *app.Ports) { p.Connections = 1 })
	entered, answer := make(chan struct{}, 20), make(chan struct{})
	sending := sendFunc(func(domain.Account) {
		entered <- struct{}{}
		<-answer
	})
	b.App.Connect(func(p *app.Ports) { p.Transport = sending })
	var ids []int64
	for i := range 12 {
		ids = append(ids, sent(t, b, fmt.Sprintf("P%d", i)))
	}
	stop := worker(t, b)
	<-entered
	// One is spoken of, and each of the two that claim letters holds one.
	count := func() map[domain.LetterState]int {
		states := map[domain.LetterState]int{}
		for _, id := range ids {
			l, err := b.Store.Letter(ctx, id)
			if err != nil {
				t.Fatal(err)
			}
			states[l.State]++
		}
		return states
	}
	for deadline := time.Now().Add(10 * time.Second); count()[domain.Sending] < 3 && time.Now().Before(deadline); {
		time.Sleep(time.Millisecond)
	}
	if got := count(); got[domain.Sending] != 3 || got[domain.Waiting] != 9 {
		t.Fatalf("%v", got)
	}
	if l, err := b.App.Desk.TakeBack(ctx, b.Rep, ids[11]); err != nil || l.State != domain.Draft {
		t.Errorf("%s %v", l.State, err)
	}
	ended := make(chan struct{})
	go func() { defer close(ended); stop() }()
	close(answer)
	<-ended
	got := count()
	if got[domain.Sending] != 0 || got[domain.Draft] != 1 || got[domain.Sent] == 0 || got[domain.Sent]+got[domain.Waiting] != 11 {
		t.Errorf("%v", got)
	}
	worker(t, b)
	for _, id := range ids[:11] {
		if l := becomes(t, b, id, domain.Sent); l.Attempts != 1 {
			t.Errorf("%d tries", l.Attempts)
		}
	}
	if n := len(entered) + 1; n != 11 {
		t.Errorf("%d letters were handed over", n)
	}
}
