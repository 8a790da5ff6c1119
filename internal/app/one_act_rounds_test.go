package app_test

import (
	"testing"
	"time"

	"lucidletter/core/eligibility"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Acts of rounds.
func init() {
	open := func(t *testing.T, b *testbed.Bed) rounds.Sheet {
		t.Helper()
		return startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}} {{?story}}"), crowd(t, b, 2)...)
	}
	filled := func(t *testing.T, b *testbed.Bed) rounds.Sheet {
		t.Helper()
		noGrounds(t, b)
		s := open(t, b)
		if err := b.App.Rounds.Fill(ctx, b.Rep, s.ID, s.Version, "?story", "A story"); err != nil {
			t.Fatal(err)
		}
		return roundNow(t, b, s.ID)
	}
	sending := func(t *testing.T, b *testbed.Bed) rounds.Sheet {
		t.Helper()
		s := filled(t, b)
		sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
		b.Pass(time.Minute)
		if _, err := b.App.Rounds.Work(ctx); err != nil {
			t.Fatal(err)
		}
		return s
	}
	oneActs["StartRound"] = func(t *testing.T, b *testbed.Bed) func() error {
		people, template := crowd(t, b, 2), b.Template(t, "T", "S", "x")
		return func() error {
			_, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{People: people, TemplateID: &template})
			return err
		}
	}
	oneActs["Do, in a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := open(t, b)
		ids, err := b.Store.MemberIDs(ctx, s.ID)
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Rounds.Do(ctx, b.Rep, s.ID, rounds.ActAllow, ids, eligibility.NoBasis, "")
			return err
		}
	}
	oneActs["SetBasis"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := open(t, b)
		ids, err := b.Store.MemberIDs(ctx, s.ID)
		if err != nil {
			t.Fatal(err)
		}
		return func() error {
			_, err := b.App.Rounds.SetBasis(ctx, b.Rep, s.ID, ids, rounds.BasisGiven{Ground: "Referral", Source: "named"})
			return err
		}
	}
	oneActs["Paste"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := open(t, b)
		return func() error {
			_, err := b.App.Rounds.Paste(ctx, b.Rep, s.ID, "Email,Story\np0@quill.example,a\np1@quill.example,b", nil, true)
			return err
		}
	}
	oneActs["ChangeLetter, in a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := filled(t, b)
		return func() error {
			_, err := b.App.Rounds.ChangeLetter(ctx, b.Rep, s.ID, 1)
			return err
		}
	}
	oneActs["DropLetter, in a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := filled(t, b)
		if _, err := b.App.Rounds.ChangeLetter(ctx, b.Rep, s.ID, 1); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Rounds.DropLetter(ctx, b.Rep, s.ID, 1) }
	}
	oneActs["Send, a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := filled(t, b)
		return func() error {
			_, err := b.App.Rounds.Send(ctx, b.Rep, s.ID, s.Version, 2, domain.RoundWhen{All: true, OverHours: 2})
			return err
		}
	}
	for name, act := range map[string]func(b *testbed.Bed, id int64) error{
		"Pause":  func(b *testbed.Bed, id int64) error { return b.App.Rounds.Pause(ctx, b.Rep, id) },
		"Stop":   func(b *testbed.Bed, id int64) error { return b.App.Rounds.Stop(ctx, b.Rep, id) },
		"Reopen": func(b *testbed.Bed, id int64) error { return b.App.Rounds.Reopen(ctx, b.Rep, id) },
	} {
		oneActs[name+", a round"] = func(t *testing.T, b *testbed.Bed) func() error {
			s := sending(t, b)
			return func() error { return act(b, s.ID) }
		}
	}
	oneActs["GoOn, a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := sending(t, b)
		if err := b.App.Rounds.Pause(ctx, b.Rep, s.ID); err != nil {
			t.Fatal(err)
		}
		return func() error { return b.App.Rounds.GoOn(ctx, b.Rep, s.ID) }
	}
	oneActs["Work, letters of a round"] = func(t *testing.T, b *testbed.Bed) func() error {
		s := filled(t, b)
		sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
		b.Pass(time.Minute)
		if err := b.App.Rounds.Check(ctx, s.ID); err != nil {
			t.Fatal(err)
		}
		return func() error { _, err := b.App.Rounds.Work(ctx); return err }
	}
	oneActs["TakeListNews"] = func(t *testing.T, b *testbed.Bed) func() error {
		crowd(t, b, 1)
		list, err := b.App.Records.PutList(ctx, b.Rep, 0, domain.List{Name: "L", Filter: `kind is lead`})
		if err != nil {
			t.Fatal(err)
		}
		id, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{ListID: &list})
		if err != nil {
			t.Fatal(err)
		}
		if err := b.Store.DeletePerson(ctx, 1, new(b.Now())); err != nil {
			t.Fatal(err)
		}
		b.Person(t, "New", "Quill", "new@quill.example")
		return func() error { return b.App.Rounds.TakeListNews(ctx, b.Rep, id, new(true), new(true)) }
	}
}
