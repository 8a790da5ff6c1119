package app_test

import (
	"context"
	"io"
	"log/slog"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/outbox"
	"lucidletter/internal/testbed"
)

func TestRecover_settlesWhatACrashLeft(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For you", body)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	now := b.Now()
	for _, handedOver := range []bool{false, true} {
		l := b.Letter(t, ada, hello)
		for _, c := range []domain.Change{{To: domain.Waiting, Due: &now, At: now}, {To: domain.Sending, At: now}} {
			from := map[domain.LetterState]domain.LetterState{domain.Waiting: domain.Draft, domain.Sending: domain.Waiting}[c.To]
			if ok, err := b.Store.Move(ctx, l.ID, from, c); !ok || err != nil {
				t.Fatal(ok, err)
			}
		}
		if handedOver {
			if ok, err := b.Store.Move(ctx, l.ID, domain.Sending, domain.Change{To: domain.Sending, HandedOver: &now, At: now}); !ok || err != nil {
				t.Fatal(ok, err)
			}
		}
		if err := b.App.Outbound.Recover(ctx); err != nil {
			t.Fatal(err)
		}
		want := domain.Waiting
		if handedOver {
			want = domain.Unsure
		}
		if l, _ := b.App.Desk.Letter(ctx, b.Rep, l.ID); l.State != want {
			t.Errorf("handed over %v: %s", handedOver, l.State)
		}
	}
}

func TestOutbox_sendsWhatIsDue(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For you", body)
	worker := outbox.New(b.App, slog.New(slog.NewTextHandler(io.Discard, nil)))
	run, stop := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() { defer close(done); worker.Run(run) }()
	var ids []int64
	for _, name := range []string{"Ada", "Bo", "Cy"} {
		l := b.Letter(t, b.Person(t, name, "Quill", strings.ToLower(name)+"@quill.example"), hello)
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
			t.Fatal(err)
		}
		ids = append(ids, l.ID)
	}
	deadline := time.Now().Add(20 * time.Second)
	for sent := 0; sent < len(ids) && time.Now().Before(deadline); {
		sent = 0
		for _, id := range ids {
			if l, err := b.Store.Letter(ctx, id); err == nil && l.State == domain.Sent {
				sent++
			}
		}
	}
	stop()
	<-done
	if boxes, err := b.App.Postbox.Mailboxes(ctx, "quill"); err != nil || len(boxes) != 3 {
		t.Errorf("%+v, %v", boxes, err)
	}
}
