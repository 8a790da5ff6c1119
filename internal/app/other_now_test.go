package app_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// What the records say by now is compared with what a letter was made from: when it is sent from
// the desk, and when one that waited is handed over. It does not go before its writer has looked.
func TestSend_recordSaysSomethingElse(t *testing.T) {
	change := func(t *testing.T, b *testbed.Bed, id int64, f func(p *domain.Person)) {
		t.Helper()
		p, err := b.Store.Person(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		f(&p)
		p.UpdatedAt = b.Now()
		if err := b.Store.UpdatePerson(ctx, p); err != nil {
			t.Fatal(err)
		}
	}
	for name, row := range map[string]struct {
		change func(t *testing.T, b *testbed.Bed, person int64)
		want   string // "" it goes
	}{
		"name": {func(t *testing.T, b *testbed.Bed, id int64) {
			change(t, b, id, func(p *domain.Person) { p.FirstName = "Adele" })
		}, "First name is “Adele” on the record now; the letter was written with “Ada”."},
		"town": {func(t *testing.T, b *testbed.Bed, id int64) {
			change(t, b, id, func(p *domain.Person) { p.City = "Leeds" })
		}, "City is “Leeds” on the record now; the letter was written with “York”."},
		"town emptied": {func(t *testing.T, b *testbed.Bed, id int64) { change(t, b, id, func(p *domain.Person) { p.City = "" }) },
			"The record has no City any more; the letter was written with “York”."},
		"phone, which the letter does not say": {func(t *testing.T, b *testbed.Bed, id int64) {
			change(t, b, id, func(p *domain.Person) { p.Phone = "+44 20 7946 0018" })
		}, ""},
		"address": {func(t *testing.T, b *testbed.Bed, id int64) {
			change(t, b, id, func(p *domain.Person) { p.Email = "new@quill.example" })
		}, "new@quill.example"},
		"address gone": {func(t *testing.T, b *testbed.Bed, id int64) {
			change(t, b, id, func(p *domain.Person) { p.Email = "" })
		}, "has no email address"},
		"deleted": {func(t *testing.T, b *testbed.Bed, id int64) {
			now := b.Now()
			if err := b.Store.DeletePerson(ctx, id, &now); err != nil {
				t.Fatal(err)
			}
		}, "Ada Quill was deleted from the records."},
		"merged": {func(t *testing.T, b *testbed.Bed, id int64) {
			other := b.Person(t, "Bea", "Quill", "bea@quill.example")
			p, err := b.Store.Person(ctx, other)
			if err == nil {
				_, err = b.App.Records.Merge(ctx, b.Rep, other, id, p.Version, nil)
			}
			if err != nil {
				t.Fatal(err)
			}
		}, "bea@quill.example"},
	} {
		for _, when := range []string{"at the desk", "while it waits"} {
			t.Run(name+" "+when, func(t *testing.T) {
				b := testbed.New(t)
				person := b.Person(t, "Ada", "Quill", "ada@quill.example")
				change(t, b, person, func(p *domain.Person) { p.City = "York" })
				l := b.Letter(t, person, b.Template(t, "T", "Your room", "Dear {{person.first_name}},\n\nWe shall be in {{person.city}} next week and would like to show it to you."))
				if when == "at the desk" {
					row.change(t, b, person)
					_, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{})
					if (err == nil) != (row.want == "") || err != nil && !strings.Contains(err.Error(), row.want) {
						t.Errorf("%v", err)
					}
					if now, err := b.Store.Letter(ctx, l.ID); err != nil || (now.State != domain.Draft) != (row.want == "") {
						t.Errorf("%s, %v", now.State, err)
					}
					return
				}
				if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Local: "2026-03-03T09:00", Zone: "Europe/London"}); err != nil {
					t.Fatal(err)
				}
				b.Pass(time.Hour)
				row.change(t, b, person)
				b.Pass(48 * time.Hour)
				if err := b.Deliver(ctx, l.ID); err != nil {
					t.Fatal(err)
				}
				now, err := b.Store.Letter(ctx, l.ID)
				switch {
				case err != nil:
					t.Fatal(err)
				case row.want == "" && now.State != domain.Sent:
					t.Errorf("%s: %s", now.State, now.Reason)
				case row.want != "" && (now.State != domain.Refused || !strings.Contains(now.Reason, row.want)):
					t.Errorf("%s: %s", now.State, now.Reason)
				}
				if list, err := b.Store.PostLetters(ctx, "ada@quill.example", 9); err != nil || len(list) > 0 != (row.want == "") {
					t.Errorf("%d arrived, %v", len(list), err)
				}
			})
		}
	}
}

// Once its writer has looked, the letter goes, with the new words or as it is.
func TestSend_afterLooking(t *testing.T) {
	for _, take := range []bool{true, false} {
		b := testbed.New(t)
		person := b.Person(t, "Ada", "Quill", "ada@quill.example")
		l := b.Letter(t, person, b.Template(t, "T", "Your room", "Dear {{person.first_name}},\n\nYour room is ready."))
		put(t, b, person, "person.first_name", "Adele")
		var bad *domain.InvalidError
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{}); !errors.As(err, &bad) {
			t.Fatal(err)
		}
		s, err := b.App.Desk.SettleRecordNews(ctx, b.Rep, l.ID, desk.Wording{PersonID: person, Version: l.Version, Subject: l.Subject, Body: l.Body}, take)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, s.Version, s.ToEmail, desk.When{}); err != nil {
			t.Errorf("take %t: %v", take, err)
		}
	}
}
