package postoffice_test

import (
	"io"
	"log/slog"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/postbox"
	"lucidletter/internal/domain"
	"lucidletter/internal/httpapi"
	"lucidletter/internal/mail"
	"lucidletter/internal/outbox"
	"lucidletter/internal/postoffice"
	"lucidletter/internal/testbed"
)

// world is a program with everything around it: door, outbox, pages, and a post
// office whose clock can be moved on.
func world(t *testing.T) *testbed.Bed {
	t.Helper()
	b := testbed.New(t)
	log := slog.New(slog.NewTextHandler(io.Discard, nil))
	clock := &postoffice.Clock{}
	b.App.Connect(func(p *app.Ports) { p.Now = clock.Now })
	pages := httptest.NewServer(httpapi.New(b.App, nil, nil, log))
	t.Cleanup(pages.Close)
	b.App.Connect(func(p *app.Ports) { p.PublicURL, p.ReturnTo = pages.URL, "back@fernhollow.example" })
	door, err := mail.OpenInbound("127.0.0.1:0", false, b.App, log)
	if err != nil {
		t.Fatal(err)
	}
	post, err := postoffice.Listen("127.0.0.1:0", b.App, postoffice.Options{Store: b.Store, Composer: mail.Composer{}, Reader: mail.Reader{}, Door: door.Addr(), Clock: clock, Log: log})
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
	b.App.Connect(func(p *app.Ports) { p.World = post })
	b.Send(post.Addr())
	worker := outbox.New(b.App, log)
	run, stop := t.Context(), make(chan struct{})
	go func() { defer close(stop); worker.Run(run) }()
	t.Cleanup(func() { <-stop })
	return b
}

// Every character acts through the real channels, and what it does is told as it is.
func TestCharacters(t *testing.T) {
	b := world(t)
	for _, row := range []struct {
		character string
		skip      time.Duration
		state     domain.LetterState
		check     func(domain.Back) bool
	}{
		{"quiet", 90 * 24 * time.Hour, domain.Sent, func(b domain.Back) bool { return !b.Opened && b.Measured }},
		{"prompt", time.Hour, domain.Sent, func(b domain.Back) bool { return b.Opens == 1 && b.Clicks == 1 && b.Replies == 0 }},
		{"slow", time.Hour, domain.Sent, func(b domain.Back) bool { return !b.Opened }},
		{"slow", 120 * time.Hour, domain.Sent, func(b domain.Back) bool { return b.Opens == 1 && b.Replies == 1 }},
		{"never", 240 * time.Hour, domain.Sent, func(b domain.Back) bool { return !b.Opened }},
		{"yes", 3 * time.Hour, domain.Sent, func(b domain.Back) bool { return b.Opens == 1 && b.Replies == 1 }},
		{"no", 3 * time.Hour, domain.Sent, func(b domain.Back) bool { return b.Replies == 1 }},
		{"asks", 3 * time.Hour, domain.Sent, func(b domain.Back) bool { return b.Replies == 1 }},
		{"away", time.Hour, domain.Sent, func(b domain.Back) bool { return b.Away && !b.Opened && b.Replies == 0 }},
		{"full", time.Hour, domain.Waiting, nil},
		{"full", 49 * time.Hour, domain.Refused, nil},
		{"unknown", time.Minute, domain.Refused, nil},
		{"returns", time.Hour, domain.Sent, func(b domain.Back) bool { return b.Bounced && !b.Opened }},
		{"greylist", 10 * time.Minute, domain.Sent, func(b domain.Back) bool { return !b.Opened }},
		{"proxy", time.Hour, domain.Sent, func(b domain.Back) bool { return b.MachineOpens == 1 && !b.Opened }},
		{"scanner", time.Hour, domain.Sent, func(b domain.Back) bool { return b.Clicks == 0 && b.MachineClicks == 2 && !b.Opened }},
		{"opts-out", time.Hour, domain.Sent, func(b domain.Back) bool { return b.OptedOut }},
		{"complains", time.Hour, domain.Sent, func(b domain.Back) bool { return b.Complained && b.OptedOut }},
	} {
		t.Run(row.character, func(t *testing.T) {
			email := strings.ToLower(row.character) + row.skip.String() + "@quill.example"
			person := b.Person(t, "Ada", row.character, email)
			if err := b.App.Postbox.SetCharacter(ctx, email, row.character); err != nil {
				t.Fatal(err)
			}
			l := b.Letter(t, person, b.Formatted(t, "T", `<p>See <a href="https://x.example">this</a> and <a href="https://y.example">that</a></p>`))
			if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
				t.Fatal(err)
			}
			for left := row.skip; left > 0; left -= postbox.MaxSkip {
				if _, err := b.App.Postbox.SkipTime(ctx, min(left, postbox.MaxSkip)); err != nil {
					t.Fatal(err)
				}
			}
			after, err := b.Store.Letter(ctx, l.ID)
			if err != nil || after.State != row.state {
				t.Fatalf("%s %q %v", after.State, after.Reason, err)
			}
			bad, err := b.Store.Suppressions(ctx, field.EmailKey(email))
			if marked := bad[field.EmailKey(email)].Bad != nil; err != nil || marked != (row.character == "unknown" || row.character == "returns") {
				t.Errorf("marked %t: %+v %v", marked, bad, err)
			}
			if row.check == nil {
				return
			}
			list, err := b.Store.PostLetters(ctx, email, 9)
			if err != nil || len(list) != 1 {
				t.Fatalf("%d arrived, %v", len(list), err)
			}
			sheet, err := b.App.Postbox.PostLetter(ctx, list[0].ID)
			for _, e := range sheet.Errands {
				if err != nil || e.DoneAt != nil && e.Outcome != "done" {
					t.Errorf("%s: %s %v", e.Kind, e.Outcome, err)
				}
			}
			back, err := b.App.Desk.BackOf(ctx, b.Rep, l.ID)
			if err != nil || !row.check(back) {
				t.Errorf("%+v %v", back, err)
			}
		})
	}
}

// The same seed draws the same characters, each of them for somebody; without a seed
// everybody is quiet.
func TestCharacterOf(t *testing.T) {
	b := testbed.New(t)
	seen := map[string]int{}
	for _, seed := range []uint64{0, 7} {
		one, err := postoffice.Listen("127.0.0.1:0", b.App, postoffice.Options{Store: b.Store, Composer: mail.Composer{}, Reader: mail.Reader{}, Seed: seed})
		if err != nil {
			t.Fatal(err)
		}
		for i := range 2000 {
			mailbox := strings.Repeat("a", i%50) + string(rune('a'+i%26)) + "@" + strings.Repeat("b", i/50) + ".example"
			c, err := one.CharacterOf(ctx, mailbox)
			again, _ := one.CharacterOf(ctx, mailbox)
			if err != nil || c != again || seed == 0 && c.Key != "quiet" {
				t.Fatalf("%s: %+v %+v %v", mailbox, c, again, err)
			}
			seen[c.Key]++
		}
		if err := one.Close(); err != nil {
			t.Fatal(err)
		}
	}
	for _, c := range b.Post.Characters() {
		if seen[c.Key] == 0 {
			t.Errorf("nobody is %s: %v", c.Key, seen)
		}
	}
}
