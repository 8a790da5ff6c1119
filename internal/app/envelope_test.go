package app_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/records"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func wordingOf(l desk.LetterSheet) desk.Wording {
	return desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}
}

func TestEnvelope(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "For {{person.first_name}}", body))
	for _, c := range []struct {
		e   desk.Envelope
		why string
	}{
		{desk.Envelope{Cc: []domain.Address{{Name: "Bo", Email: "bo@"}}}, "cc"},
		{desk.Envelope{Bcc: []domain.Address{{Email: "bo"}}}, "bcc"},
		{desk.Envelope{Cc: []domain.Address{{Name: "Bo\r\nX-Evil: 1", Email: "bo@quill.example"}}}, "one line"},
		{desk.Envelope{ReplyTo: "nobody"}, "replyTo"},
		{desk.Envelope{Cc: make([]domain.Address, 51)}, "50"},
	} {
		if _, err := b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), c.e); err == nil || !strings.Contains(err.Error(), c.why) {
			t.Errorf("%+v: %v, want %s", c.e, err, c.why)
		}
	}
	if _, err := b.App.Desk.SetEnvelope(ctx, b.Lead, l.ID, wordingOf(l), desk.Envelope{}); err == nil {
		t.Error("somebody else's letter")
	}
	l, err := b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{
		Cc:      []domain.Address{{Name: "Bo, the \"Baker\"", Email: " bo@quill.example "}, {Email: "ADA@quill.example"}},
		Bcc:     []domain.Address{{Name: "Cy", Email: "cy@quill.example"}, {Email: "Bo@quill.example"}},
		ReplyTo: "office@fernhollow.example",
	})
	if err != nil || len(l.Extras.Cc) != 1 || len(l.Extras.Bcc) != 1 {
		t.Fatalf("%+v %v", l.Extras, err)
	}
	if _, err = b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	for _, box := range []string{"ada@quill.example", "bo@quill.example", "cy@quill.example"} {
		list, err := b.App.Postbox.Mailbox(ctx, box)
		if err != nil || len(list) != 1 {
			t.Fatalf("%s got %d letters, %v", box, len(list), err)
		}
		raw, _ := b.Store.PostLetter(ctx, list[0].ID)
		head, _, _ := strings.Cut(string(raw.Bytes), "\r\n\r\n")
		if !strings.Contains(head, "Cc: ") || !strings.Contains(head, "bo@quill.example") || strings.Contains(head, "cy@") || !strings.Contains(head, "Reply-To: <office@fernhollow.example>") {
			t.Errorf("%s got\n%s", box, head)
		}
	}
}

