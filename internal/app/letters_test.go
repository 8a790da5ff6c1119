package app_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"lucidletter/core/document"
	"lucidletter/core/filter"
	"lucidletter/core/render"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

var ctx = context.Background()

const body = "Dear {{person.first_name}},\n\nis {{person.city|}} cold?\n\n{{sender.first_name}}"

func text(l desk.LetterSheet) string { return render.RenderText(l.Body) }

func TestLetter_fromTemplateToPostOffice(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "For {{person.first_name}}", body))
	if l.SubjectLine != "For Ada" || text(l) != "Dear Ada,\n\nis cold?\n\nImre" || len(l.Stops) != 0 {
		t.Fatalf("%q %q %v", l.SubjectLine, text(l), l.Stops)
	}
	proof, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
	if err != nil || proof.Mail.To != "Ada Quill <ada@quill.example>" || strings.TrimSpace(proof.Mail.Text) != text(l) {
		t.Fatalf("%+v, %v", proof, err)
	}
	if l, err = b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{}); err != nil || l.State != domain.Waiting {
		t.Fatal(l.State, err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	l, err = b.App.Desk.Letter(ctx, b.Rep, l.ID)
	if err != nil || l.State != domain.Sent || !strings.HasPrefix(l.Reason, "250") || l.Attempts != 1 || !l.SentAt.Equal(testbed.Start) || l.MessageID != "id1@fernhollow.example" {
		t.Fatalf("%+v, %v", l.Letter, err)
	}
	filed, err := b.App.Desk.Source(ctx, b.Lead, l.ID)
	if err != nil {
		t.Fatal(err)
	}
	box, err := b.App.Postbox.Mailbox(ctx, "ADA@quill.example")
	if err != nil || len(box) != 1 {
		t.Fatal(box, err)
	}
	arrived, err := b.Store.PostLetter(ctx, box[0].ID)
	if err != nil || !bytes.Equal(arrived.Bytes, filed) {
		t.Errorf("filed\n%s\narrived\n%s\n%v", filed, arrived.Bytes, err)
	}
	h, err := b.History(ctx, ada, 10, 0)
	if err != nil || len(h) != 1 || h[0].Kind != domain.EntrySent || h[0].Text != "For Ada" || *h[0].LetterID != l.ID || h[0].By != "Imre Falk" {
		t.Errorf("history %+v, %v", h, err)
	}
	// Taken again, it is not sent again.
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if box, _ = b.App.Postbox.Mailbox(ctx, "ada@quill.example"); len(box) != 1 {
		t.Errorf("%d letters arrived", len(box))
	}
	if rows, _, err := people(b, ctx, domain.PeopleQuery{Search: "quill", By: filter.Field{Path: "written"}, Down: true, Limit: 9}); err != nil || len(rows) != 1 || rows[0].LastSubject != "For Ada" {
		t.Errorf("people %+v, %v", rows, err)
	}
}

func TestSend_refusesWhatIsWrong(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For you", body)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	now := b.Now()
	gone, err := b.Store.AddPerson(ctx, domain.Person{Kind: "lead", FirstName: "No", Email: "no@firm.example", OptedOutAt: &now, CreatedAt: now, UpdatedAt: now})
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range []struct {
		name   string
		person int64
		change func(*desk.Wording)
		to     string
		why    string
	}{
		{"gap", b.Person(t, "", "Quill", "q@firm.example"), nil, "q@firm.example", "First name is missing"},
		{"no address", b.Person(t, "Ida", "Quill", ""), nil, "", "has no email address"},
		{"bad address", b.Person(t, "Ida", "Quill", "a@b@c"), nil, "a@b@c", "correct it in the record"},
		{"opted out", gone, nil, "no@firm.example", "unsubscribed on 2 March 2026"},
		{"another address", ada, nil, "old@quill.example", "The recipient is Ada Quill <ada@quill.example> now"},
		{"no subject", ada, func(w *desk.Wording) { w.Subject = document.NewPlain(" ") }, "ada@quill.example", "The subject is empty"},
		{"empty", ada, func(w *desk.Wording) { w.Body = document.NewPlain("\n") }, "ada@quill.example", "The letter is empty"},
		{"field code", ada, func(w *desk.Wording) { w.Body = document.NewPlain("Dear {{person.first_name}}") }, "ada@quill.example", "is an unfilled placeholder in the body"},
	} {
		l := b.Letter(t, row.person, hello)
		w := desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}
		if row.change != nil {
			row.change(&w)
			if l, err = b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, w); err != nil {
				t.Errorf("%s: %v", row.name, err)
				continue
			}
		}
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, row.to, desk.When{}); err == nil || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v, want %q", row.name, err, row.why)
		}
		if l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID); l.State != domain.Draft {
			t.Errorf("%s: the letter is %s", row.name, l.State)
		}
	}
}

