package app_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/inbox"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// comes takes a letter in, of headers and a text.
func comes(t *testing.T, b *testbed.Bed, to, headers, text string) {
	t.Helper()
	raw := strings.ReplaceAll(strings.TrimSpace(headers)+"\n\n"+text+"\n", "\n", "\r\n")
	if err := b.App.Inbox.TakeIn(ctx, "", []string{to}, []byte(raw)); err != nil {
		t.Fatal(err)
	}
}

func events(t *testing.T, b *testbed.Bed, person int64) string {
	t.Helper()
	list, err := b.History(ctx, person, 50, 0)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, e := range list {
		out = append(out, fmt.Sprintf("%s: %s", e.Kind, e.Text))
	}
	return strings.Join(out, "\n")
}

func TestTakeIn_matches(t *testing.T) {
	for _, row := range []struct {
		name, to, headers, how string
	}{
		{"what it answers", "imre@fernhollow.example", "From: other@quill.example\nIn-Reply-To: <%[1]s>", "reply"},
		{"the conversation", "imre@fernhollow.example", "From: other@quill.example\nIn-Reply-To: <x@y.example>\nReferences: <a@b.example> <%[1]s> <x@y.example>", "conversation"},
		{"the address", "back+%[2]s@fernhollow.example", "From: other@quill.example", "address"},
		{"the subject", "imre@fernhollow.example", "From: ADA@quill.example\nSubject: Re: AW: Re[2]: for You", "subject"},
		{"the person alone", "imre@fernhollow.example", "From: Ada <ada@quill.example>\nSubject: Something else", "person"},
		{"nobody", "imre@fernhollow.example", "From: somebody@else.example\nSubject: For you", ""},
	} {
		b := testbed.New(t)
		ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
		l := b.Letter(t, ada, b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
		gone(t, b, l, desk.When{})
		sent, err := b.Store.Letter(ctx, l.ID)
		if err != nil {
			t.Fatal(err)
		}
		fill := func(s string) string {
			return strings.ReplaceAll(strings.ReplaceAll(s, "%[1]s", sent.MessageID), "%[2]s", sent.Token)
		}
		for range 2 { // the other server sends it twice
			comes(t, b, fill(row.to), fill(row.headers), "Thank you, yes.")
		}
		list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep)
		if err != nil || len(list) > 1 || len(list) == 0 && row.name != "the address" {
			t.Fatalf("%s: %d, %v", row.name, len(list), err)
		}
		if len(list) == 0 || list[0].Matched != row.how {
			t.Errorf("%s: %+v", row.name, list)
			continue
		}
		in := list[0]
		if belongs := in.LetterID != nil; belongs != (row.how != "person" && row.how != "") {
			t.Errorf("%s: belongs to %v", row.name, in.LetterID)
		}
		if known := in.PersonID != nil && *in.PersonID == ada; known != (row.how != "") {
			t.Errorf("%s: of %v", row.name, in.PersonID)
		}
		if got := back(t, b, l.ID); (got.Replies == 1) != (in.LetterID != nil) || got.Opened != (in.LetterID != nil) {
			t.Errorf("%s: %+v", row.name, got)
		}
		sheet, err := b.App.Inbox.Incoming(ctx, b.Rep, in.ID, false)
		if err != nil || !strings.Contains(sheet.Mail.Text, "Thank you, yes.") {
			t.Errorf("%s: %+v, %v", row.name, sheet, err)
		}
		if _, err := b.App.Inbox.Incoming(ctx, b.Lead, in.ID, false); row.how == "" && !errors.Is(err, domain.ErrNotFound) {
			t.Errorf("%s: another one reads it: %v", row.name, err)
		}
		if err := b.App.Inbox.SetIncomingRead(ctx, b.Rep, in.ID); err != nil {
			t.Fatal(err)
		}
		if list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep); err != nil || len(list) != 0 {
			t.Errorf("%s: laid by, and still %+v, %v", row.name, list, err)
		}
	}
}

func TestTakes(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	gone(t, b, l, desk.When{})
	shared := server("mail.fernhollow.example")
	shared.Addresses, shared.Audience = []string{"office@fernhollow.example"}, access.Audience{Who: access.Some, Users: []int64{b.Lead.ID}}
	if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, shared); err != nil {
		t.Fatal(err)
	}
	sent, _ := b.Store.Letter(ctx, l.ID)
	for address, want := range map[string]error{
		"Imre@Fernhollow.example": nil, "office@fernhollow.example": nil, "back+" + sent.Token + "@anything.example": nil,
		"ada@quill.example": inbox.ErrNotHere, "back+0123456789abcdefg@fernhollow.example": inbox.ErrNotHere, "": inbox.ErrNotHere,
	} {
		if err := b.App.Inbox.Takes(ctx, address); !errors.Is(err, want) {
			t.Errorf("%s: %v", address, err)
		}
	}
}

