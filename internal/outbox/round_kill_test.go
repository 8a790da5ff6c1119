package outbox_test

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"testing"
	"time"

	"lucidletter/core/field"
	"lucidletter/internal/app/rounds"
	"lucidletter/internal/domain"
	"lucidletter/internal/store"
	"lucidletter/internal/testbed"
)

// A round of ten thousand is sent, and the program killed twenty times meanwhile. After each
// kill the counts add up to the selection; in the end everybody got the letter once or is
// said to be unsure, but those who were held back, have a gap or no address.
func TestRound_killed(t *testing.T) {
	people, kills := 10_000, 20
	if testing.Short() {
		people, kills = 1000, 5
	}
	post := testbed.New(t) // the other side, in this process
	folder := t.TempDir()
	s, err := store.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	b := testbed.On(t, s, folder)
	id := tenThousand(t, b, people)
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(16, 2))
	for kill := range kills {
		runKilled(t, folder, post.Post.Addr(), time.Duration(200+r.IntN(500))*time.Millisecond)
		if g := groupsIn(t, folder, id); g.Total() != people {
			t.Fatalf("after kill %d the counts add up to %d: %s", kill, g.Total(), g)
		}
	}
	runKilled(t, folder, post.Post.Addr(), 0)
	if s, err = store.Open(ctx, folder); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	g, err := s.Groups(ctx, id)
	if err != nil || g.Total() != people || g.Gap != people/100 || g.Skipped != people/100 || g.Aside != people/100 || g.Waiting+g.Ready+g.Unknown+g.Left+g.Refused > 0 {
		t.Errorf("in the end: %s, %v", g, err)
	}
	t.Log(g)
	boxes, err := post.Store.Mailboxes(ctx, "", people+1)
	if err != nil {
		t.Fatal(err)
	}
	if n := len(boxes); n < g.Sent || n > g.Sent+g.Unsure {
		t.Errorf("%d got a letter; %d are said to be sent, %d unsure", n, g.Sent, g.Unsure)
	}
	for _, box := range boxes {
		if box.Count != 1 {
			t.Errorf("%s got %d letters", box.Name, box.Count)
		}
	}
}

// tenThousand begins to send a round; every hundredth has a gap, no address, or is held back.
func tenThousand(t *testing.T, b *testbed.Bed, n int) int64 {
	t.Helper()
	set := domain.UsualSettings()
	set.Grounds = []string{}
	if err := b.Store.PutSettings(ctx, set); err != nil {
		t.Fatal(err)
	}
	people := make([]domain.Person, n)
	for i := range people {
		people[i] = domain.Person{Kind: field.Lead, FirstName: fmt.Sprintf("P%d", i), LastName: "Quill", Email: fmt.Sprintf("p%d@quill.example", i), City: "Leeds", CreatedAt: b.Now(), UpdatedAt: b.Now()}
		switch i % 100 {
		case 1:
			people[i].City = ""
		case 2:
			people[i].Email = ""
		}
	}
	ids, err := b.Store.AddPeople(ctx, people)
	if err != nil {
		t.Fatal(err)
	}
	template := b.Template(t, "T", "For {{person.first_name}}", "Dear {{person.first_name}},\n\nHow is {{person.city}}?")
	id, err := b.App.Rounds.StartRound(ctx, b.Rep, rounds.Start{People: ids, TemplateID: &template})
	if err == nil {
		err = b.App.Rounds.Check(ctx, id)
	}
	if err != nil {
		t.Fatal(err)
	}
	var held []int64
	for i := 3; i < n; i += 100 {
		held = append(held, ids[i])
	}
	if _, err := b.App.Rounds.Do(ctx, b.Rep, id, rounds.ActAside, held, "", ""); err != nil {
		t.Fatal(err)
	}
	sheet, err := b.App.Rounds.Round(ctx, b.Rep, id)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Rounds.Send(ctx, b.Rep, id, sheet.Version, n-3*n/100, domain.RoundWhen{All: true}); err != nil {
		t.Fatal(err)
	}
	return id
}

func groupsIn(t *testing.T, folder string, id int64) domain.RoundGroups {
	t.Helper()
	s, err := store.Open(ctx, folder)
	if err != nil {
		t.Fatal(err)
	}
	g, err := s.Groups(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	return g
}

// runKilled runs the program on a data folder until nothing is left to do or, after a while,
// it is killed.
func runKilled(t *testing.T, folder, server string, kill time.Duration, env ...string) {
	t.Helper()
	c := exec.Command(os.Args[0], "-test.run=^$")
	c.Env = append(append(os.Environ(), "OUTBOX_FOLDER="+folder, "OUTBOX_SERVER="+server), env...)
	var said strings.Builder
	c.Stderr = &said
	if err := c.Start(); err != nil {
		t.Fatal(err)
	}
	if kill > 0 {
		time.Sleep(kill)
		_ = c.Process.Kill() // it may have ended already
	}
	if err := c.Wait(); err != nil && kill == 0 {
		t.Fatalf("the last run: %v %s", err, said.String())
	}
}
