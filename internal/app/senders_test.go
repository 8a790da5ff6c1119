package app_test

import (
	"errors"
	"strings"
	"testing"

	"lucidletter/core/access"
	"lucidletter/core/document"
	"lucidletter/core/markup"
	"lucidletter/core/render"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// signing gives a bed whose representative signs letters, and an administrator.
func signing(t *testing.T) (*testbed.Bed, domain.User) {
	t.Helper()
	b := testbed.New(t)
	if err := b.App.Desk.SetSignature(ctx, b.Rep, b.Rep.Email, formatted(t, "<p><b>{{sender.full_name}}</b><br>Fernhollow</p>")); err != nil {
		t.Fatal(err)
	}
	admin := b.Lead
	admin.Role = access.Administrator
	if err := b.App.Desk.AllowFrom(ctx, admin, b.Rep.ID, "Fernhollow sales", "sales@fernhollow.example"); err != nil {
		t.Fatal(err)
	}
	return b, admin
}

func TestSignature_placedOnce(t *testing.T) {
	b, _ := signing(t)
	ada := b.Person(t, "Ada", "Quill", "ada@quill.example")
	for name, c := range map[string]struct {
		template int64
		want     string
	}{
		"at the end":              {b.Template(t, "A", "s", "Dear {{person.first_name}}"), "Dear Ada\n\nImre Falk\nFernhollow"},
		"where the field stands":  {b.Template(t, "B", "s", "Hello\n{{sender.signature}}\nP.S. soon"), "Hello\nImre Falk\nFernhollow\nP.S. soon"},
		"within a line":           {b.Template(t, "C", "s", "Yours {{sender.signature}}"), "Yours Imre Falk\nFernhollow"},
		"only the first of two":   {b.Template(t, "D", "s", "{{sender.signature}}\nor\n{{sender.signature}}"), "Imre Falk\nFernhollow\nor"},
		"before what is fixed":    {b.Template(t, "G", "s", "Hello\n\n{{fixed}}Net.{{/fixed}}"), "Hello\n\nImre Falk\nFernhollow\n\nNet."},
		"formatted, before it":    {b.Formatted(t, "H", "<p>Hello</p><hr>{{fixed}}<p>Net.</p>{{/fixed}}"), "Hello\n\nImre Falk\nFernhollow\n\n----------------------------------------\n\nNet."},
		"formatted, at the end":   {b.Formatted(t, "E", "<p>Dear {{person.first_name}}</p>"), "Dear Ada\n\nImre Falk\nFernhollow"},
		"formatted, at the field": {b.Formatted(t, "F", "<p>Hi</p><p>{{sender.signature}}</p><p>P.S.</p>"), "Hi\n\nImre Falk\nFernhollow\n\nP.S."},
	} {
		l := b.Letter(t, ada, c.template)
		if text(l) != c.want || len(l.Stops) > 0 {
			t.Errorf("%s: %q, stops %v", name, text(l), l.Stops)
		}
		if html := render.RenderHTML(l.Body, ""); strings.HasPrefix(name, "formatted") && !strings.Contains(html, "<strong>Imre Falk</strong>") && !strings.Contains(html, "<b>Imre Falk</b>") {
			t.Errorf("%s: not bold in %s", name, html)
		}
	}
}

func TestSignature_aloneIsNoLetter(t *testing.T) {
	b, _ := signing(t)
	l, err := b.App.Desk.StartLetter(ctx, b.Rep, b.Person(t, "Ada", "Quill", "ada@quill.example"), nil, nil)
	if err != nil || !strings.HasSuffix(text(l), "Imre Falk\nFernhollow") {
		t.Fatalf("%q %v", text(l), err)
	}
	found := false
	for _, n := range l.Stops {
		found = found || n.Code == "empty" && n.Part == document.Body
	}
	if !found {
		t.Errorf("stops %v", l.Stops)
	}
	// As a template it is the writer's own again.
	made, err := b.App.Desk.AsTemplate(ctx, b.Rep, l.ID, nil)
	if err != nil || strings.Contains(made.Words, "Imre") {
		t.Errorf("%q %v", made.Words, err)
	}
}

func TestSetFrom(t *testing.T) {
	b, admin := signing(t)
	if err := b.App.Desk.SetSignature(ctx, b.Rep, "sales@fernhollow.example", formatted(t, "<p>The sales desk</p>")); err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "A", "s", "Dear {{person.first_name}}"))
	l, err := b.App.Desk.SetFrom(ctx, b.Rep, l.ID, wordingOf(l), "SALES@fernhollow.example")
	if err != nil || l.FromEmail != "sales@fernhollow.example" || l.FromName != "Fernhollow sales" || text(l) != "Dear Ada\n\nThe sales desk" {
		t.Fatalf("%q %q %v", l.FromEmail, text(l), err)
	}
	// A signature that the writer took out stays out.
	w := wordingOf(l)
	w.Body = document.NewPlain("Dear Ada, briefly")
	if l, err = b.App.Desk.SetFrom(ctx, b.Rep, l.ID, w, b.Rep.Email); err != nil || text(l) != "Dear Ada, briefly" {
		t.Fatalf("%q %v", text(l), err)
	}
	if l, err = b.App.Desk.SetFrom(ctx, b.Rep, l.ID, wordingOf(l), "sales@fernhollow.example"); err != nil {
		t.Fatal(err)
	}
	sent, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, "ada@quill.example", desk.When{Local: "2026-03-05T09:00"})
	if err != nil || sent.State != domain.Waiting {
		t.Fatal(sent.State, err)
	}
	// The address is taken away while the letter waits.
	if err := b.App.Desk.ForbidFrom(ctx, admin, b.Rep.ID, "sales@fernhollow.example"); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, l.ID); err != nil {
		t.Fatal(err)
	}
	if after, err := b.Store.Letter(ctx, l.ID); err != nil || after.State != domain.Refused || !strings.Contains(after.Reason, "sales@") {
		t.Errorf("%s %q %v", after.State, after.Reason, err)
	}
	back, err := b.App.Desk.TakeBack(ctx, b.Rep, l.ID)
	if err != nil || len(back.Stops) != 1 || back.Stops[0].Code != "from" {
		t.Errorf("%v %v", back.Stops, err)
	}
}

