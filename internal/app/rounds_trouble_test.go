package app_test

import (
	"fmt"
	"net"
	"strconv"
	"strings"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/core/field"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// crowd adds leads P0, P1 and so on.
func crowd(t *testing.T, b *testbed.Bed, n int) []int64 {
	t.Helper()
	var people []int64
	for i := range n {
		people = append(people, b.Person(t, fmt.Sprintf("P%d", i), "Quill", fmt.Sprintf("p%d@quill.example", i)))
	}
	return people
}

// goTimes are when the letters of a round are to go, in UTC.
func goTimes(t *testing.T, b *testbed.Bed, id int64) string {
	t.Helper()
	rows, _, err := b.App.Rounds.People(ctx, b.Rep, domain.MembersQuery{RoundID: id, Limit: 99})
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, r := range rows {
		if r.GoAt != nil {
			out = append(out, r.GoAt.UTC().Format("02 15:04"))
		}
	}
	return strings.Join(out, ", ")
}

func TestRound_when(t *testing.T) {
	for _, row := range []struct {
		when domain.RoundWhen
		want string
	}{
		{domain.RoundWhen{All: true}, "02 09:30, 02 09:30, 02 09:30, 02 09:30"},
		{domain.RoundWhen{All: true, OverHours: 2}, "02 09:30, 02 10:00, 02 10:30, 02 11:00"},
		{domain.RoundWhen{All: true, Local: "2026-03-03T08:00", Zone: "America/New_York", OverHours: 4}, "03 13:00, 03 14:00, 03 15:00, 03 16:00"},
		// Monday 09:30 in London, 18:30 in Tokyo, 04:30 in New York; the last has no zone and no country.
		{domain.RoundWhen{All: true, Morning: true}, "03 09:00, 03 00:00, 02 14:00, 03 09:00"},
	} {
		b := testbed.New(t)
		noGrounds(t, b)
		people := crowd(t, b, 4)
		for i, zone := range []string{"Europe/London", "Asia/Tokyo", "America/New_York", ""} {
			p, err := b.Store.Person(ctx, people[i])
			if err != nil {
				t.Fatal(err)
			}
			p.TimeZone = zone
			if err := b.Store.UpdatePerson(ctx, p); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.Store.SetHold(ctx, b.Rep.ID, 0); err != nil {
			t.Fatal(err)
		}
		b.Rep.HoldSeconds = 0
		s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people...)
		sendRound(t, b, s.ID, 4, row.when)
		got := goTimes(t, b, s.ID)
		if row.when.Morning {
			// A working morning begins at some minute of its own.
			if !sameHours(got, row.want) {
				t.Errorf("%+v: %s", row.when, got)
			}
			continue
		}
		if got != row.want {
			t.Errorf("%+v: got %s, want %s", row.when, got, row.want)
		}
	}
}

// sameHours compares the days and hours of times, an hour more or less.
func sameHours(got, want string) bool {
	g, w := strings.Split(got, ", "), strings.Split(want, ", ")
	if len(g) != len(w) {
		return false
	}
	for i := range g {
		a, errA := time.Parse("02 15:04", g[i])
		b, errB := time.Parse("02 15:04", w[i])
		if errA != nil || errB != nil || a.Sub(b).Abs() > time.Hour {
			return false
		}
	}
	return true
}

func TestRound_badTimes(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), crowd(t, b, 1)...)
	for _, w := range []domain.RoundWhen{{All: true, Local: "2020-01-01T09:00"}, {All: true, Local: "soon"}, {All: true, Local: "2026-03-03T09:00", Zone: "Mars/Olympus"}, {All: true, OverHours: -1}, {}} {
		if _, err := b.App.Rounds.Send(ctx, b.Rep, s.ID, s.Version, 1, w); err == nil {
			t.Errorf("%+v was taken", w)
		}
	}
	if goTimes(t, b, s.ID) != "" {
		t.Error("something of what was refused is left")
	}
}

// Records are merged and deleted while the round is being sent: nobody gets two letters, and
// who is gone is told.
func TestRound_recordsGo(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 4)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people...)
	sendRound(t, b, s.ID, 4, domain.RoundWhen{All: true})
	kept, err := b.Store.Person(ctx, people[0])
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Records.Merge(ctx, b.Rep, people[0], people[1], kept.Version, nil); err != nil {
		t.Fatal(err)
	}
	now := b.Now()
	if err := b.Store.DeletePerson(ctx, people[2], &now); err != nil {
		t.Fatal(err)
	}
	b.Pass(time.Minute)
	workAll(t, b)
	got := standing(t, b, s.ID)
	for _, want := range []string{"P0: sent", "P1: skipped, The record was merged into P0 Quill", "P2: skipped, The record was deleted", "P3: sent"} {
		if !strings.Contains(got, want) {
			t.Errorf("no %q in\n%s", want, got)
		}
	}
	// Who is in the round already is not put there twice.
	if s = roundNow(t, b, s.ID); s.Total != 4 || s.State != domain.RoundDone {
		t.Errorf("%s, %s", s.State, s.Groups)
	}
}