// An address that the record lacks is typed for one letter, or for the record too.
func TestFillGap_address(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For you", body)
	ida := b.Person(t, "Ida", "Quill", "")
	first, second := b.Letter(t, ida, hello), b.Letter(t, ida, hello)
	if _, err := b.App.Desk.FillGap(ctx, b.Rep, first.ID, wordingOf(first), "person.email", "ida@", false); err == nil {
		t.Error("no address was taken")
	}
	first, err := b.App.Desk.FillGap(ctx, b.Rep, first.ID, wordingOf(first), "person.email", "ida@quill.example", false)
	if err != nil || first.ToEmail != "ida@quill.example" || len(first.Stops) > 0 {
		t.Fatalf("%s %v %v", first.ToEmail, first.Stops, err)
	}
	if p, _ := b.Store.Person(ctx, ida); p.Email != "" {
		t.Errorf("the record has %s", p.Email)
	}
	// The record's own address counts as soon as there is one, and the letter says so.
	if second, err = b.App.Desk.FillGap(ctx, b.Rep, second.ID, wordingOf(second), "person.email", "ida@ohm.example", true); err != nil || second.ToEmail != "ida@ohm.example" {
		t.Errorf("%s %v", second.ToEmail, err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, first.ID, first.Version, "ida@quill.example", desk.When{}); err == nil || !strings.Contains(err.Error(), "ida@ohm.example") {
		t.Errorf("it went to the other address: %v", err)
	}
	// What was typed for one person is not another's.
	bo := b.Person(t, "Bo", "Quill", "")
	third := b.Letter(t, bo, hello)
	if third, err = b.App.Desk.FillGap(ctx, b.Rep, third.ID, wordingOf(third), "person.email", "bo@quill.example", false); err != nil {
		t.Fatal(err)
	}
	moved, err := b.App.Desk.SetAddressee(ctx, b.Rep, third.ID, wordingOf(third), desk.Addressee{PersonID: b.Person(t, "Cy", "Quill", "")})
	if err != nil || moved.ToEmail != "" {
		t.Errorf("%q %v", moved.ToEmail, err)
	}
}

func TestSaveDraft_refuses(t *testing.T) {
	b := testbed.New(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Hello", "For you", body))
	good := desk.Wording{Version: l.Version, Subject: l.Subject, Body: document.NewPlain("Hello")}
	old := good
	old.Version = 0
	huge := good
	huge.Body = document.NewPlain(strings.Repeat("a", document.MaxBody+1))
	for name, row := range map[string]struct {
		w    desk.Wording
		u    domain.User
		want error
		why  string
	}{
		"not a document":  {desk.Wording{Version: l.Version}, b.Rep, nil, "subject.type"},
		"older version":   {old, b.Rep, domain.ErrStale, ""},
		"somebody else's": {good, b.Lead, domain.ErrNotFound, ""},
		"too long":        {huge, b.Rep, nil, "longer than 1 MiB"},
	} {
		_, err := b.App.Desk.SaveDraft(ctx, row.u, l.ID, row.w)
		if err == nil || row.want != nil && !errors.Is(err, row.want) || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if l, err := b.App.Desk.SaveDraft(ctx, b.Rep, l.ID, good); err != nil || l.Version != 2 || text(l) != "Hello" {
		t.Errorf("%+v, %v", l.Version, err)
	}
	if _, err := b.App.Desk.Letter(ctx, b.Lead, l.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("a draft is seen by another: %v", err)
	}
}

func TestFillGap(t *testing.T) {
	b := testbed.New(t)
	who := b.Person(t, "", "Quill", "q@firm.example")
	l := b.Letter(t, who, b.Template(t, "Hello", "{{person.first_name}}, hello", body))
	w := desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}
	if len(l.Gaps) != 1 || l.Gaps[0].Count != 2 || l.Gaps[0].Label != "First name" {
		t.Fatalf("gaps %+v", l.Gaps)
	}
	for value, why := range map[string]string{" ": "is empty", "a\nb": "line break"} {
		if _, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, w, "person.first_name", value, true); err == nil || !strings.Contains(err.Error(), why) {
			t.Errorf("%q: %v", value, err)
		}
	}
	old := w
	old.Version--
	if _, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, old, "person.first_name", "Ida", true); !errors.Is(err, domain.ErrStale) {
		t.Errorf("an old version was filled: %v", err)
	}
	if _, err := b.App.Desk.Correct(ctx, b.Rep, l.ID, old, "person.last_name", "Ida", true); !errors.Is(err, domain.ErrStale) {
		t.Errorf("an old version was corrected: %v", err)
	}
	if p, err := b.Store.Person(ctx, who); err != nil || p.FirstName != "" || p.LastName != "Quill" {
		t.Errorf("half done: %+v, %v", p, err)
	}
	l, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, w, "person.first_name", "Ada", true)
	if err != nil || l.SubjectLine != "Ada, hello" || !strings.HasPrefix(text(l), "Dear Ada,") || len(l.Gaps) != 0 {
		t.Fatalf("%q %q %v", l.SubjectLine, text(l), err)
	}
	p, err := b.Store.Person(ctx, who)
	if err != nil || p.FirstName != "Ada" || p.Version != 2 {
		t.Errorf("%+v, %v", p, err)
	}
	l = b.Letter(t, who, b.Template(t, "Sum", "s", "{{person.honorific}}"))
	l, err = b.App.Desk.FillGap(ctx, b.Rep, l.ID, desk.Wording{Version: 1, Subject: l.Subject, Body: l.Body}, "person.honorific", "Dr", false)
	if p, _ = b.Store.Person(ctx, who); err != nil || p.Honorific != "" || text(l) != "Dr" {
		t.Errorf("this letter only: %q %q %v", p.Honorific, text(l), err)
	}
}