const dsn = "From: postmaster@mx.example\nContent-Type: multipart/report; report-type=delivery-status; boundary=b\n\n--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\n" +
	"Final-Recipient: rfc822; ada@quill.example\nAction: %s\nStatus: %s\nDiagnostic-Code: smtp; %s\n\n--b--"

func TestTakeIn_bounces(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	hello := b.Template(t, "T", "For you", "Dear {{person.first_name}}")
	l := b.Letter(t, ada, hello)
	waiting := b.Letter(t, ada, hello)
	gone(t, b, l, desk.When{})
	sent, _ := b.Store.Letter(ctx, l.ID)
	to := "back+" + sent.Token + "@fernhollow.example"
	comes(t, b, to, fmt.Sprintf(dsn, "delayed", "4.4.1", "no answer"), "")
	if got := back(t, b, l.ID); got.Bounced || !got.Delayed {
		t.Errorf("delayed: %+v", got)
	}
	comes(t, b, to, fmt.Sprintf(dsn, "failed", "5.2.2", "552 full"), "")
	if got, err := b.App.Desk.Letter(ctx, b.Rep, waiting.ID); err != nil || len(got.Stops) != 0 || !back(t, b, l.ID).Bounced {
		t.Errorf("full: %+v %v", got.Stops, err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, waiting.ID, waiting.Version, waiting.ToEmail, desk.When{}); err != nil {
		t.Fatal(err)
	}
	comes(t, b, to, fmt.Sprintf(dsn, "failed", "5.1.1", "550 5.1.1 no such user"), "")
	// Nobody writes there any more, also with what waits.
	if err := b.Deliver(ctx, waiting.ID); err != nil {
		t.Fatal(err)
	}
	if got, err := b.Store.Letter(ctx, waiting.ID); err != nil || got.State != domain.Refused || !strings.Contains(got.Reason, "bounced on 2 March 2026: The address does not exist.") {
		t.Errorf("%s %q %v", got.State, got.Reason, err)
	}
	if next := b.Letter(t, ada, hello); len(next.Stops) != 1 || next.Stops[0].Code != "bounced" {
		t.Errorf("%+v", next.Stops)
	}
	if got := events(t, b, ada); !strings.Contains(got, "bounced: The letter bounced: 5.1.1 550 5.1.1 no such user") {
		t.Error(got)
	}
	if err := b.App.Inbox.AddressWorks(ctx, b.Rep, ada); err != nil {
		t.Fatal(err)
	}
	if next := b.Letter(t, ada, hello); len(next.Stops) != 0 {
		t.Errorf("%+v", next.Stops)
	}
	if list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep); err != nil || len(list) != 0 {
		t.Errorf("to be answered: %+v %v", list, err)
	}
}

func TestTakeIn_automatic(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	gone(t, b, l, desk.When{})
	comes(t, b, "imre@fernhollow.example", "From: ada@quill.example\nSubject: Away\nAuto-Submitted: auto-replied", "I am back on Monday, 9 March 2026.")
	if got := back(t, b, l.ID); !got.Away || got.Replies != 0 || got.Opened {
		t.Errorf("%+v", got)
	}
	if got := events(t, b, ada); !strings.Contains(got, "away: Automatic reply with a day, but it names no letter from here") {
		t.Error(got)
	}
}

func TestTakeIn_complaint(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	gone(t, b, l, desk.When{})
	sent, _ := b.Store.Letter(ctx, l.ID)
	comes(t, b, "back+"+sent.Token+"@fernhollow.example", "From: abuse@mx.example\nContent-Type: multipart/report; report-type=feedback-report; boundary=b", "--b\nContent-Type: message/feedback-report\n\nFeedback-Type: abuse\nVersion: 1\n\n--b--")
	p, err := b.Store.Person(ctx, ada)
	if got := back(t, b, l.ID); err != nil || p.OptedOutAt == nil || !got.Complained || !got.OptedOut {
		t.Errorf("%+v %+v %v", got, p, err)
	}
	if out, err := b.Store.OptOuts(ctx, "ada@quill.example", 1); err != nil || len(out) != 1 || !strings.Contains(out[0].Reason, "complained") {
		t.Errorf("%+v %v", out, err)
	}
}