// A name that stands above the signature too is the letter's own.
func TestSetFrom_sameNameAbove(t *testing.T) {
	b, _ := signing(t)
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "A", "s", "Dear {{person.first_name}}\n\nKind regards,\n{{sender.full_name}}"))
	if want := "Dear Ada\n\nKind regards,\nImre Falk\n\nImre Falk\nFernhollow"; text(l) != want {
		t.Fatalf("%q", text(l))
	}
	made, err := b.App.Desk.AsTemplate(ctx, b.Rep, l.ID, nil)
	if err != nil || markup.Print(made.Body) != "Dear {{person.first_name}}\n\nKind regards,\n{{sender.full_name}}\n" {
		t.Errorf("%q %v", markup.Print(made.Body), err)
	}
	if err := b.App.Desk.SetSignature(ctx, b.Rep, "sales@fernhollow.example", formatted(t, "<p>The sales desk</p>")); err != nil {
		t.Fatal(err)
	}
	l, err = b.App.Desk.SetFrom(ctx, b.Rep, l.ID, wordingOf(l), "sales@fernhollow.example")
	if err != nil || text(l) != "Dear Ada\n\nKind regards,\nImre Falk\n\nThe sales desk" {
		t.Errorf("%q %v", text(l), err)
	}
}

func TestSenders_refuse(t *testing.T) {
	b, admin := signing(t)
	var bad *domain.InvalidError
	for name, err := range map[string]error{
		"the signature in itself": b.App.Desk.SetSignature(ctx, b.Rep, b.Rep.Email, formatted(t, "<p>{{sender.signature}}</p>")),
		"a value that may miss":   b.App.Desk.SetSignature(ctx, b.Rep, b.Rep.Email, formatted(t, "<p>{{person.first_name}}</p>")),
		"too long":                b.App.Desk.SetSignature(ctx, b.Rep, b.Rep.Email, formatted(t, "<p>"+strings.Repeat("x", desk.MaxSignature)+"</p>")),
		"an address twice":        b.App.Desk.AllowFrom(ctx, admin, b.Rep.ID, "x", "Sales@fernhollow.example"),
		"no address":              b.App.Desk.AllowFrom(ctx, admin, b.Rep.ID, "x", "sales"),
		"a link that is none":     b.App.Desk.SetProfile(ctx, b.Rep, desk.Profile{BookingLink: "javascript:alert(1)"}),
	} {
		if !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := b.App.Desk.AllowFrom(ctx, b.Rep, b.Rep.ID, "Boss", "boss@fernhollow.example"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative allows: %v", err)
	}
	if err := b.App.Desk.ForbidFrom(ctx, b.Lead, b.Rep.ID, "sales@fernhollow.example"); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a lead forbids: %v", err)
	}
	if err := b.App.Desk.SetSignature(ctx, b.Rep, "boss@fernhollow.example", formatted(t, "<p>x</p>")); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("somebody else's address: %v", err)
	}
	if err := b.App.Desk.SetProfile(ctx, b.Rep, desk.Profile{Phone: "+44 20 7946 0999", JobTitle: "Sales", BookingLink: "https://fernhollow.example/meet"}); err != nil {
		t.Fatal(err)
	}
	if u, err := b.Store.User(ctx, b.Rep.ID); err != nil || u.JobTitle != "Sales" || u.BookingLink != "https://fernhollow.example/meet" {
		t.Errorf("%+v %v", u, err)
	}
}
