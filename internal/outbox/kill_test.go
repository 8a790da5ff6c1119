package outbox_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"os"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
	"lucidletter/internal/store"
	"lucidletter/internal/store/seal"
	"lucidletter/internal/testbed"
)

// TestMain lets this binary be the program that is killed.
func TestMain(m *testing.M) {
	if folder := os.Getenv("OUTBOX_FOLDER"); folder != "" {
		if err := sendUntilKilled(folder, os.Getenv("OUTBOX_SERVER")); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// clockSpeed is how much faster the clock runs on which plans are killed: an hour takes less
// than a second.
const clockSpeed = 5000

// clock gives the clock of the program that is killed: that of the machine, or for plans a
// faster one.
func clock() func() time.Time {
	begun, err := time.Parse(time.RFC3339, os.Getenv("OUTBOX_CLOCK"))
	if err != nil {
		return time.Now
	}
	real := time.Now()
	return func() time.Time { return begun.Add(time.Since(real) * clockSpeed) }
}

// sendUntilKilled runs the outbox on a data folder until nothing is left to send.
func sendUntilKilled(folder, server string) error {
	ctx, done := context.WithCancel(context.Background())
	defer done()
	s, err := store.Open(ctx, folder)
	if err != nil {
		return err
	}
	sealer, err := seal.Open(folder)
	if err != nil {
		return err
	}
	journal, err := store.OpenJournal(folder)
	if err != nil {
		return err
	}
	var ids atomic.Int64
	now := clock()
	a := app.New(app.Ports{
		Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: now, Sealer: sealer, Journal: journal, PublicURL: "http://letters.fernhollow.example",
		NewID:     func() string { return fmt.Sprintf("id%dx%dx%d", os.Getpid(), time.Now().UnixNano(), ids.Add(1)) },
		Transport: &mail.Transport{Addr: server, Local: "lucidletter.example"},
	})
	go func() {
		for ctx.Err() == nil {
			if hold, err := s.OutboxHold(ctx); err == nil && hold.Why != "" { // nothing was put back
				fmt.Fprintln(os.Stderr, "on hold:", hold.Why)
				os.Exit(1)
			}
			busy, err := s.Busy(ctx, now().UTC())
			going, wrong := s.RoundsIn(ctx, domain.RoundSending)
			_, stepping, failed := s.Runs(ctx, domain.RunsQuery{States: []domain.RunState{domain.RunGoing}})
			if err == nil && wrong == nil && failed == nil && !busy && len(going) == 0 && stepping == 0 {
				done()
			}
			time.Sleep(5 * time.Millisecond)
		}
	}()
	var rounds sync.WaitGroup
	rounds.Go(func() { a.Rounds.Run(ctx, func(err error) { fmt.Fprintln(os.Stderr, "rounds:", err) }) })
	rounds.Go(func() { a.Plans.Run(ctx, func(err error) { fmt.Fprintln(os.Stderr, "plans:", err) }) })
	defer rounds.Wait()
	outbox.New(a, slog.New(slog.NewTextHandler(io.Discard, nil))).Run(ctx)
	return s.Close()
}

// The program is killed at random moments while five hundred letters go out, twenty
// times over: in the end each is sent or unsure, none arrived twice, and what did not
// arrive is not said to be sent.
//
// KILL_SEEDS=20 does it for as many seeds; two without.
func TestWorker_killed(t *testing.T) {
	seeds := 2
	if n, err := strconv.Atoi(os.Getenv("KILL_SEEDS")); err == nil {
		seeds = n
	}
	for seed := range seeds {
		t.Run(fmt.Sprint("seed ", seed), func(t *testing.T) { killed(t, uint64(seed)) })
	}
}

func killed(t *testing.T, seed uint64) {
	const letters, kills = 500, 20
	post := testbed.New(t) // the other side, in this process
	folder := t.TempDir()
	s, err := store.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	b := testbed.On(t, s, folder)
	template := b.Template(t, "T", "For you", "Dear {{person.first_name}}")
	for i := range letters {
		email := fmt.Sprintf("p%d@quill.example", i)
		l := b.Letter(t, b.Person(t, fmt.Sprintf("P%d", i), "Quill", email), template)
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, email, desk.When{}); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(seed, 2))
	for range kills {
		runKilled(t, folder, post.Post.Addr(), time.Duration(60+r.IntN(140))*time.Millisecond)
	}
	runKilled(t, folder, post.Post.Addr(), 0)
	if s, err = store.Open(ctx, folder); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	states := map[domain.LetterState]int{}
	boxes := 0
	for id := int64(1); id <= letters; id++ {
		l, err := s.Letter(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		states[l.State]++
		list, err := post.Store.PostLetters(ctx, l.ToEmail, 9)
		if err != nil {
			t.Fatal(err)
		}
		boxes += len(list)
		if len(list) > 1 || l.State == domain.Sent && len(list) != 1 || l.State != domain.Sent && l.State != domain.Unsure {
			t.Errorf("letter %d is %s, and %d arrived", id, l.State, len(list))
		}
	}
	t.Logf("%d sent, %d unsure, %d arrived", states[domain.Sent], states[domain.Unsure], boxes)
	// At each kill no more are on the wire than there are connections.
	if most := kills * 4; states[domain.Unsure] > most {
		t.Errorf("%d are unsure, more than %d", states[domain.Unsure], most)
	}
}