// The record that somebody's was merged into takes their place.
func TestRound_mergedIntoAnother(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 3)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people[:2]...)
	for gone, kept := range map[int64]int64{people[0]: people[2]} {
		p, err := b.Store.Person(ctx, kept)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := b.App.Records.Merge(ctx, b.Rep, kept, gone, p.Version, nil); err != nil {
			t.Fatal(err)
		}
	}
	if n, err := b.App.Rounds.Do(ctx, b.Rep, s.ID, rounds.ActInstead, people[:2], "", ""); err != nil || n != 1 {
		t.Errorf("%d, %v", n, err)
	}
	if roundNow(t, b, s.ID); standing(t, b, s.ID) != "P2: ready\nP1: ready" {
		t.Error(standing(t, b, s.ID))
	}
}

// A letter that was changed by hand does not go with the words of a record that says
// something else by now, nor to an address that is gone.
func TestRound_changedLetterAndItsRecord(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 2)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people...)
	for _, person := range people {
		if _, err := b.App.Rounds.ChangeLetter(ctx, b.Rep, s.ID, person); err != nil {
			t.Fatal(err)
		}
	}
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	for i, change := range []func(p *domain.Person){func(p *domain.Person) { p.FirstName = "Else" }, func(p *domain.Person) { p.Email = "other@quill.example" }} {
		p, err := b.Store.Person(ctx, people[i])
		if err != nil {
			t.Fatal(err)
		}
		change(&p)
		if err := b.Store.UpdatePerson(ctx, p); err != nil {
			t.Fatal(err)
		}
	}
	b.Pass(time.Minute)
	workAll(t, b)
	got := standing(t, b, s.ID)
	if !strings.Contains(got, "Else: changed, The record says something else since this letter was changed: First name is “Else” now") || !strings.Contains(got, "P1: sent") {
		t.Error(got)
	}
	if list, err := b.Store.PostLetters(ctx, "other@quill.example", 9); err != nil || len(list) != 1 {
		t.Errorf("%d letters at the new address, %v", len(list), err)
	}
	if list, err := b.Store.PostLetters(ctx, "p1@quill.example", 9); err != nil || len(list) != 0 {
		t.Errorf("%d letters at the old address, %v", len(list), err)
	}
}

// A letter waits in the outbox while its reader's records are merged with those of somebody
// who got theirs: it does not go to them too.
func TestRound_mergedWhileWaiting(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	people := crowd(t, b, 2)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), people...)
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	if _, err := b.App.Rounds.Work(ctx); err != nil {
		t.Fatal(err)
	}
	due, _, err := b.Store.Due(ctx, b.Now(), 9)
	if err != nil || len(due) != 2 {
		t.Fatal(due, err)
	}
	if err := b.Deliver(ctx, due[0].ID); err != nil {
		t.Fatal(err)
	}
	// The other letter goes to the same address by now, of the record as well.
	for _, query := range []string{`UPDATE letters SET to_email = 'P0@quill.example' WHERE id = ?`, `UPDATE people SET email = 'P0@quill.example' WHERE id = (SELECT person_id FROM letters WHERE id = ?)`} {
		if _, err := b.Store.DB().Exec(query, due[1].ID); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Deliver(ctx, due[1].ID); err != nil {
		t.Fatal(err)
	}
	if l, err := b.Store.Letter(ctx, due[1].ID); err != nil || l.State != domain.Refused || !strings.Contains(l.Reason, "Another letter of this round") {
		t.Errorf("%s, %q, %v", l.State, l.Reason, err)
	}
}

// The account sends three letters a day: the others wait, and go on the next days.
func TestRound_dailyLimit(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), crowd(t, b, 7)...)
	host, port, err := net.SplitHostPort(b.Post.Addr())
	if err != nil {
		t.Fatal(err)
	}
	number, err := strconv.Atoi(port)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Team.PutAccount(ctx, admin(b), 0, team.AccountInput{
		Name: "Main", Audience: access.Audience{Who: access.Everybody}, Connections: 1, PerDay: 3, Server: domain.Login{Host: host, Port: number, Security: "none", Method: "none"},
	}); err != nil {
		t.Fatal(err)
	}
	sendRound(t, b, s.ID, 7, domain.RoundWhen{All: true})
	for day, sent := range []int{3, 6, 7} {
		for range 20 {
			b.Pass(time.Minute)
			if _, err := b.App.Rounds.Work(ctx); err != nil {
				t.Fatal(err)
			}
			due, _, err := b.Store.Due(ctx, b.Now(), 99)
			if err != nil {
				t.Fatal(err)
			}
			for _, l := range due {
				if err := b.Deliver(ctx, l.ID); err != nil {
					t.Fatal(err)
				}
			}
		}
		g, err := b.Store.Groups(ctx, s.ID)
		if err != nil || g.Sent != sent || g.Total() != 7 {
			t.Errorf("day %d: %s, %v", day+1, g, err)
		}
		b.Pass(24 * time.Hour)
	}
}

