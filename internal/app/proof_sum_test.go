package app_test

import (
	"strings"
	"testing"
	"time"

	"lucidletter/internal/app/desk"
	"lucidletter/internal/app/library"
	"lucidletter/internal/testbed"
)

// A letter goes as its proof showed it: what a colleague changes around its words between the proof and the
// sending is told, and another look is enough.
func TestSend_asTheProofShowed(t *testing.T) {
	b := testbed.New(t)
	in := library.StationeryInput{Name: "House", Header: formatted(t, "<p>Fernhollow Cold Rooms</p>"), Footer: formatted(t, "<p>Bye</p>"), Ready: true, Default: true}
	st, err := b.App.Library.AddStationery(ctx, b.Lead, in)
	if err != nil {
		t.Fatal(err)
	}
	l := b.Letter(t, b.Person(t, "Ada", "Quill", "ada@quill.example"), b.Formatted(t, "F", "<p>Dear {{person.first_name}}, thank you for the visit.</p>"))
	look := func() string {
		t.Helper()
		p, err := b.App.Desk.ProofOf(ctx, b.Rep, l.ID, desk.When{})
		if err != nil || p.Sum == "" {
			t.Fatalf("%q, %v", p.Sum, err)
		}
		return p.Sum
	}
	seen := look()
	b.Pass(3 * time.Minute)
	if again := look(); again != seen {
		t.Fatal("the same letter has two sums")
	}
	in.Header = formatted(t, "<p>Under new management</p>")
	if _, err := b.App.Library.ChangeStationery(ctx, b.Lead, st.ID, st.Version, in); err != nil {
		t.Fatal(err)
	}
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Proof: seen}); err == nil || !strings.Contains(err.Error(), "changed since you looked") {
		t.Fatalf("%v; want that it was changed", err)
	}
	inState(t, b, l.ID, "draft")
	if _, err := b.App.Desk.Send(ctx, b.Rep, l.ID, l.Version, l.ToEmail, desk.When{Proof: look()}); err != nil {
		t.Fatal(err)
	}
}
