package app_test

import (
	"errors"
	"strings"
	"testing"

	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func headersOf(t *testing.T, b *testbed.Bed, id int64) string {
	t.Helper()
	raw, err := b.App.Desk.Source(ctx, b.Rep, id)
	if err != nil {
		t.Fatal(err)
	}
	head, _, _ := strings.Cut(string(raw), "\r\n\r\n")
	return strings.ReplaceAll(head, "\r\n ", " ")
}

func TestOptOut(t *testing.T) {
	b := testbed.New(t)
	b.App.Connect(func(p *app.Ports) { p.PublicURL = "https://letters.fernhollow.example" })
	hello := b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},")
	ada, twin := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Ada", "Quill-Rye", "Ada@quill.example")
	l := b.Letter(t, ada, hello)
	// One waits in the outbox, to another record with the address.
	later := b.Letter(t, twin, hello)
	if _, err := b.App.Desk.Send(ctx, b.Rep, later.ID, later.Version, "Ada@quill.example", desk.When{Local: "2026-03-05T09:00"}); err != nil {
		t.Fatal(err)
	}
	gone(t, b, l, desk.When{})
	stored, err := b.Store.Letter(ctx, l.ID)
	if err != nil || stored.Token == "" {
		t.Fatalf("%q %v", stored.Token, err)
	}
	head := headersOf(t, b, l.ID)
	for _, want := range []string{"List-Unsubscribe: <https://letters.fernhollow.example/out/" + stored.Token + ">", "List-Unsubscribe-Post: List-Unsubscribe=One-Click"} {
		if !strings.Contains(head, want) {
			t.Errorf("%q is not in %s", want, head)
		}
	}
	page, err := b.App.Inbox.OptOutPage(ctx, stored.Token)
	if err != nil || page.Email != "ada@quill.example" || page.Sender != "Imre Falk" || page.Out {
		t.Fatalf("%+v %v", page, err)
	}
	for range 2 { // pressed twice
		if err := b.App.Inbox.OptOutBy(ctx, stored.Token); err != nil {
			t.Fatal(err)
		}
	}
	for _, id := range []int64{ada, twin} {
		history, err := b.History(ctx, id, 10, 0)
		n := 0
		for _, e := range history {
			if e.Kind == domain.EntryOptedOut {
				n++
			}
		}
		if err != nil || n != 1 {
			t.Errorf("noted %d times: %v", n, err)
		}
	}
	if err := b.Deliver(ctx, later.ID); err != nil {
		t.Fatal(err)
	}
	if after, err := b.Store.Letter(ctx, later.ID); err != nil || after.State != domain.Refused {
		t.Errorf("what waited is %s: %v", after.State, err)
	}
	// Somebody who comes in later with the address may not be written to either.
	third := b.Letter(t, b.Person(t, "Addie", "Quill", "ADA@quill.example"), hello)
	if len(third.Stops) != 1 || third.Stops[0].Code != "optedout" {
		t.Errorf("stops %v", third.Stops)
	}
	list, err := b.App.Inbox.OptOuts(ctx, "quill")
	if err != nil || len(list) != 1 || list[0].Reason != "by the letter “Hi”" || list[0].By != "" {
		t.Errorf("%+v %v", list, err)
	}
	if _, err := b.App.Inbox.OptOutPage(ctx, ""); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("no token: %v", err)
	}
}

