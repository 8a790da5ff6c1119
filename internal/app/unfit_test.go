package app_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/field"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/app/outbound"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// A record that is changed or merged names the letters on their way that say something else.
func TestUnfitTo(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "T", "Your room", "Dear {{person.first_name}}, thank you."))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-05T09:00", Zone: "Europe/London"}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	named := func() string {
		t.Helper()
		list, err := b.App.Outbound.UnfitTo(ctx, b.Rep, ada)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, one := range list {
			out = append(out, one.Subject+": "+one.Why)
		}
		return strings.Join(out, "; ")
	}
	if got := named(); got != "" {
		t.Error(got)
	}
	change := func(path, was, value string) {
		t.Helper()
		if _, err := b.App.Records.ChangeValues(ctx, b.Rep, ada, map[string]string{path: was}, map[string]string{path: value}); err != nil {
			t.Fatal(err)
		}
	}
	change("person.city", "", "York") // the letter does not say it
	if got := named(); got != "" {
		t.Error(got)
	}
	change("person.first_name", "Ada", "Adah")
	if got := named(); !strings.Contains(got, "Your room: First name is “Adah” on the record now") {
		t.Errorf("%q", got)
	}
	list, err := b.App.Outbound.UnfitTo(ctx, b.Lead, ada)
	if err != nil || len(list) != 1 || list[0].ID != 0 || list[0].Subject != "" || list[0].Why != "" || list[0].From != b.Rep.Name() {
		t.Errorf("a colleague is told %+v, %v", list, err)
	}
	change("person.first_name", "Adah", "Ada")
	change("person.email", "ada@quill.example", "ada@rye.example")
	if got := named(); !strings.Contains(got, "The address of Ada Quill is ada@rye.example now") {
		t.Errorf("%q", got)
	}
}

// A deal that is deleted names the letters about it that wait: what they say of it does not hold
// any more, and they stay.
func TestOnTheWay_deal(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	deal, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{Values: map[string]string{"deal.name": "Room 7"}, MainID: &ada})
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, ada, b.Template(t, "T", "About {{deal.name}}", "Dear {{person.first_name}}, thank you."))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-05T09:00", Zone: "Europe/London"}); err != nil {
		t.Fatal(err)
	}
	list, err := b.App.Outbound.OnTheWayOn(ctx, b.Rep, field.Deal, deal)
	if err != nil || len(list) != 1 || !list[0].Fits || list[0].Subject != "About Room 7" {
		t.Fatalf("%+v, %v", list, err)
	}
	if err := b.App.Records.Delete(ctx, b.Rep, field.Deal, deal); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	for what, ask := range map[string]func() ([]outbound.OnTheWay, error){
		"of the person": func() ([]outbound.OnTheWay, error) { return b.App.Outbound.UnfitTo(ctx, b.Rep, ada) },
		"of the sender": func() ([]outbound.OnTheWay, error) { return b.App.Outbound.UnfitOf(ctx, b.Rep) },
	} {
		if list, err := ask(); err != nil || len(list) != 1 || !strings.Contains(list[0].Why, "Room 7") {
			t.Errorf("%s: %+v, %v", what, list, err)
		}
	}
	b.Pass(100 * time.Hour)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if now, err := b.Store.Letter(ctx, l.ID); err != nil || now.State != domain.Refused {
		t.Errorf("%s, %v", now.State, err)
	}
}