func TestCopies_optedOut(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", body))
	bo := b.Person(t, "Bo", "Ohm", "bo@quill.example")
	p, _ := b.Store.Person(ctx, bo)
	now := b.Now()
	p.OptedOutAt = &now
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	l, err := b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Bcc: []domain.Address{{Email: "Bo@Quill.example"}}})
	if err != nil || len(l.Stops) != 1 || !strings.Contains(l.Stops[0].Message, "is on the do-not-contact list") {
		t.Errorf("%v %v", l.Stops, err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err == nil {
		t.Error("it went")
	}
}

func TestReadAddresses(t *testing.T) {
	found, rest := records.ReadAddresses("Ada Quill <ada@quill.example>, \"Ohm, Bo\" <bo@ohm.example>; cy@wye.example\nDee Zed (dee@zed.example)\neve@fen.example - Eve Fen\nFen, Flo <mailto:flo@fen.example>\nnobody at all;;\n")
	want := []domain.Address{{Name: "Ada Quill", Email: "ada@quill.example"}, {Name: "Ohm, Bo", Email: "bo@ohm.example"}, {Name: "", Email: "cy@wye.example"}, {Name: "Dee Zed", Email: "dee@zed.example"}, {Name: "Eve Fen", Email: "eve@fen.example"}, {Name: "Flo Fen", Email: "flo@fen.example"}}
	if !slices.Equal(found, want) || !slices.Equal(rest, []string{"nobody at all"}) {
		t.Errorf("%q\nrest %q", found, rest)
	}
}

// A name comes out as it was pasted, whatever stands in it.
func TestReadAddresses_names(t *testing.T) {
	for _, name := range []string{
		"Pat O'Neil", "Pat O’Neil", "D'Arcy d'Ohm", "Zoë Ångström", "Jose\u0301 Quill", "李 雷", "שרה כהן", "سارة علي",
		"Ольга Фен", "नीला राय", "Ada/Bo Quill", "Ada 🌿 Quill", "Ada Quill-Ohm", "Ada & Bo", "ʻIolani Kea",
	} {
		for _, form := range []string{"%s <a@quill.example>", "%s (a@quill.example)", "%s a@quill.example", "a@quill.example - %s", "\"%s\" <a@quill.example>", "%s\ta@quill.example"} {
			text := fmt.Sprintf(form, name)
			found, rest := records.ReadAddresses("Bo Ohm <bo@ohm.example>; " + text)
			if len(rest) > 0 || len(found) != 2 || found[1] != (domain.Address{Name: name, Email: "a@quill.example"}) {
				t.Errorf("%s: %+v, rest %q", text, found, rest)
			}
		}
	}
}

func TestCompleteAddress(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Imogen", "Quill", "imogen@quill.example")
	list, err := b.App.Desk.CompleteAddress(ctx, "im")
	if err != nil || len(list) != 2 || list[0].Who != "colleague" || list[1].Email != "imogen@quill.example" || list[1].PersonID == 0 {
		t.Errorf("%+v %v", list, err)
	}
	if list, err := b.App.Desk.CompleteAddress(ctx, " "); err != nil || len(list) != 0 {
		t.Errorf("%+v %v", list, err)
	}
}

func TestAttachments(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}, the quote is attached."))
	spoken := func(l desk.LetterSheet) bool {
		for _, n := range l.Advice.Notes {
			if n.Code == "noattachment" {
				return true
			}
		}
		return false
	}
	if !spoken(l) {
		t.Errorf("no word about the missing attachment: %+v", l.Advice)
	}
	if _, err := b.App.Library.Upload(ctx, b.Rep, "x.pdf", nil); err == nil {
		t.Error("an empty file")
	}
	if _, err := b.App.Library.Upload(ctx, b.Rep, "..", []byte("x")); err == nil {
		t.Error("a file without a name")
	}
	at, err := b.App.Library.Upload(ctx, b.Rep, `C:\quotes\the "quote".txt`, []byte("12 m³"))
	if err != nil || at.Name != "the quote.txt" || at.Size != 6 {
		t.Fatalf("%+v %v", at, err)
	}
	if _, err := b.App.Desk.SetAttachments(ctx, b.Rep, l.ID, wordingOf(l), []domain.Attachment{{Name: "x", SHA: strings.Repeat("0", 64)}}); err == nil {
		t.Error("a file that is not there")
	}
	l, err = b.App.Desk.SetAttachments(ctx, b.Rep, l.ID, wordingOf(l), []domain.Attachment{{Name: at.Name, SHA: at.SHA, Size: 1, Type: "text/html"}})
	if err != nil || len(l.Extras.Attachments) != 1 || l.Extras.Attachments[0].Size != 6 || l.Extras.Attachments[0].Type != "text/plain" || spoken(l) {
		t.Fatalf("%+v %v", l.Extras, err)
	}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || len(proof.Mail.Files) != 1 || proof.Mail.Files[0].Name != "the quote.txt" {
		t.Errorf("%+v %v", proof.Mail.Files, err)
	}
}

func TestWhen(t *testing.T) {
	b := testbed.New(t) // Monday 2 March 2026, 9:30 UTC
	if err := b.App.Desk.SetHold(ctx, b.Rep, 121); err == nil {
		t.Error("a hold of 121 seconds")
	}
	if err := b.App.Desk.SetHold(ctx, b.Rep, 10); err != nil {
		t.Fatal(err)
	}
	rep, _ := b.Store.User(ctx, b.Rep.ID)
	who := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p, _ := b.Store.Person(ctx, who)
	p.TimeZone, p.Country = "America/New_York", "US"
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	hello := b.Template(t, "Hello", "Hi", body)
	for _, c := range []struct {
		when desk.When
		due  string // or the error
	}{
		{desk.When{}, "2026-03-02T09:30:10Z"},
		{desk.When{Morning: true}, "2026-03-02T14:00:00Z"},
		{desk.When{Local: "2026-03-09T08:00"}, "2026-03-09T12:00:00Z"}, // summer time there
		{desk.When{Local: "2026-03-09T08:00", Zone: "Europe/Berlin"}, "2026-03-09T07:00:00Z"},
		{desk.When{Local: "2026-03-02T08:00", Zone: "Europe/Berlin"}, "is over"},
		{desk.When{Local: "2028-03-02T08:00"}, "a year"},
		{desk.When{Local: "tomorrow"}, "is no time"},
		{desk.When{Local: "2026-03-09T08:00", Zone: "Europe/Nowhere"}, "no time zone"},
	} {
		l := b.Letter(t, who, hello)
		if l.Times.Zone != "America/New_York" || l.Times.ZoneFrom != "record" || l.Times.Morning.Format(time.RFC3339) != "2026-03-02T14:00:00Z" {
			t.Fatalf("%+v", l.Times)
		}
		sent, err := b.App.Desk.Send(ctx, rep, l.ID, l.Version, l.ToEmail, c.when)
		got := fmt.Sprint(err)
		if err == nil {
			got = sent.DueAt.UTC().Format(time.RFC3339)
		}
		if !strings.Contains(got, c.due) {
			t.Errorf("%+v: %s, want %s", c.when, got, c.due)
		}
	}
}

