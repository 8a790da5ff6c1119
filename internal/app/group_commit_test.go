package app_test

import (
	"sync"
	"testing"
	"time"

	"lucidletter/internal/domain"
	"lucidletter/internal/testbed"
)

// Many who open letters at once are all filed, each once.
func TestOpened_atOnce(t *testing.T) {
	b := testbed.New(t)
	var letters []domain.Letter
	for _, name := range []string{"ada", "bo", "cy", "di"} {
		l, _ := linked(t, b, b.Person(t, name, "Quill", name+"@quill.example"))
		letters = append(letters, l)
	}
	b.Pass(time.Hour)
	var all sync.WaitGroup
	for i := range 40 {
		all.Go(func() {
			if err := b.App.Desk.Opened(ctx, letters[i%4].Token, look); err != nil {
				t.Error(err)
			}
		})
		all.Go(func() {
			if err := b.App.Desk.Opened(ctx, "nobody's", look); err == nil {
				t.Error("a token of nobody was taken")
			}
		})
	}
	all.Wait()
	for _, l := range letters {
		if got := back(t, b, l.ID); got.Opens != 1 {
			t.Errorf("letter %d: %+v", l.ID, got)
		}
	}
}