// fake answers as told, one answer a letter, the last one for ever.
type fake struct {
	answers []error
	sent    int
}

func (f *fake) Send(context.Context, domain.Account, string, []string, []byte) (string, error) {
	err := f.answers[min(f.sent, len(f.answers)-1)]
	f.sent++
	return "250 ok", err
}

func TestDeliver_outcomes(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For you", body)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	waiting := func() desk.LetterSheet {
		l := b.Letter(t, ada, hello)
		l, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{})
		if err != nil {
			t.Fatal(err)
		}
		return l
	}
	later := &domain.SendError{Stage: "recipient", Temporary: true, Answer: "451 later"}
	for _, row := range []struct {
		name  string
		err   error
		state domain.LetterState
		why   string
	}{
		{"temporary", later, domain.Waiting, "451 later"},
		{"final", &domain.SendError{Stage: "recipient", Answer: "550 no"}, domain.Refused, "550 no"},
		{"no answer", &domain.SendError{Stage: "content", Temporary: true, Unsure: true, Answer: "EOF"}, domain.Unsure, "didn’t confirm it"},
		{"unknown", errors.New("boom"), domain.Unsure, "don’t know"},
	} {
		b.App.Connect(func(p *app.Ports) { p.Transport = &fake{answers: []error{row.err}} })
		l := waiting()
		if err := b.Deliver(ctx, l.ID); err != nil {
			t.Fatal(err)
		}
		l, err := b.App.Desk.Letter(ctx, b.Rep, l.ID)
		if err != nil || l.State != row.state || !strings.Contains(l.Reason, row.why) {
			t.Errorf("%s: %s %q, %v", row.name, l.State, l.Reason, err)
		}
		if row.state == domain.Waiting && (l.DueAt.Before(b.Now().Add(48*time.Second)) || l.DueAt.After(b.Now().Add(72*time.Second))) {
			t.Errorf("%s: next at %v", row.name, l.DueAt)
		}
	}
	// Tried again with the same bytes, with growing pauses, and given up.
	f := &fake{answers: []error{later}}
	b.App.Connect(func(p *app.Ports) { p.Transport = f })
	l := waiting()
	var first []byte
	for range 40 {
		if err := b.Deliver(ctx, l.ID); err != nil {
			t.Fatal(err)
		}
		raw, err := b.App.Desk.Source(ctx, b.Rep, l.ID)
		if first == nil {
			first = raw
		}
		if err != nil || !bytes.Equal(raw, first) {
			t.Fatalf("the bytes changed: %v", err)
		}
		b.Pass(6 * time.Hour)
	}
	if l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID); l.State != domain.Waiting && l.State != domain.Refused {
		t.Errorf("after ten days: %s", l.State)
	}
	if l.State != domain.Refused || !strings.Contains(l.Reason, "two days") || f.sent > 12 {
		t.Errorf("%s %q after %d attempts", l.State, l.Reason, f.sent)
	}
	// By hand it goes again.
	b.App.Connect(func(p *app.Ports) { p.Transport = &fake{answers: []error{nil}} })
	if _, err := b.App.Desk.Retry(ctx, b.Rep, l.ID); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if l, _ = b.App.Desk.Letter(ctx, b.Rep, l.ID); l.State != domain.Sent {
		t.Errorf("after the retry: %s", l.State)
	}
	var state *domain.StateError
	if _, err := b.App.Desk.TakeBack(ctx, b.Rep, l.ID); !errors.As(err, &state) {
		t.Errorf("a sent letter was taken back: %v", err)
	}
}