func TestHold_takenBack(t *testing.T) {
	b := testbed.New(t)
	rep := b.Rep
	rep.HoldSeconds = 10
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "Hi", body))
	if _, err := b.App.Desk.Send(ctx, rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	b.Pass(9 * time.Second)
	if ids, next, err := b.Store.Due(ctx, b.Now(), 10); err != nil || len(ids) != 0 || next == nil {
		t.Fatal(ids, next, err)
	}
	l, err := b.App.Desk.TakeBack(ctx, rep, l.ID)
	if err != nil || l.State != domain.Draft || render.RenderText(l.Body) != text(l) {
		t.Fatal(l.State, err)
	}
	b.Pass(time.Minute)
	if ids, _, err := b.Store.Due(ctx, b.Now(), 10); err != nil || len(ids) != 0 {
		t.Error(ids, err)
	}
}

func TestAddLead(t *testing.T) {
	b := testbed.New(t)
	b.Person(t, "Ada", "Quill", "ada@quill.example")
	for _, bad := range []string{"", "nobody", "ADA@quill.example", "a@b.example, c@d.example", "bo@ohm.example; nobody"} {
		if _, err := b.App.Records.AddLead(ctx, b.Rep, bad); err == nil {
			t.Errorf("%q: no error", bad)
		}
	}
	p, err := b.App.Records.AddLead(ctx, b.Rep, "Bo van Ohm <bo@ohm.example>")
	if err != nil || p.FirstName != "Bo" || p.LastName != "van Ohm" || p.Email != "bo@ohm.example" || p.Kind != "lead" || *p.OwnerID != b.Rep.ID {
		t.Fatalf("%+v %v", p, err)
	}
	if h, err := b.History(ctx, p.ID, 5, 0); err != nil || len(h) != 1 || h[0].Kind != domain.EntryCreated {
		t.Errorf("%+v %v", h, err)
	}
	if l, err := b.App.Desk.StartLetter(ctx, b.Rep, p.ID, nil, nil); err != nil || l.ToEmail != "bo@ohm.example" {
		t.Errorf("%+v %v", l.ToEmail, err)
	}
}

// The date of a letter that goes later is that of its day, on its reader's clock, in
// the proof as in what arrives.
func TestOnTheDayItGoes(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	p, err := b.Store.Person(ctx, ada)
	if err != nil {
		t.Fatal(err)
	}
	p.TimeZone = "Pacific/Auckland"
	if err := b.Store.UpdatePerson(ctx, p); err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, ada, b.Template(t, "Dated", "On {{today as short}}", "Dear {{person.first_name}}, it is {{today}}."))
	when := desk.When{Local: "2026-03-06T08:00"}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, when)
	if err != nil || proof.Mail.Subject != "On 06/03/2026" || !strings.Contains(proof.Mail.Text, "it is 6 March 2026.") {
		t.Fatalf("%q %q %v", proof.Mail.Subject, proof.Mail.Text, err)
	}
	if _, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{Local: "2020-01-01T08:00"}); err == nil {
		t.Error("a proof of the past")
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", when); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Date(2026, 3, 5, 19, 0, 0, 0, time.UTC).Sub(b.Now())) // 6 March, 8 o'clock in Auckland
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	sent, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || sent.Mail.Subject != proof.Mail.Subject || sent.Mail.Text != proof.Mail.Text {
		t.Errorf("%q %q %v", sent.Mail.Subject, sent.Mail.Text, err)
	}
	// A draft that lay for days says the day on which it is looked at.
	old := b.Letter(t, ada, b.Template(t, "Dated again", "s", "It is {{today}}."))
	b.Pass(72 * time.Hour)
	if again, err := b.App.Desk.Letter(ctx, b.Rep, old.ID); err != nil || text(again) != "It is 9 March 2026." {
		t.Errorf("%q %v", text(again), err)
	}
}