// A letter was being handed over when the round was paused, and the server wants it later:
// it waits for the round. In a round that was stopped it does not go.
func TestRound_pausedWhileHandedOver(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), crowd(t, b, 2)...)
	sendRound(t, b, s.ID, 2, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	if _, err := b.App.Rounds.Work(ctx); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Rounds.Pause(ctx, b.Rep, s.ID); err != nil {
		t.Fatal(err)
	}
	later := func() {
		t.Helper()
		if _, err := b.Store.DB().Exec(`UPDATE letters SET due_at = ? WHERE round_id = ? AND state = 'waiting'`, b.Now(), s.ID); err != nil {
			t.Fatal(err)
		}
	}
	later()
	if _, err := b.App.Rounds.Work(ctx); err != nil {
		t.Fatal(err)
	}
	if due, _, err := b.Store.Due(ctx, b.Now().Add(time.Hour), 9); err != nil || len(due) > 0 {
		t.Errorf("%d letters of a paused round are due, %v", len(due), err)
	}
	later()
	due, _, err := b.Store.Due(ctx, b.Now(), 9)
	if err != nil || len(due) != 2 {
		t.Fatal(due, err)
	}
	if _, err := b.Store.DB().Exec(`UPDATE rounds SET state = 'stopped' WHERE id = ?`, s.ID); err != nil {
		t.Fatal(err)
	}
	if err := b.Deliver(ctx, due[0].ID); err != nil {
		t.Fatal(err)
	}
	if l, err := b.Store.Letter(ctx, due[0].ID); err != nil || l.State != domain.Refused || l.Reason != "The round was stopped." {
		t.Errorf("%s, %q, %v", l.State, l.Reason, err)
	}
}

// What has not gone is taken back with its words, and can be sent again.
func TestRound_reopened(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}} of {{person.city}}"), crowd(t, b, 60)...)
	if err := b.App.Rounds.Fill(ctx, b.Rep, s.ID, s.Version, "person.city", "your town"); err != nil {
		t.Fatal(err)
	}
	sendRound(t, b, s.ID, 60, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	if _, err := b.App.Rounds.Work(ctx); err != nil {
		t.Fatal(err)
	}
	if err := b.App.Rounds.Reopen(ctx, b.Rep, s.ID); err != nil {
		t.Fatal(err)
	}
	s = roundNow(t, b, s.ID)
	if s.State != domain.RoundOpen || s.Groups.Ready != 60 || s.Groups.Changed != 50 || s.Groups.Proofread != 50 || s.Groups.Going != 0 {
		t.Fatalf("%s %+v", s.State, s.Groups)
	}
	sendRound(t, b, s.ID, 60, domain.RoundWhen{All: true})
	b.Pass(time.Minute)
	workAll(t, b)
	if s = roundNow(t, b, s.ID); s.State != domain.RoundDone || s.Groups.Sent != 60 {
		t.Errorf("%s %s\n%s", s.State, s.Groups, standing(t, b, s.ID))
	}
}

// A field that is set afterwards was deleted meanwhile: the letter has gone, and that is told.
func TestRound_fieldDeleted(t *testing.T) {
	b := testbed.New(t)
	noGrounds(t, b)
	if err := b.App.Records.AddOwnField(ctx, field.Def{Path: "lead.own.round", Record: field.Lead, Label: "Round", Type: field.Text, Own: true}); err != nil {
		t.Fatal(err)
	}
	s := startRound(t, b, b.Template(t, "T", "S", "Dear {{person.first_name}}"), crowd(t, b, 1)...)
	if err := b.App.Rounds.SetEnvelope(ctx, b.Rep, s.ID, s.Version, rounds.Envelope{Name: "R", After: domain.RoundAfter{Path: "lead.own.round", Value: "spring"}}); err != nil {
		t.Fatal(err)
	}
	sendRound(t, b, s.ID, 1, domain.RoundWhen{All: true})
	if _, err := b.Store.DB().Exec(`DELETE FROM own_fields`); err != nil {
		t.Fatal(err)
	}
	b.App.Records.ForgetCatalogue()
	b.Pass(time.Minute)
	workAll(t, b)
	rows, _, err := b.App.Rounds.People(ctx, b.Rep, domain.MembersQuery{RoundID: s.ID, Limit: 9})
	if err != nil || rows[0].LetterState != domain.Sent || !strings.Contains(rows[0].Told, "the field could not be set") {
		t.Errorf("%+v, %v", rows, err)
	}
}