func TestFillGap_blanks(t *testing.T) {
	b := testbed.New(t)
	src := "{{?why: choice heat | noise}} {{?why}}, {{?day: date}}, {{?host: colleague}} <{{?host.email}}>{{#person.first_name}}!{{/person.first_name}}"
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "Asks", "s", src))
	if len(l.Gaps) != 3 || l.Gaps[0].Count != 2 || len(l.Gaps[2].Choices) != 2 || l.Gaps[2].Count != 2 {
		t.Fatalf("%+v", l.Gaps)
	}
	fill := func(path, value string) error {
		t.Helper()
		next, err := b.App.Desk.FillGap(ctx, b.Rep, l.ID, desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body}, path, value, false)
		if err == nil {
			l = next
		}
		return err
	}
	for _, row := range []struct{ path, value, why string }{
		{"?why", "fun", `"fun" is not one of heat, noise`},
		{"?day", "soon", "is not a date"},
		{"?host", "Nobody", "isn’t a user here"},
		{"?gone", "x", "no blank of this letter"},
	} {
		if err := fill(row.path, row.value); err == nil || !strings.Contains(err.Error(), row.why) {
			t.Errorf("%s: %v", row.path, err)
		}
	}
	for path, value := range map[string]string{"?why": "heat", "?day": "2026-03-02", "?host": "Greta Holm"} {
		if err := fill(path, value); err != nil {
			t.Errorf("%s: %v", path, err)
		}
	}
	if text(l) != "heat heat, 2 March 2026, Greta Holm <greta@fernhollow.example>!" || len(l.Stops) != 0 {
		t.Errorf("%q %v", text(l), l.Stops)
	}
}