// An address to opt out at stands only in letters of one reader, and asks mail
// programs to do it by themselves only over HTTPS (RFC 8058 section 3.1).
func TestOptOut_headers(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "Hi", "Dear {{person.first_name}},")
	alone := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), hello)
	gone(t, b, alone, desk.When{})
	if head := headersOf(t, b, alone.ID); !strings.Contains(head, "List-Unsubscribe: <http://") || strings.Contains(head, "List-Unsubscribe-Post") {
		t.Errorf("%s", head)
	}
	copied := b.Letter(t, b.Person(t, "Bo", "Rye", "bo@rye.example"), hello)
	copied, err := b.App.Desk.SetEnvelope(ctx, b.Rep, copied.ID, wordingOf(copied), desk.Envelope{Bcc: []domain.Address{{Email: "cy@wye.example"}}})
	if err != nil {
		t.Fatal(err)
	}
	gone(t, b, copied, desk.When{})
	if head := headersOf(t, b, copied.ID); strings.Contains(head, "List-Unsubscribe") {
		t.Errorf("%s", head)
	}
}

func TestAddOptOuts(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	n, rest, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, "Ada Quill <ada@quill.example>\nbo@rye.example; nobody", "asked by telephone")
	if err != nil || n != 2 || len(rest) != 1 || rest[0] != "nobody" {
		t.Fatalf("%d %v %v", n, rest, err)
	}
	if p, err := b.Store.Person(ctx, ada); err != nil || p.OptedOutAt == nil {
		t.Errorf("not on the record: %v", err)
	}
	var bad *domain.InvalidError
	for name, c := range map[string][2]string{"no reason": {"cy@wye.example", " "}, "no address": {"nobody", "asked"}} {
		if _, _, err := b.App.Inbox.AddOptOuts(ctx, b.Rep, c[0], c[1]); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := b.App.Inbox.OptInAgain(ctx, b.Rep, "ada@quill.example", "asked for it"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("by a representative: %v", err)
	}
	if err := b.App.Inbox.OptInAgain(ctx, b.Lead, "ada@quill.example", ""); !errors.As(err, &bad) {
		t.Errorf("without a reason: %v", err)
	}
	if err := b.App.Inbox.OptInAgain(ctx, b.Lead, "ADA@quill.example", "asked for the price list"); err != nil {
		t.Fatal(err)
	}
	history, err := b.History(ctx, ada, 10, 0)
	if err != nil || !strings.Contains(history[0].Text, "asked for the price list") {
		t.Errorf("%+v %v", history, err)
	}
	if p, err := b.Store.Person(ctx, ada); err != nil || p.OptedOutAt != nil {
		t.Errorf("still on the record: %v", err)
	}
	if err := b.App.Inbox.OptInAgain(ctx, b.Lead, "nobody@nowhere.example", "x"); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("%v", err)
	}
}

// In an answer the way out stands once: below, or in the quote where it is this reader's
// own. Another person's in the quote leaves theirs below.
func TestFoot_inAnswers(t *testing.T) {
	b := testbed.New(t)
	boss := admin(b)
	if err := b.App.Team.SetSettings(ctx, boss, domain.Settings{OptOutLink: true, OptOutWords: "No more letters"}); err != nil {
		t.Fatal(err)
	}
	hello := b.Template(t, "T", "For you", "Dear {{person.first_name}}")
	send := func(first string) domain.Letter {
		l := b.Letter(t, b.Person(t, first, "Quill", strings.ToLower(first)+"@quill.example"), hello)
		gone(t, b, l, desk.When{})
		out, err := b.Store.Letter(ctx, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	ada, bo := send("Ada"), send("Bo")
	for whose, token := range map[string]string{"hers": ada.Token, "another person's": bo.Token} {
		comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nMessage-ID: <"+token+"@quill.example>\nSubject: Re: For you\nIn-Reply-To: <"+ada.MessageID+">",
			"Yes, "+whose+". No more letters: http://letters.fernhollow.example/out/"+token)
		list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
		if err != nil || len(list) == 0 {
			t.Fatal(list, err)
		}
		answer, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, &hello, false)
		if err != nil {
			t.Fatal(err)
		}
		text := sent(t, b, answer).Text
		if got := strings.Count(text, "/out/"); got != map[string]int{"hers": 1, "another person's": 2}[whose] {
			t.Errorf("%s: %d times\n%s", whose, got, text)
		}
	}
}