// Anybody can send a report or a complaint. It counts only for those who got the letter
// that it proves to know; one that proves nothing bars nobody.
func TestTakeIn_forged(t *testing.T) {
	b := testbed.New(t)
	ada, bo, cy := b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Person(t, "Bo", "Ohm", "bo@ohm.example"), b.Person(t, "Cy", "Wye", "cy@wye.example")
	hello := b.Template(t, "T", "For you", "Dear {{person.first_name}}")
	l := b.Letter(t, ada, hello)
	l, err := b.App.Desk.SetEnvelope(ctx, b.Rep, l.ID, wordingOf(l), desk.Envelope{Cc: []domain.Address{{Name: "Cy", Email: "Cy@wye.example"}}})
	if err != nil {
		t.Fatal(err)
	}
	gone(t, b, l, desk.When{})
	gone(t, b, b.Letter(t, bo, hello), desk.When{})
	sent, err := b.Store.Letter(ctx, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	report := func(to, about string) {
		comes(t, b, to, "From: mailer-daemon@mx.example\nSubject: For you\nContent-Type: multipart/report; report-type=delivery-status; boundary=b",
			"--b\nContent-Type: message/delivery-status\n\nReporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; "+about+"\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 5.1.1 no such user "+about+"\n\n--b--")
	}
	complaint := func(to, about string) {
		comes(t, b, to, "From: abuse@mx.example\nSubject: For you\nContent-Type: multipart/report; report-type=feedback-report; boundary=b",
			"--b\nContent-Type: message/feedback-report\n\nFeedback-Type: abuse\nVersion: 1\nOriginal-Rcpt-To: "+about+"\nX: "+to+"\n\n--b--")
	}
	barred := func(id int64) bool {
		p, err := b.App.Records.Person(ctx, b.Rep, id)
		if err != nil {
			t.Fatal(err)
		}
		return p.BadAddress != nil || p.Person.OptedOutAt != nil
	}
	mine, known := "imre@fernhollow.example", "back+"+sent.Token+"@fernhollow.example"
	for _, email := range []string{"ada@quill.example", "bo@ohm.example", "cy@wye.example"} {
		report(mine, email)
		complaint(mine, email)
	}
	report(known, "bo@ohm.example")
	for who, id := range map[string]int64{"ada": ada, "bo": bo, "cy": cy} {
		if barred(id) {
			t.Errorf("%s is barred by a letter that proved nothing", who)
		}
	}
	report(known, "CY@wye.example")
	if !barred(cy) || barred(ada) || barred(bo) {
		t.Errorf("a report about the copy: cy %v, ada %v, bo %v", barred(cy), barred(ada), barred(bo))
	}
	complaint(known, "bo@ohm.example")
	if barred(bo) || !barred(ada) {
		t.Errorf("a complaint about somebody else's address: bo %v, ada %v", barred(bo), barred(ada))
	}
	if list, err := b.App.Inbox.IncomingToAnswer(ctx, b.Rep); err != nil || len(list) != 0 {
		t.Errorf("to be answered: %+v %v", list, err)
	}
	// What fits no letter is told to whom it came, and is about nobody.
	news, err := b.App.Inbox.OpenNews(ctx, b.Rep)
	unmatched := slices.DeleteFunc(slices.Clone(news), func(n domain.NewsRow) bool { return !strings.Contains(n.Text, "matches no letter") })
	if err != nil || len(unmatched) != 6 || unmatched[0].PersonID != nil {
		t.Errorf("%d unmatched reports are told: %+v, %v", len(unmatched), news, err)
	}
	// Every barring names its report, and all from one are undone at once.
	p, err := b.App.Records.Person(ctx, b.Rep, cy)
	if err != nil || p.BadAddress.ReportID == nil {
		t.Fatalf("%+v, %v", p.BadAddress, err)
	}
	sheet, err := b.App.Inbox.Incoming(ctx, b.Rep, *p.BadAddress.ReportID, false)
	if err != nil || fmt.Sprint(sheet.Barred) != "[cy@wye.example]" {
		t.Errorf("%v, %v", sheet.Barred, err)
	}
	if err := b.App.Inbox.UndoReport(ctx, b.Rep, *p.BadAddress.ReportID); err != nil || barred(cy) || !barred(ada) {
		t.Errorf("after undoing: %v; cy %v, ada %v", err, barred(cy), barred(ada))
	}
	if p, err = b.App.Records.Person(ctx, b.Rep, ada); err != nil {
		t.Fatal(err)
	}
	listed, err := b.App.Inbox.OptOuts(ctx, "ada")
	if err != nil || len(listed) != 1 || listed[0].ReportID == nil {
		t.Fatalf("%+v, %v", listed, err)
	}
	if err := b.App.Inbox.UndoReport(ctx, b.Rep, *listed[0].ReportID); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative lets who complained be written to: %v", err)
	}
	if err := b.App.Inbox.UndoReport(ctx, b.Lead, *listed[0].ReportID); err != nil || barred(ada) {
		t.Errorf("%v; ada %v", err, barred(ada))
	}
	if err := b.App.Inbox.UndoReport(ctx, b.Lead, *listed[0].ReportID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("twice: %v", err)
	}
}
