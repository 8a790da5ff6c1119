// Package testbed puts a real program together for tests: a SQLite file in the
// test's folder, the post office on a free port, a clock that the test sets.
package testbed

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/core/markup"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/domain"
	"lucidletter/internal/mail"
	"lucidletter/internal/postoffice"
	"lucidletter/internal/store"
	"lucidletter/internal/store/seal"
)

// Bed is a program with one representative and one team lead.
type Bed struct {
	App   *app.App
	Store *store.Store
	Post  *postoffice.Server
	Rep   domain.User
	Lead  domain.User

	mu     sync.Mutex
	now    time.Time
	ids    int
	failed []error
}

// Start is the time at which the clock of a bed begins.
var Start = time.Date(2026, 3, 2, 9, 30, 0, 0, time.UTC)

// emptyDatabase is the file of a database in its newest form, which takes a while to reach.
var emptyDatabase = sync.OnceValues(func() ([]byte, error) {
	folder, err := os.MkdirTemp("", "lucid-bed-")
	if err != nil {
		return nil, err
	}
	defer func() { _ = os.RemoveAll(folder) }() // the system clears it otherwise
	s, err := store.Open(context.Background(), folder)
	if err != nil {
		return nil, err
	}
	if err := s.Close(); err != nil {
		return nil, err
	}
	return os.ReadFile(filepath.Join(folder, store.FileName))
})

// New makes a bed that is taken down with the test.
func New(t testing.TB) *Bed {
	t.Helper()
	folder := t.TempDir()
	empty, err := emptyDatabase()
	if err == nil {
		err = os.WriteFile(filepath.Join(folder, store.FileName), empty, 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(context.Background(), folder)
	if err != nil {
		t.Fatal(err)
	}
	b := On(t, s, folder)
	if b.Post, err = postoffice.Listen("127.0.0.1:0", b.App, postoffice.Options{Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}}); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := b.Post.Close(); err != nil {
			t.Error(err)
		}
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	})
	b.Send(b.Post.Addr())
	return b
}

// On makes a bed on a store that the test closes, without a post office.
func On(t testing.TB, s *store.Store, folder string) *Bed {
	t.Helper()
	ctx := context.Background()
	sealer, err := seal.Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	journal, err := store.OpenJournal(folder)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := journal.Close(); err != nil {
			t.Error(err)
		}
	})
	b := &Bed{Store: s, now: Start}
	b.App = app.New(app.Ports{Store: s, Composer: mail.Composer{}, Reader: mail.Reader{}, Now: b.Now, NewID: b.newID, PublicURL: "http://letters.fernhollow.example", Sealer: sealer, Journal: journal, Failed: b.fail})
	team, err := s.AddTeam(ctx, domain.Team{Name: "Fernhollow"})
	if err != nil {
		t.Fatal(err)
	}
	b.Rep = b.user(t, domain.User{Email: "imre@fernhollow.example", FirstName: "Imre", LastName: "Falk", Role: access.Representative, TeamID: &team, PasswordHash: "-"})
	b.Lead = b.user(t, domain.User{Email: "greta@fernhollow.example", FirstName: "Greta", LastName: "Holm", Role: access.TeamLead, PasswordHash: "-"})
	return b
}

func (b *Bed) user(t testing.TB, u domain.User) domain.User {
	t.Helper()
	var err error
	if u.ID, err = b.Store.AddUser(context.Background(), u); err != nil {
		t.Fatal(err)
	}
	return u
}

// Now is the bed's clock.
func (b *Bed) Now() time.Time {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.now
}

// Pass moves the clock on.
func (b *Bed) Pass(d time.Duration) {
	b.mu.Lock()
	b.now = b.now.Add(d)
	b.mu.Unlock()
}

func (b *Bed) fail(err error) {
	b.mu.Lock()
	b.failed = append(b.failed, err)
	b.mu.Unlock()
}

// Failed gives what was set aside since it was last asked for.
func (b *Bed) Failed() []error {
	b.mu.Lock()
	defer b.mu.Unlock()
	out := b.failed
	b.failed = nil
	return out
}

func (b *Bed) newID() string {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.ids++
	return fmt.Sprintf("id%d", b.ids)
}

// Send makes letters go to a mail server at addr.
func (b *Bed) Send(addr string) {
	b.App.Connect(func(p *app.Ports) { p.Transport = &mail.Transport{Addr: addr, Local: "lucidletter.example"} })
}

// Deliver sends one letter that waits, if nobody else has taken it.
func (b *Bed) Deliver(ctx context.Context, id int64) error {
	list, err := b.App.Outbound.Claim(ctx, []int64{id})
	for _, h := range list {
		ended, failed := b.App.Outbound.HandOver(ctx, h)
		err = errors.Join(err, failed, b.App.Outbound.Settle(ctx, []outbound.Ended{ended}))
	}
	return err
}

// Person adds a lead with a name and an address.
func (b *Bed) Person(t testing.TB, first, last, email string) int64 {
	t.Helper()
	id, err := b.Store.AddPerson(context.Background(), domain.Person{
		Kind: field.Lead, FirstName: first, LastName: last, Email: email, LeadStatus: "new", OwnerID: &b.Rep.ID, CreatedAt: b.Now(), UpdatedAt: b.Now(),
	})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// Template adds a ready template in the text form.
func (b *Bed) Template(t testing.TB, name, subject, body string) int64 {
	t.Helper()
	return b.template(t, name, subject, markup.Parse(body))
}

// Formatted adds a ready formatted template in its markup.
func (b *Bed) Formatted(t testing.TB, name, text string) int64 {
	t.Helper()
	body, err := markup.ParseMarkup(text)
	if err != nil {
		t.Fatal(err)
	}
	return b.template(t, name, "Hello", body)
}

func (b *Bed) template(t testing.TB, name, subject string, body document.Document) int64 {
	t.Helper()
	id, err := b.Store.AddTemplate(context.Background(), domain.Template{
		Name: name, Subject: markup.Parse(subject), Body: body, State: domain.TemplateReady, Version: 1,
		OwnerID: b.Lead.ID, CreatedAt: b.Now(), UpdatedAt: b.Now(), UpdatedBy: b.Lead.ID,
	})
	if err != nil {
		t.Fatal(err)
	}
	return id
}

// History gives what happened with a person, the newest first.
func (b *Bed) History(ctx context.Context, person int64, limit, offset int) ([]domain.Entry, error) {
	return b.Store.History(ctx, domain.HistoryQuery{PersonID: person, Limit: limit, Offset: offset})
}

// Letter starts a letter of the representative.
func (b *Bed) Letter(t testing.TB, person, template int64) desk.LetterSheet {
	t.Helper()
	l, err := b.App.Desk.StartLetter(context.Background(), b.Rep, person, &template, nil)
	if err != nil {
		t.Fatal(err)
	}
	return l
}
