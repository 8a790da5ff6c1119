package outbox_test

import (
	"context"
	"io"
	"log/slog"
	"net"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/outbox"
	"lucidletter/internal/testbed"
)

var ctx = context.Background()

// worker runs the outbox of a bed until the test ends or stop is called.
func worker(t *testing.T, b *testbed.Bed) (stop func()) {
	t.Helper()
	w := outbox.New(b.App, slog.New(slog.NewTextHandler(io.Discard, nil)))
	run, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() { defer close(done); w.Run(run) }()
	stop = func() { cancel(); <-done }
	t.Cleanup(stop)
	return stop
}

// becomes waits until a letter is in a state.
func becomes(t *testing.T, b *testbed.Bed, id int64, want domain.LetterState) domain.Letter {
	t.Helper()
	var l domain.Letter
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(2 * time.Millisecond) {
		var err error
		if l, err = b.Store.Letter(ctx, id); err != nil {
			t.Fatal(err)
		}
		if l.State == want && (want != domain.Waiting || l.Attempts > 0) {
			return l
		}
	}
	t.Fatalf("letter %d is %s (%s), want %s", id, l.State, l.Reason, want)
	return l
}

func sent(t *testing.T, b *testbed.Bed, name string) int64 {
	t.Helper()
	l := b.Letter(t, b.Person(t, name, "Quill", strings.ToLower(name)+"@quill.example"), b.Template(t, "T"+name, "For you", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	return l.ID
}

func TestWorker_wokenBySending(t *testing.T) {
	b := testbed.New(t)
	worker(t, b)
	first := sent(t, b, "Ada")
	if l := becomes(t, b, first, domain.Sent); l.SentAt == nil || l.MessageID == "" || l.Attempts != 1 {
		t.Errorf("%+v", l)
	}
	becomes(t, b, sent(t, b, "Bo"), domain.Sent)
	if list, err := b.Store.PostLetters(ctx, "ada@quill.example", 9); err != nil || len(list) != 1 {
		t.Errorf("%d letters arrived, %v", len(list), err)
	}
}

// A letter that could not be handed over waits for its time, and goes once when
// that has come.
func TestWorker_waitsForItsTime(t *testing.T) {
	b := testbed.New(t)
	closed, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	addr := closed.Addr().String()
	if err := closed.Close(); err != nil {
		t.Fatal(err)
	}
	b.Send(addr)
	stop := worker(t, b)
	id := sent(t, b, "Ada")
	l := becomes(t, b, id, domain.Waiting)
	if l.DueAt == nil || !l.DueAt.After(b.Now()) || !strings.Contains(l.Reason, "not reached") {
		t.Fatalf("%+v", l)
	}
	b.Send(b.Post.Addr())
	if ids, next, err := b.Store.Due(ctx, b.Now(), 9); err != nil || len(ids) != 0 || next == nil || !next.Equal(*l.DueAt) {
		t.Errorf("due already: %v %v %v", ids, next, err)
	}
	b.Pass(l.DueAt.Sub(b.Now()))
	b.App.Wake()
	becomes(t, b, id, domain.Sent)
	stop()
	if list, err := b.Store.PostLetters(ctx, "ada@quill.example", 9); err != nil || len(list) != 1 {
		t.Errorf("%d letters arrived, %v", len(list), err)
	}
}

// Nothing is sent after the worker ended, and another one goes on.
func TestWorker_stopsAndGoesOn(t *testing.T) {
	b := testbed.New(t)
	stop := worker(t, b)
	stop()
	id := sent(t, b, "Ada")
	if l, err := b.Store.Letter(ctx, id); err != nil || l.State != domain.Waiting || l.Attempts != 0 {
		t.Fatalf("%+v, %v", l, err)
	}
	worker(t, b)
	becomes(t, b, id, domain.Sent)
}

// At the start what a crash left is settled: handed over, it is unsure and stays.
func TestWorker_recoversFirst(t *testing.T) {
	b := testbed.New(t)
	safe, unsure := sent(t, b, "Ada"), sent(t, b, "Bo")
	now := b.Now()
	for id, handed := range map[int64]*time.Time{safe: nil, unsure: &now} {
		if moved, err := b.Store.Move(ctx, id, domain.Waiting, domain.Change{To: domain.Sending, At: now, HandedOver: handed}); err != nil || !moved {
			t.Fatal(moved, err)
		}
	}
	worker(t, b)
	becomes(t, b, safe, domain.Sent)
	becomes(t, b, unsure, domain.Unsure)
	if list, err := b.Store.PostLetters(ctx, "bo@quill.example", 9); err != nil || len(list) != 0 {
		t.Errorf("an unsure letter was sent again: %v, %v", list, err)
	}
}

// sendFunc is a server that takes everything.
type sendFunc func(domain.Account)

func (f sendFunc) Send(_ context.Context, by domain.Account, _ string, _ []string, _ []byte) (string, error) {
	f(by)
	return "250 ok", nil
}
