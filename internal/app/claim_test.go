package app_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// queued are letters that wait, to people of their own.
func queued(t *testing.T, b *testbed.Bed, names ...string) (ids []int64) {
	t.Helper()
	hello := b.Template(t, "Hello", "For you", "Dear {{person.first_name}}")
	for _, name := range names {
		l := b.Letter(t, b.Person(t, name, "Quill", strings.ToLower(name)+"@quill.example"), hello)
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
			t.Fatal(err)
		}
		ids = append(ids, l.ID)
	}
	return ids
}

func taken(t *testing.T, b *testbed.Bed, ids ...int64) []outbound.Claimed {
	t.Helper()
	list, err := b.App.Outbound.Claim(ctx, ids)
	if err != nil {
		t.Fatal(err)
	}
	return list
}

func inState(t *testing.T, b *testbed.Bed, id int64, want domain.LetterState) domain.Letter {
	t.Helper()
	l, err := b.Store.Letter(ctx, id)
	if err != nil || l.State != want {
		t.Errorf("letter %d is %s (%s), want %s; %v", id, l.State, l.Reason, want, err)
	}
	return l
}

// A crash leaves letters in hand: of those that were not handed over nothing is said, of
// one whose answer came that, and of one without an answer that nobody knows.
func TestRecover_byTheJournal(t *testing.T) {
	b := testbed.New(t)
	ids := queued(t, b, "Ada", "Bo", "Cy")
	list := taken(t, b, ids...)
	if len(list) != 3 {
		t.Fatalf("%d in hand", len(list))
	}
	waits := queued(t, b, "Di")[0]
	old := inState(t, b, waits, domain.Waiting)
	if ok, err := b.Store.ClaimLetter(ctx, waits, domain.Claim{Version: old.Version - 1, At: b.Now(), Lease: b.Now()}); ok || err != nil {
		t.Errorf("another wording than was composed was taken: %t %v", ok, err)
	}
	if again := taken(t, b, ids...); len(again) != 0 {
		t.Errorf("%d were taken twice", len(again))
	}
	c := &counting{}
	b.App.Connect(func(p *app.Ports) { p.Transport = c })
	if _, err := b.App.Outbound.HandOver(ctx, list[0]); err != nil { // and then the program is killed
		t.Fatal(err)
	}
	b.App.Connect(func(p *app.Ports) { p.Transport = crash{} })
	func() {
		defer func() { _ = recover() }()
		_, _ = b.App.Outbound.HandOver(ctx, list[1])
	}()
	if err := b.App.Outbound.Recover(ctx); err != nil {
		t.Fatal(err)
	}
	if l := inState(t, b, ids[0], domain.Sent); l.Attempts != 1 || l.SentAt == nil || l.Reason != "250 ok" {
		t.Errorf("%+v", l)
	}
	if l := inState(t, b, ids[1], domain.Unsure); l.Attempts != 1 || l.HandedOverAt == nil {
		t.Errorf("%+v", l)
	}
	if l := inState(t, b, ids[2], domain.Waiting); l.Attempts != 0 {
		t.Errorf("%+v", l)
	}
	b.App.Connect(func(p *app.Ports) { p.Transport = c })
	if err := b.Deliver(ctx, ids[2]); err != nil || len(c.by) != 2 {
		t.Errorf("%d went, %v", len(c.by), err)
	}
	// What an earlier try left in the journal says nothing of a later one.
	if _, err := b.App.Desk.Retry(ctx, b.Rep, ids[1]); err != nil {
		t.Fatal(err)
	}
	taken(t, b, ids[1])
	if err := b.App.Outbound.Recover(ctx); err != nil {
		t.Fatal(err)
	}
	inState(t, b, ids[1], domain.Waiting)
}

// crash is a program that ends while the server is spoken to.
type crash struct{}

func (crash) Send(context.Context, domain.Account, string, []string, []byte) (string, error) {
	panic("killed")
}

