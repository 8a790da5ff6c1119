package app_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app"
	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

func admin(b *testbed.Bed) domain.User {
	u := b.Lead
	u.Role = access.Administrator
	return u
}

func server(host string) team.AccountInput {
	secret := "right secret"
	return team.AccountInput{
		Name: "Main", Connections: 2, PerMinute: 60, PerDay: 2, ReturnTo: "back@fernhollow.example",
		Server: domain.Login{Host: host, Port: 587, Security: "starttls", Method: "plain", User: "imre"}, ServerSecret: &secret,
	}
}

func TestPutAccount(t *testing.T) {
	b := testbed.New(t)
	if _, err := b.App.Team.PutAccount(ctx, b.Rep, 0, server("mail.fernhollow.example")); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("a representative: %v", err)
	}
	sheet, err := b.App.Team.PutAccount(ctx, admin(b), 0, server("mail.fernhollow.example"))
	if err != nil || !sheet.HasSecret || sheet.Server.Secret != "" || bytes.Contains(sheet.Server.Sealed, []byte("secret")) {
		t.Fatalf("%+v %v", sheet, err)
	}
	same := server("mail.fernhollow.example")
	same.ServerSecret, same.PerDay = nil, 3
	if sheet, err = b.App.Team.PutAccount(ctx, admin(b), sheet.ID, same); err != nil || !sheet.HasSecret || sheet.PerDay != 3 {
		t.Errorf("without typing the password again: %+v %v", sheet, err)
	}
	// A password does not go to another server.
	same.Server.Host = "mail.else.example"
	if _, err := b.App.Team.PutAccount(ctx, admin(b), sheet.ID, same); err == nil || !strings.Contains(err.Error(), "password") {
		t.Errorf("another server: %v", err)
	}
	for name, change := range map[string]func(*team.AccountInput){
		"no name":              func(in *team.AccountInput) { in.Name = " " },
		"no server":            func(in *team.AccountInput) { in.Server.Host = "" },
		"a host with a space":  func(in *team.AccountInput) { in.Server.Host = "a b" },
		"a line end":           func(in *team.AccountInput) { in.Server.Host = "a\r\nb" },
		"no port":              func(in *team.AccountInput) { in.Server.Port = 0 },
		"no protection":        func(in *team.AccountInput) { in.Server.Security = "" },
		"a password unguarded": func(in *team.AccountInput) { in.Server.Security = "none" },
		"no user":              func(in *team.AccountInput) { in.Server.User = "" },
		"no password":          func(in *team.AccountInput) { in.ServerSecret = nil },
		"too many connections": func(in *team.AccountInput) { in.Connections = 11 },
		"a limit below none":   func(in *team.AccountInput) { in.PerDay = -1 },
		"a bad address":        func(in *team.AccountInput) { in.Addresses = []string{"imre"} },
		"a bad return address": func(in *team.AccountInput) { in.ReturnTo = "back" },
		"a mailbox cut short":  func(in *team.AccountInput) { in.Mailbox = domain.Login{Host: "imap.x.example"} },
	} {
		in := server("mail.fernhollow.example")
		change(&in)
		var bad *domain.InvalidError
		if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, in); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	keyed, err := b.App.Team.NewDKIMKey(ctx, admin(b), sheet.ID, "Fernhollow.example", "letters1")
	if err != nil || keyed.Record.Name != "letters1._domainkey.fernhollow.example" || !strings.HasPrefix(keyed.Record.Value, "v=DKIM1; k=rsa; p=MII") {
		t.Errorf("%+v %v", keyed.Record, err)
	}
	if err := b.App.Team.DeleteAccount(ctx, admin(b), sheet.ID); err != nil {
		t.Fatal(err)
	}
	if list, err := b.App.Team.Accounts(ctx, admin(b)); err != nil || len(list) != 0 {
		t.Errorf("%+v %v", list, err)
	}
	// It comes back as it was, with its password and key.
	if err := b.App.Team.PutBackAccount(ctx, b.Rep, sheet.ID); !errors.Is(err, domain.ErrDenied) {
		t.Errorf("%v", err)
	}
	if err := b.App.Team.PutBackAccount(ctx, admin(b), sheet.ID); err != nil {
		t.Fatal(err)
	}
	acc, err := b.App.Team.AccountFor(ctx, b.Rep.ID, b.Rep.Email)
	if err != nil || acc.ID != sheet.ID || acc.DKIMSelector != "letters1" {
		t.Errorf("%+v %v", acc, err)
	}
	if acc, err = b.App.Team.OpenAccount(acc); err != nil || acc.Server.Secret == "" {
		t.Errorf("%+v %v", acc.Server, err)
	}
	if err := b.App.Team.PutBackAccount(ctx, admin(b), sheet.ID); !errors.Is(err, domain.ErrNotFound) {
		t.Errorf("one that is there was put back: %v", err)
	}
}

