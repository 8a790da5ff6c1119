package store

import (
	"context"
	"errors"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"lucidletter/internal/domain"
)

// endless counts for hours.
const endless = `WITH RECURSIVE c(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM c WHERE n < 1000000000000) SELECT count(*) FROM c`

func openEmpty(t *testing.T) *Store {
	t.Helper()
	s, err := Open(context.Background(), emptyFolder(t))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := s.Close(); err != nil {
			t.Error(err)
		}
	})
	return s
}

func ofUser(id int64, short, long time.Duration) context.Context {
	return domain.WithAsking(context.Background(), domain.Asking{User: id, Short: short, Long: long})
}

// A question that takes too long ends with a word about it, and one that nobody waits for ends too.
func TestAsk_ends(t *testing.T) {
	s := openEmpty(t)
	n := 0
	var told *domain.StateError
	if err := s.Ask(ofUser(1, time.Second, 50*time.Millisecond), &n, endless); !errors.As(err, &told) || !strings.Contains(told.Why, "fewer tests") {
		t.Errorf("%v", err)
	}
	if err := s.get(ofUser(1, 50*time.Millisecond, time.Second), "count", &n, endless); !domain.Busy(err) {
		t.Errorf("a look-up: %v", err)
	}
	gone, leave := context.WithCancel(ofUser(1, time.Hour, time.Hour))
	ended := make(chan error, 1)
	go func() { ended <- s.Ask(gone, &n, endless) }()
	leave()
	if err := <-ended; !errors.Is(err, context.Canceled) {
		t.Errorf("nobody waits: %v", err)
	}
	// Within a transaction as well: it does not keep the writer.
	err := s.Within(ofUser(1, time.Second, 50*time.Millisecond), func(ctx context.Context) error { return s.Ask(ctx, &n, endless) })
	if !errors.As(err, &told) {
		t.Errorf("in a transaction: %v", err)
	}
	if err := s.Ask(context.Background(), &n, `SELECT 41 + 1`); err != nil || n != 42 {
		t.Errorf("afterwards: %d, %v", n, err)
	}
}

// However much one user asks, others are answered: their long questions and their look-ups.
func TestAsk_leavesRoom(t *testing.T) {
	s := openEmpty(t)
	hog, end := context.WithCancel(ofUser(1, time.Hour, time.Hour))
	var hogs sync.WaitGroup
	for range 20 {
		hogs.Go(func() {
			n := 0
			if err := s.Ask(hog, &n, endless); !errors.Is(err, context.Canceled) {
				t.Error(err)
			}
		})
	}
	for under := 0; under < perUser; {
		s.asking.mu.Lock()
		under = len(s.asking.open[1])
		s.asking.mu.Unlock()
		runtime.Gosched()
	}
	for user := int64(2); user < 12; user++ {
		n := 0
		ctx := ofUser(user, time.Minute, time.Minute) // no speed is measured: it comes to an end at all
		if err := s.Ask(ctx, &n, `SELECT count(*) FROM people`); err != nil {
			t.Fatal(err)
		}
		if _, err := s.CountUsers(ctx); err != nil {
			t.Fatal(err)
		}
	}
	third := 0
	var told *domain.StateError
	if err := s.Ask(ofUser(1, time.Second, 100*time.Millisecond), &third, `SELECT 1`); !errors.As(err, &told) {
		t.Errorf("the third question of one user: %v", err)
	}
	end()
	hogs.Wait()
}

// Work in the background rests as long as somebody waits for an answer, but not for ever.
func TestYield(t *testing.T) {
	s := openEmpty(t)
	asking, end := context.WithCancel(ofUser(1, time.Second, time.Minute))
	asked := make(chan struct{})
	go func() {
		defer close(asked)
		var n int
		_ = s.Ask(asking, &n, endless)
	}()
	for s.asking.waited.Load() == 0 {
		runtime.Gosched()
	}
	began := time.Now()
	s.Yield(context.Background(), 50*time.Millisecond)
	if took := time.Since(began); took < 200*time.Millisecond {
		t.Errorf("beside somebody who waits it rested %v, want four times the step", took)
	}
	gone, leave := context.WithCancel(context.Background())
	leave()
	s.Yield(gone, time.Hour) // the program ends
	end()
	<-asked
	s.Yield(context.Background(), time.Millisecond)
}