// A letter opens, and is written on, also when the deal that it is about was deleted or is with
// others by now: it says what its words no longer rest on.
func TestLetter_dealGone(t *testing.T) {
	for how, gone := range map[string]func(b *testbed.Bed, deal int64) error{
		"deleted": func(b *testbed.Bed, deal int64) error { return b.App.Records.Delete(ctx, b.Rep, field.Deal, deal) },
		"with others": func(b *testbed.Bed, deal int64) error {
			eva := b.Person(t, "Eva", "Rye", "eva@rye.example")
			return b.App.Records.SetDealPeople(ctx, b.Rep, deal, &eva, nil)
		},
	} {
		t.Run(how, func(t *testing.T) {
			b := testbed.New(t)
			ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
			add := func(name string) int64 {
				deal, err := b.App.Records.AddDeal(ctx, b.Rep, records.NewDeal{Values: map[string]string{"deal.name": name}, MainID: &ada})
				if err != nil {
					t.Fatal(err)
				}
				return deal
			}
			deal := add("Room 7")
			template := b.Template(t, "T", "About {{deal.name}}", "Dear {{person.first_name}}, thank you.")
			draft, sent := b.Letter(t, ada, template), b.Letter(t, ada, template)
			if _, err := b.App.Desk.Send(ctx, b.Rep, sent.ID, sent.Version, sent.ToEmail, desk.When{}); err != nil {
				t.Fatal(err)
			}
			b.Pass(time.Minute)
			if err := b.Deliver(ctx, sent.ID); err != nil {
				t.Fatal(err)
			}
			add("Room 8") // is not taken in the other's place
			if err := gone(b, deal); err != nil {
				t.Fatal(err)
			}
			l, err := b.App.Desk.Letter(ctx, b.Rep, draft.ID)
			if err != nil || len(l.RecordNews) == 0 || l.RecordNews[0].Was != "Room 7" || l.RecordNews[0].Now != "" {
				t.Fatalf("%+v, %v", l.RecordNews, err)
			}
			if !slices.ContainsFunc(l.Stops, func(n document.Note) bool { return strings.Contains(n.Message, "Room 7") }) {
				t.Errorf("it may go: %+v", l.Stops)
			}
			if _, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, wordingOf(l)); err != nil {
				t.Error(err)
			}
			if _, err := b.App.Desk.Letter(ctx, b.Rep, sent.ID); err != nil {
				t.Error(err)
			}
		})
	}
}

// A formatted letter that waits goes in the stationery that it was proofread in, or not at all.
func TestStationery_changedWhileALetterWaits(t *testing.T) {
	for name, c := range map[string]struct {
		change func(b *testbed.Bed, st domain.Stationery, in library.StationeryInput) error
		goes   bool
	}{
		"nothing": {func(*testbed.Bed, domain.Stationery, library.StationeryInput) error { return nil }, true},
		"changed": {func(b *testbed.Bed, st domain.Stationery, in library.StationeryInput) error {
			in.Header = formatted(t, "<p>Under new management</p>")
			_, err := b.App.Library.ChangeStationery(ctx, b.Lead, st.ID, st.Version, in)
			return err
		}, false},
		"deleted": {func(b *testbed.Bed, st domain.Stationery, _ library.StationeryInput) error {
			_, err := b.App.Library.DeleteStationery(ctx, b.Lead, st.ID, st.Version, false)
			return err
		}, false},
	} {
		t.Run(name, func(t *testing.T) {
			b := testbed.New(t)
			in := library.StationeryInput{Name: "House", Header: formatted(t, "<p>Fernhollow Cold Rooms</p>"), Footer: formatted(t, "<p>Bye</p>"), Ready: true, Default: true}
			st, err := b.App.Library.AddStationery(ctx, b.Lead, in)
			if err != nil {
				t.Fatal(err)
			}
			l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Formatted(t, "F", "<p>Dear {{person.first_name}}, thank you for the visit.</p>"))
			if l.Extras.Stationery != st.ID {
				t.Fatalf("in stationery %d", l.Extras.Stationery)
			}
			if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-03T09:00", Zone: "Europe/London"}); err != nil {
				t.Fatal(err)
			}
			b.Pass(time.Hour)
			if err := c.change(b, st, in); err != nil {
				t.Fatal(err)
			}
			// Another time is no other proof: what would not go is said at once.
			refused := func(err error) bool {
				return err != nil && strings.Contains(err.Error(), "The stationery “House” was changed")
			}
			if _, err := b.App.Desk.ChangeTime(ctx, b.Rep, l.ID, desk.When{Local: "2026-03-04T09:00", Zone: "Europe/London"}); (err == nil) != c.goes || !c.goes && !refused(err) {
				t.Fatal(err)
			}
			b.Pass(48 * time.Hour)
			ends := func(how string) {
				t.Helper()
				if err := b.Deliver(ctx, l.ID); err != nil {
					t.Fatal(err)
				}
				now, err := b.Store.Letter(ctx, l.ID)
				if err != nil || (now.State == domain.Sent) != c.goes || !c.goes && !strings.Contains(now.Reason, "The stationery “House” was changed") {
					t.Errorf("%s: %s: %s, %v", how, now.State, now.Reason, err)
				}
			}
			ends("at its time")
			if c.goes {
				return
			}
			b.Pass(time.Minute)
			if _, err := b.App.Desk.Retry(ctx, b.Rep, l.ID); !refused(err) {
				t.Errorf("tried again: %v", err) // nor is that
			}
			ends("after that")
		})
	}
}