func TestLetter_doubts(t *testing.T) {
	b := testbed.New(t)
	hello := b.Template(t, "Hello", "For {{person.full_name}}", "Dear {{person.first_name}} {{person.last_name}}")
	test := b.Person(t, "Test", "NULL", "test@null.example")
	l := b.Letter(t, test, hello)
	if len(l.Suggestions) != 2 || l.Suggestions[0].Value != "Test" || l.Suggestions[0].Better != "" || text(l) != "Dear ‹First name› ‹Last name›" || len(l.Gaps) != 3 {
		t.Fatalf("%+v %q", l.Suggestions, text(l))
	}
	w := func() desk.Wording { return desk.Wording{Version: l.Version, Subject: l.Subject, Body: l.Body} }
	var err error
	if l, err = b.App.Desk.ItIsRight(ctx, b.Rep, l.ID, w(), "person.first_name"); err != nil || text(l) != "Dear Test ‹Last name›" || len(l.Suggestions) != 1 {
		t.Fatalf("%q %+v, %v", text(l), l.Suggestions, err)
	}
	if l = b.Letter(t, test, hello); text(l) != "Dear Test ‹Last name›" || l.SubjectLine != "For Test" {
		t.Errorf("not remembered: %q, %q", text(l), l.SubjectLine)
	}
	marta := b.Person(t, "MARTA", "mcallister", "m@firm.example")
	l = b.Letter(t, marta, hello)
	if len(l.Suggestions) != 2 || l.Suggestions[1].Better != "McAllister" || text(l) != "Dear MARTA mcallister" {
		t.Fatalf("%+v %q", l.Suggestions, text(l))
	}
	if l, err = b.App.Desk.Correct(ctx, b.Rep, l.ID, w(), "person.first_name", "Marta", false); err != nil || text(l) != "Dear Marta mcallister" || len(l.Suggestions) != 1 {
		t.Errorf("%q %+v, %v", text(l), l.Suggestions, err)
	}
	if l, err = b.App.Desk.Correct(ctx, b.Rep, l.ID, w(), "person.last_name", "McAllister", true); err != nil || text(l) != "Dear Marta McAllister" {
		t.Errorf("%q, %v", text(l), err)
	}
	if p, err := b.Store.Person(ctx, marta); err != nil || p.FirstName != "MARTA" || p.LastName != "McAllister" {
		t.Errorf("%+v, %v", p, err)
	}
}

// A letter of which nobody knows whether it arrived is filed once its writer says so.
func TestArrived(t *testing.T) {
	b := testbed.New(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	l := b.Letter(t, ada, b.Template(t, "Hello", "Hi", "Dear {{person.first_name}}"))
	remind := b.Now().Add(24 * time.Hour)
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{Remind: &remind}); err != nil {
		t.Fatal(err)
	}
	var state *domain.StateError
	if _, err := b.App.Desk.Arrived(ctx, b.Rep, l.ID); !errors.As(err, &state) {
		t.Errorf("while it waits: %v", err)
	}
	now := b.Now()
	if moved, err := b.Store.Move(ctx, l.ID, domain.Waiting, domain.Change{To: domain.Sending, At: now, HandedOver: &now}); err != nil || !moved {
		t.Fatal(moved, err)
	}
	if err := b.App.Outbound.Recover(ctx); err != nil {
		t.Fatal(err)
	}
	after, err := b.App.Desk.Arrived(ctx, b.Rep, l.ID)
	if err != nil || after.State != domain.Sent || after.SentAt == nil || !after.SentAt.Equal(now) {
		t.Fatalf("%s %v %v", after.State, after.SentAt, err)
	}
	history, err := b.History(ctx, ada, 5, 0)
	if err != nil || len(history) != 1 || history[0].Kind != domain.EntrySent {
		t.Errorf("%+v %v", history, err)
	}
	if tasks, err := b.App.Tasks.Tasks(ctx, b.Rep, ada); err != nil || len(tasks) != 1 {
		t.Errorf("%+v %v", tasks, err)
	}
	if _, err := b.App.Desk.Arrived(ctx, b.Lead, l.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("by somebody else: %v", err)
	}
}
