package lists

import (
	"context"
	"errors"
	"sync"
	"sync/atomic"
	"testing"

	"golang.org/x/sync/singleflight"
)

// What several ask at once is found out once; who gives up does not end it for the others.
func TestTogether(t *testing.T) {
	s := &Table{asked: &singleflight.Group{}}
	var found atomic.Int32
	begun, go_ := make(chan struct{}), make(chan struct{})
	gone, leave := context.WithCancel(context.Background())
	first := make(chan error, 1)
	go func() {
		_, err := together(gone, s, "same", func() (int, error) {
			close(begun)
			<-gone.Done()
			<-go_
			return 0, gone.Err()
		})
		first <- err
	}()
	<-begun
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			n, err := together(context.Background(), s, "same", func() (int, error) { found.Add(1); return 42, nil })
			if n != 42 || err != nil {
				t.Errorf("%d, %v; want 42", n, err)
			}
		})
	}
	leave()
	if err := <-first; !errors.Is(err, context.Canceled) {
		t.Errorf("who gave up got %v", err)
	}
	close(go_)
	all.Wait()
	if n := found.Load(); n == 0 {
		t.Error("nobody found it out")
	}
	broken := errors.New("broken")
	if _, err := together(context.Background(), s, "same", func() (int, error) { return 0, broken }); !errors.Is(err, broken) {
		t.Errorf("%v; want the error of the question", err)
	}
}
