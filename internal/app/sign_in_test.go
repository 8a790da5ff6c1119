package app_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"lucidletter/core/access"
	"lucidletter/internal/app/team"
	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Who guesses has to wait longer and longer; others, and the owner elsewhere, do not.
func TestSignIn_pace(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	if _, err := b.App.Team.AddUser(ctx, domain.User{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}, "long enough for her"); err != nil {
		t.Fatal(err)
	}
	guess := func(email, password, from string) time.Duration {
		_, err := b.App.Team.SignIn(ctx, email, password, from, "")
		var wait *team.WaitError
		switch {
		case errors.As(err, &wait):
			return wait.For
		case errors.Is(err, domain.ErrSignIn):
			return 0
		case err != nil:
			t.Fatal(err)
		}
		return -1 // signed in
	}
	for i := range 5 {
		if got := guess("nora@fernhollow.example", "guess", "203.0.113.9"); got != 0 {
			t.Fatalf("guess %d has to wait %v", i, got)
		}
	}
	last := time.Duration(0)
	for i := range 5 {
		wait := guess("nora@fernhollow.example", "guess", "203.0.113.9")
		if wait <= last {
			t.Fatalf("pause %d is %v after %v", i, wait, last)
		}
		last = wait
		b.Pass(wait)
		if got := guess("nora@fernhollow.example", "guess", "203.0.113.9"); got != 0 {
			t.Fatalf("after pause %d it has to wait %v", i, got)
		}
	}
	if got := guess("nora@fernhollow.example", "long enough for her", "203.0.113.9"); got <= 0 {
		t.Errorf("the right password in a pause: %v", got)
	}
	if got := guess("NORA@fernhollow.example", "long enough for her", "198.51.100.4"); got != -1 {
		t.Errorf("the owner from elsewhere: %v", got)
	}
	// One address that tries many accounts has to wait for any of them; unknown ones count
	// like others.
	for i := range 20 {
		guess(fmt.Sprintf("nobody%d@fernhollow.example", i), "guess", "203.0.113.77")
	}
	if got := guess("nora@fernhollow.example", "long enough for her", "203.0.113.77"); got <= 0 {
		t.Errorf("an address that tried twenty accounts: %v", got)
	}
}

// Signing in rightly many times is never held up.
func TestSignIn_often(t *testing.T) {
	b, ctx := testbed.New(t), context.Background()
	if _, err := b.App.Team.AddUser(ctx, domain.User{Email: "nora@fernhollow.example", FirstName: "Nora", Role: access.Representative}, "long enough for her"); err != nil {
		t.Fatal(err)
	}
	for i := range 22 {
		if _, err := b.App.Team.SignIn(ctx, "nora@fernhollow.example", "long enough for her", "203.0.113.9", ""); err != nil {
			t.Fatal(i, err)
		}
	}
}