// A file is attached by who brought it in, a document by who may use it: its sum is no right. A
// document that was taken from the shelf does not go out with a letter that waits.
func TestAttachments_bySum(t *testing.T) {
	b := testbed.New(t)
	theirs, err := b.App.Library.Upload(ctx, b.Lead, "secret.txt", []byte("of the lead"))
	if err != nil {
		t.Fatal(err)
	}
	d, err := b.App.Library.AddDocument(ctx, b.Lead, library.DocumentInput{Name: "Prices"}, "prices.txt", []byte("of the shelf"))
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "S", "Dear {{person.first_name}}, thank you for the visit."))
	for name, at := range map[string]domain.Attachment{"an upload of somebody else": theirs, "a document as a file": {Name: "p.txt", SHA: d.SHA}} {
		if _, err := b.App.Desk.SetAttachments(ctx, b.Rep, l.ID, wordingOf(l), []domain.Attachment{at}); err == nil {
			t.Errorf("%s was attached by its sum", name)
		}
	}
	mine, err := b.App.Library.Upload(ctx, b.Rep, "mine.txt", []byte("of the lead"))
	if err != nil || mine.SHA != theirs.SHA {
		t.Fatal(mine, err)
	}
	if l, err = b.App.Desk.SetAttachments(ctx, b.Rep, l.ID, wordingOf(l), []domain.Attachment{mine, {DocumentID: d.ID}}); err != nil || len(l.Extras.Attachments) != 2 {
		t.Fatal(l.Extras.Attachments, err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-03T09:00", Zone: "Europe/London"}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	if err := b.App.Library.DeleteDocument(ctx, b.Lead, d.ID, false); err != nil {
		t.Fatal(err)
	}
	b.Pass(48 * time.Hour)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if now, err := b.Store.Letter(ctx, l.ID); err != nil || now.State != domain.Refused || !strings.Contains(now.Reason, "“Prices” was taken from the shelf") {
		t.Errorf("%s: %s, %v", now.State, now.Reason, err)
	}
}

// A list of what came in tells beginnings, however much somebody sends.
func TestIncoming_listsAreShort(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "S", "Dear {{person.first_name}}, thank you for the visit."))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Hour)
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	sent, err := b.Store.Letter(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	raw := "From: ada@quill.example\r\nTo: imre@fernhollow.example\r\nSubject: Re: S\r\nIn-Reply-To: <" + sent.MessageID + ">\r\nMessage-ID: <long@quill.example>\r\n\r\nYes, gladly.\r\n" + strings.Repeat("word ", 50_000) + "\r\n"
	if err := b.App.Inbox.TakeIn(ctx, "ada@quill.example", []string{"imre@fernhollow.example"}, []byte(raw)); err != nil {
		t.Fatal(err)
	}
	list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
	if err != nil || len(list) != 1 || !strings.HasPrefix(list[0].Said, "Yes, gladly.") || len(list[0].Said) > 2100 || len(list[0].Text) > 2100 {
		t.Errorf("%d letters, %v", len(list), err)
		for _, one := range list {
			t.Errorf("%d and %d bytes", len(one.Said), len(one.Text))
		}
	}
}