func TestAccountFor(t *testing.T) {
	b := testbed.New(t)
	add := func(name string, user *int64, audience access.Audience, addresses ...string) {
		in := server("mail.fernhollow.example")
		in.Name, in.UserID, in.Audience, in.Addresses = name, user, audience, addresses
		if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, in); err != nil {
			t.Fatal(err)
		}
	}
	want := func(user domain.User, from, name string) {
		t.Helper()
		if acc, err := b.App.Team.AccountFor(ctx, user.ID, from); err != nil || acc.Name != name {
			t.Errorf("%s from %s: %q %v", user.FirstName, from, acc.Name, err)
		}
	}
	want(b.Rep, "imre@fernhollow.example", "")
	add("All", nil, access.Audience{})
	want(b.Rep, "imre@fernhollow.example", "All")
	add("Domain", nil, access.Audience{}, "@fernhollow.example")
	want(b.Rep, "imre@FERNHOLLOW.example", "Domain")
	want(b.Rep, "imre@notfernhollow.example", "All")
	add("Own", &b.Rep.ID, access.Audience{})
	want(b.Rep, "imre@fernhollow.example", "Own")
	want(b.Lead, "greta@fernhollow.example", "Domain")
	// A shared address is for those who are named.
	add("Office", nil, access.Audience{Who: access.Some, Users: []int64{b.Lead.ID}}, "office@fernhollow.example")
	for user, has := range map[*domain.User]bool{&b.Lead: true, &b.Rep: false} {
		list, err := b.App.Team.FromAddresses(ctx, *user)
		found := false
		for _, f := range list {
			found = found || f.Email == "office@fernhollow.example" && f.Name == user.Name()
		}
		if err != nil || found != has {
			t.Errorf("%s: %+v %v", user.FirstName, list, err)
		}
	}
}

// counting hands everything over.
type counting struct{ by []string }

func (c *counting) Send(_ context.Context, by domain.Account, from string, _ []string, _ []byte) (string, error) {
	c.by = append(c.by, by.Server.Secret+" "+from)
	return "250 ok", nil
}

// More than an account may send in a day waits for the next, with the reason.
func TestDeliver_dailyLimit(t *testing.T) {
	b := testbed.New(t)
	if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, server("mail.fernhollow.example")); err != nil {
		t.Fatal(err)
	}
	c := &counting{}
	b.App.Connect(func(p *app.Ports) { p.Transport = c })
	hello := b.Template(t, "T", "For you", "Dear {{person.first_name}}")
	var ids []int64
	for _, name := range []string{"ada", "bo", "cy"} {
		l := b.Letter(t, b.Person(t, name, "Quill", name+"@quill.example"), hello)
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); err != nil {
			t.Fatal(err)
		}
		if err := b.Deliver(ctx, l.ID); err != nil {
			t.Fatal(err)
		}
		ids = append(ids, l.ID)
	}
	last, err := b.Store.Letter(ctx, ids[2])
	tomorrow := testbed.Start.Truncate(24 * time.Hour).Add(24 * time.Hour)
	if err != nil || last.State != domain.Waiting || last.Attempts != 0 || last.DueAt.Before(tomorrow) || !strings.Contains(last.Reason, "sends 2 letters a day at most") || len(c.by) != 2 {
		t.Fatalf("%s %q %v %v", last.State, last.Reason, last.DueAt, c.by)
	}
	first, _ := b.Store.Letter(ctx, ids[0])
	if c.by[0] != "right secret back+"+first.Token+"@fernhollow.example" {
		t.Errorf("%q", c.by[0])
	}
	b.Pass(last.DueAt.Sub(b.Now()))
	if err := b.Deliver(ctx, ids[2]); err != nil {
		t.Fatal(err)
	}
	if last, _ = b.Store.Letter(ctx, ids[2]); last.State != domain.Sent {
		t.Errorf("the day after: %s %q", last.State, last.Reason)
	}
}

// The story of a letter, step by step; another time; cancelled.
func TestLetter_steps(t *testing.T) {
	b := testbed.New(t)
	b.App.Connect(func(p *app.Ports) {
		p.Transport = &fake{answers: []error{&domain.SendError{Stage: "recipient", Temporary: true, Answer: "451 later"}, nil}}
	})
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Template(t, "T", "For you", "Dear {{person.first_name}}"))
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-05T09:00"}); err != nil {
		t.Fatal(err)
	}
	moved, err := b.App.Desk.ChangeTime(ctx, b.Rep, l.ID, desk.When{Local: "2026-03-06T09:00"})
	if err != nil || moved.State != domain.Waiting || moved.DueAt.Day() != 6 {
		t.Fatalf("%+v %v", moved.Letter, err)
	}
	if _, err := b.App.Desk.ChangeTime(ctx, b.Lead, l.ID, desk.When{}); err == nil {
		t.Error("somebody else set the time")
	}
	b.Pass(moved.DueAt.Sub(b.Now()))
	for range 2 {
		if err := b.Deliver(ctx, l.ID); err != nil {
			t.Fatal(err)
		}
		b.Pass(2 * time.Minute)
	}
	steps, err := b.App.Desk.StepsOf(ctx, b.Rep, l.ID)
	var got []string
	for _, s := range steps {
		got = append(got, string(s.State)+" "+s.Reason)
	}
	if want := "waiting ;waiting The time was changed;sending ;waiting 451 later;sending ;sent 250 ok"; err != nil || strings.Join(got, ";") != want {
		t.Errorf("%s %v", strings.Join(got, ";"), err)
	}
	other := b.Letter(t, l.PersonID, *l.TemplateID)
	if _, err := b.App.Desk.Send(ctx, b.Rep, other.ID, other.Version, other.ToEmail, desk.When{Local: "2026-03-20T09:00"}); err != nil {
		t.Fatal(err)
	}
	if out, err := b.App.Desk.Cancel(ctx, b.Rep, other.ID); err != nil || out.State != domain.Cancelled || !strings.Contains(out.Reason, "Imre") {
		t.Errorf("%+v %v", out.Letter, err)
	}
	if err := b.Deliver(ctx, other.ID); err != nil {
		t.Fatal(err)
	}
	if out, _ := b.Store.Letter(ctx, other.ID); out.State != domain.Cancelled {
		t.Errorf("%s", out.State)
	}
}
