package outbox_test

import (
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/domain"
	"lucidletter/internal/outbox"
	"lucidletter/internal/store"
	"lucidletter/internal/testbed"
)

// counted takes letters and counts them; each takes some time.
type counted struct {
	n    atomic.Int64
	took time.Duration
	in   chan struct{} // told when one is being handed over
}

func (c *counted) Send(ctx context.Context, _ domain.Account, _ string, _ []string, _ []byte) (string, error) {
	select {
	case c.in <- struct{}{}:
	default:
	}
	select {
	case <-time.After(c.took):
	case <-ctx.Done():
		return "", ctx.Err()
	}
	c.n.Add(1)
	return "250 ok", nil
}

// A program that is asked to end lets the letters in hand go their way: none is unsure.
func TestWorker_endsAfterTheLetterInHand(t *testing.T) {
	b := testbed.New(t)
	server := &counted{took: 300 * time.Millisecond, in: make(chan struct{})}
	b.App.Connect(func(p *app.Ports) { p.Transport = server })
	ids := []int64{sent(t, b, "Ada"), sent(t, b, "Bo"), sent(t, b, "Cy")}
	b.Pass(time.Minute)
	stop := worker(t, b)
	<-server.in
	stop()
	for _, id := range ids {
		if l, err := b.Store.Letter(ctx, id); err != nil || l.State != domain.Sent && l.State != domain.Waiting {
			t.Errorf("%s %q, %v", l.State, l.Reason, err)
		}
	}
	if server.n.Load() == 0 {
		t.Error("the letter in hand did not go")
	}
}

// An older database beside the journal sends nothing again by itself: it says what it
// found, and goes on when somebody says so. One without its journal is a copy.
func TestWorker_olderDatabase(t *testing.T) {
	ctx := context.Background()
	folder := t.TempDir()
	path, older := filepath.Join(folder, store.FileName), filepath.Join(t.TempDir(), "older.db")
	s, err := store.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	b := testbed.On(t, s, folder)
	server := &counted{in: make(chan struct{})}
	b.App.Connect(func(p *app.Ports) { p.Transport = server })
	first := sent(t, b, "Zoe")
	b.Pass(time.Minute)
	stop := worker(t, b)
	becomes(t, b, first, domain.Sent)
	stop()
	for _, name := range []string{"Ada", "Bo", "Cy"} {
		sent(t, b, name)
	}
	if _, err := s.DB().Exec(`VACUUM INTO ?`, older); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	stop = worker(t, b)
	for server.n.Load() < 4 {
		time.Sleep(time.Millisecond)
	}
	stop()
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	bytes, err := os.ReadFile(older)
	if err != nil {
		t.Fatal(err)
	}
	begin := func(a *app.App) (stop func()) {
		running, cancel := context.WithCancel(ctx)
		done := make(chan struct{})
		w := outbox.New(a, slog.New(slog.DiscardHandler))
		go func() { w.Run(running); close(done) }()
		return func() { cancel(); <-done }
	}
	for _, row := range []struct{ name, found string }{{"beside the newer journal", "3 attempts"}, {"without it", "copied from elsewhere"}} {
		for _, name := range []string{path, path + "-wal", path + "-shm"} {
			_ = os.Remove(name) // some are not there
		}
		if err := os.WriteFile(path, bytes, 0o600); err != nil {
			t.Fatal(err)
		}
		if row.name == "without it" {
			if err := os.Remove(filepath.Join(folder, store.JournalName)); err != nil {
				t.Fatal(err)
			}
		}
		s, err := store.Open(ctx, folder)
		if err != nil {
			t.Fatal(err)
		}
		journal, err := store.OpenJournal(folder)
		if err != nil {
			t.Fatal(err)
		}
		a := b.App.With(func(p *app.Ports) { p.Store, p.Journal = s, journal })
		before := server.n.Load()
		if err := a.Outbound.Recover(ctx); err != nil {
			t.Fatal(err)
		}
		stop := begin(a)
		hold, err := a.Outbound.OutboxHold(ctx)
		if err != nil || !strings.Contains(hold.Why, row.found) {
			t.Errorf("%s: %q, %v", row.name, hold.Why, err)
		}
		a.Wake()
		stop()
		if server.n.Load() != before {
			t.Errorf("%s: %d were sent again", row.name, server.n.Load()-before)
		}
		if err := a.Outbound.SendAgain(ctx, b.Rep); err == nil {
			t.Errorf("%s: a representative lets everything go", row.name)
		}
		if err := a.Outbound.SendAgain(ctx, b.Lead); err != nil {
			t.Fatal(err)
		}
		stop = begin(a)
		for server.n.Load() < before+3 {
			time.Sleep(time.Millisecond)
		}
		stop()
		if err := a.Outbound.Recover(ctx); err != nil {
			t.Fatal(err)
		}
		if hold, err := a.Outbound.OutboxHold(ctx); err != nil || hold.Why != "" {
			t.Errorf("%s: on hold again: %q, %v", row.name, hold.Why, err)
		}
		for _, err := range []error{journal.Close(), s.Close()} {
			if err != nil {
				t.Error(err)
			}
		}
	}
}
