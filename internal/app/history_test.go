package app_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func TestLedger(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l, links := linked(t, b, ada)
	b.Pass(time.Hour)
	news, err := b.App.Inbox.News(ctx, b.Rep, -1)
	if err != nil || len(news.CameBack) != 0 {
		t.Fatalf("%+v %v", news, err)
	}
	for range 3 {
		if err := b.App.Desk.Opened(ctx, l.Token, look); err != nil {
			t.Fatal(err)
		}
		b.Pass(time.Minute)
	}
	if _, err := b.App.Desk.Followed(ctx, links[0], look); err != nil {
		t.Fatal(err)
	}
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nMessage-ID: <a1@quill.example>\nSubject: Re: Hello\nIn-Reply-To: <"+l.MessageID+">", "Yes.")
	list, _ := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
	answer, err := b.App.Inbox.StartAnswer(ctx, b.Rep, list[0].ID, new(b.Template(t, "Short", "", "Thank you")), false)
	if err != nil {
		t.Fatal(err)
	}
	gone(t, b, answer, desk.When{})
	if err := b.App.Desk.SetPersonTracked(ctx, b.Rep, ada, false); err != nil {
		t.Fatal(err)
	}
	show := func(only string) string {
		page, err := b.App.Inbox.Ledger(ctx, b.Rep, domain.HistoryQuery{PersonID: ada, Only: only})
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, g := range page.Groups {
			line := g.Subject + ":"
			for _, e := range g.Entries {
				line += " " + string(e.Kind)
			}
			for _, back := range g.Back {
				line += fmt.Sprintf(" [%d opens %d clicks %d replies]", back.Opens, back.Clicks, back.Replies)
			}
			out = append(out, line)
		}
		return strings.Join(out, "\n")
	}
	for only, want := range map[string]string{
		"":        ": changed\nRe: Hello: sent replied sent [3 opens 1 clicks 1 replies] [0 opens 0 clicks 0 replies]",
		"letters": "Re: Hello: sent replied sent [3 opens 1 clicks 1 replies] [0 opens 0 clicks 0 replies]",
		"changes": ": changed",
		"back":    "Hello: replied\nHello: clicked\nHello: opened\nHello: opened\nHello: opened",
	} {
		if got := show(only); got != want {
			t.Errorf("%q:\n%s\nwant\n%s", only, got, want)
		}
	}
	// A later look at the letter moves nothing; the newest line is of the group's time.
	b.Pass(48 * time.Hour)
	if err := b.App.Desk.Opened(ctx, l.Token, look); err != nil {
		t.Fatal(err)
	}
	page, err := b.App.Inbox.Ledger(ctx, b.Rep, domain.HistoryQuery{PersonID: ada, Only: "letters"})
	if err != nil || len(page.Groups) != 1 || !page.Groups[0].At.Equal(page.Groups[0].Entries[0].At) || b.Now().Sub(page.Groups[0].At) < 47*time.Hour {
		t.Errorf("%+v, %v", page.Groups, err)
	}
	for i, e := range page.Groups[0].Entries[1:] {
		if e.At.After(page.Groups[0].Entries[i].At) {
			t.Errorf("%s stands below what came before it", e.Kind)
		}
	}
	if news, err = b.App.Inbox.News(ctx, b.Rep, news.Last); err != nil || len(news.CameBack) != 6 || news.CameBack[1].Kind != domain.EntryReplied || news.CameBack[1].Person != "Ada Quill" || news.Answers != 0 {
		t.Errorf("%+v %v", news, err)
	}
	if other, err := b.App.Inbox.News(ctx, b.Lead, 0); err != nil || len(other.CameBack) != 0 {
		t.Errorf("for somebody else: %+v %v", other, err)
	}
	var mails []inbox.MailItem
	err = b.App.Inbox.EachMail(ctx, b.Rep, ada, func(m *inbox.MailItem) error { mails = append(mails, *m); return nil })
	if err != nil || len(mails) != 3 || mails[1].From != "ada@quill.example" || !strings.Contains(string(mails[2].Bytes), "In-Reply-To: <a1@quill.example>") {
		t.Errorf("%d %v", len(mails), err)
	}
	// Windows of a long history.
	for i := range 400 {
		if err := b.Store.AddEntry(ctx, domain.Entry{PersonID: &ada, Kind: domain.EntryChanged, Text: fmt.Sprint(i), At: b.Now()}); err != nil {
			t.Fatal(err)
		}
	}
	seen, offset := 0, 0
	for n := 0; n == 0 || offset > 0; n++ {
		page, err := b.App.Inbox.Ledger(ctx, b.Rep, domain.HistoryQuery{PersonID: ada, Only: "changes", Offset: offset})
		if err != nil {
			t.Fatal(err)
		}
		seen, offset = seen+len(page.Groups), page.Next
	}
	if seen != 401 {
		t.Errorf("%d changes in all windows", seen)
	}
}