// An opt-out that comes while a letter is in hand still keeps it from going.
func TestHandOver_looksAgain(t *testing.T) {
	b := testbed.New(t)
	ids := queued(t, b, "Ada")
	list := taken(t, b, ids...)
	l := inState(t, b, ids[0], domain.Sending)
	if err := b.App.Inbox.OptOutBy(ctx, l.Token); err != nil {
		t.Fatal(err)
	}
	b.Pass(2 * time.Second)
	e, err := b.App.Outbound.HandOver(ctx, list[0])
	if err != nil {
		t.Fatal(err)
	}
	if err := b.App.Outbound.Settle(ctx, []outbound.Ended{e}); err != nil {
		t.Fatal(err)
	}
	if l := inState(t, b, ids[0], domain.Refused); l.Attempts != 0 || !strings.Contains(l.Reason, "unsubscribed") {
		t.Errorf("%+v", l)
	}
	if list, err := b.Store.PostLetters(ctx, l.ToEmail, 9); err != nil || len(list) != 0 {
		t.Errorf("%d arrived, %v", len(list), err)
	}
}

// A letter in hand waits again when the program is to stop, and when nothing can be noted.
func TestHandOver_putsBack(t *testing.T) {
	b := testbed.New(t)
	ids := queued(t, b, "Ada", "Bo")
	list := taken(t, b, ids...)
	c := &counting{}
	b.App.Connect(func(p *app.Ports) { p.Transport = c })
	stopped, stop := context.WithCancel(ctx)
	stop()
	first, err := b.App.Outbound.HandOver(stopped, list[0])
	if err != nil {
		t.Fatal(err)
	}
	b.App.Connect(func(p *app.Ports) { p.Journal = full{Journal: p.Journal} })
	second, err := b.App.Outbound.HandOver(ctx, list[1])
	if !errors.Is(err, errFull) {
		t.Errorf("%v", err)
	}
	if err := b.App.Outbound.Settle(ctx, []outbound.Ended{first, second}); err != nil {
		t.Fatal(err)
	}
	for _, id := range ids {
		if l := inState(t, b, id, domain.Waiting); l.Attempts != 0 {
			t.Errorf("%+v", l)
		}
	}
	if len(c.by) != 0 {
		t.Errorf("%d went", len(c.by))
	}
}

var errFull = errors.New("no room on the disk")

// full is a journal on a full disk.
type full struct{ outbound.Journal }

func (full) Begin(string, time.Time) error { return errFull }

// One letter that cannot be read keeps no other back, and the limit of a day holds among
// those that are taken together.
func TestClaim_together(t *testing.T) {
	b := testbed.New(t)
	if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, server("mail.fernhollow.example")); err != nil { // two a day
		t.Fatal(err)
	}
	ids := queued(t, b, "Ada", "Bo", "Cy", "Di")
	if _, err := b.Store.DB().Exec(`UPDATE letters SET body = '{' WHERE id = ?`, ids[0]); err != nil {
		t.Fatal(err)
	}
	list, err := b.App.Outbound.Claim(ctx, append(ids, 999))
	if err != nil {
		t.Errorf("%v", err)
	}
	if told := errors.Join(b.Failed()...); told == nil || !strings.Contains(told.Error(), fmt.Sprintf("letter %d", ids[0])) || !errors.Is(told, domain.ErrNotFound) {
		t.Errorf("told: %v", told)
	}
	if due, _, err := b.App.Outbound.Due(ctx, b.Now(), 10); err != nil || slices.ContainsFunc(due, func(l domain.DueLetter) bool { return l.ID == ids[0] }) {
		t.Errorf("the letter that cannot be read is due again at once: %v, %v", due, err)
	}
	if len(list) != 2 || list[0].ID() != ids[1] || list[1].ID() != ids[2] {
		t.Fatalf("%d in hand", len(list))
	}
	var state string
	if err := b.Store.DB().QueryRow(`SELECT state FROM letters WHERE id = ?`, ids[0]).Scan(&state); err != nil || state != "waiting" {
		t.Errorf("%s %v", state, err)
	}
	if l := inState(t, b, ids[3], domain.Waiting); !strings.Contains(l.Reason, "2 letters a day") || !l.DueAt.After(b.Now()) {
		t.Errorf("%+v", l)
	}
}
